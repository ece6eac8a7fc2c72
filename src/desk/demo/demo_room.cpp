// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/demo/demo_room.h"

#include "desk/demo/demo_lab.h"
#include "desk/shell/parts.h"
#include "virtual/analyser/analyser.h"
#include "virtual/chamber/chamber.h"
#include "virtual/table/xray_table.h"
#include "virtual/tank/tank.h"

#include <QHBoxLayout>

#include <algorithm>

#include <QCoreApplication>
#include <QDir>
#include <QStandardPaths>
#include <QTemporaryDir>

namespace fusain::desk {
namespace {
constexpr double table_hurry = 10;
}

DemoRoom::DemoRoom(double speed, quint64 seed, const Foreign& foreign, QObject* parent) : QObject(parent)
{
    QTemporaryDir folder(QDir::tempPath() + QStringLiteral("/fusain-room-XXXXXX"));
    folder.setAutoRemove(false);
    folder_ = folder.path();
    const auto of = [&](const char* instrument) {
        const auto at = foreign.find(QString::fromLatin1(instrument));
        return at == foreign.end() ? QStringList() : at->second;
    };
    for (const char* instrument : {"tank", "chamber", "analyser"})
        start(QString::fromLatin1(instrument), speed, seed, of(instrument));
    // seven minutes of lying still are not what a demo is for
    start(QStringLiteral("table"), std::min(100.0, table_hurry * speed), seed, of("table"), QStringLiteral("socket:"));
    if (!trouble_.isEmpty()) lines_.clear();
}

void DemoRoom::start(
    const QString& instrument, double speed, quint64 seed, const QStringList& foreign, const QString& prefix)
{
    const QString line = folder_ + '/' + instrument, control = line + QStringLiteral("-control");
    QString program = QCoreApplication::applicationDirPath() + QStringLiteral("/fusain-virtual");
    if (!QFile::exists(program)) program = QStandardPaths::findExecutable(QStringLiteral("fusain-virtual"));
    StandIn& s = *stand_ins_.emplace_back(std::make_unique<StandIn>());
    s.process.setProcessChannelMode(QProcess::ForwardedErrorChannel);
    QStringList words{instrument, QStringLiteral("--line"), line, QStringLiteral("--control"), control,
        QStringLiteral("--speed"), QString::number(speed), QStringLiteral("--seed"), QString::number(seed)};
    for (const QString& each : foreign)
        words << QStringLiteral("--foreign") << (each.contains(QStringLiteral("%1")) ? each.arg(folder_) : each);
    s.process.start(program, words);
    QByteArray said;
    while (s.process.state() != QProcess::NotRunning && !said.contains("ready") && s.process.waitForReadyRead(3000))
        said += s.process.readAllStandardOutput();
    if (!said.contains("ready")) {
        trouble_ = QStringLiteral("The virtual %1 (%2) could not be started: %3")
                       .arg(instrument, program, s.process.errorString());
        return;
    }
    lines_ << prefix + line;
    connect(&s.control, &QLocalSocket::readyRead, this, [this, &s] {
        while (s.control.canReadLine()) emit answered(QString::fromUtf8(s.control.readLine()).trimmed());
    });
    s.control.connectToServer(control);
    s.control.waitForConnected(2000);
}

void DemoRoom::ask_tank(const QString& words)
{
    if (stand_ins_.empty()) return;
    stand_ins_.front()->control.write(words.toUtf8() + '\n');
    stand_ins_.front()->control.flush();
}

DemoRoom::~DemoRoom()
{
    for (auto& s : stand_ins_) s->process.terminate();
    for (auto& s : stand_ins_) s->process.waitForFinished(2000);
    QDir(folder_).removeRecursively();
}

/// Everybody hears it; whom it does not concern does not know the word.
void DemoRoom::direct(const QString& words)
{
    for (auto& s : stand_ins_) {
        s->control.write(words.toUtf8() + '\n');
        s->control.flush();
    }
}

void DemoRoom::listen_to(work::Session& session)
{
    connect(&session, &work::Session::cue, this, &DemoRoom::direct);
    connect(&session, &work::Session::changed, this, [this, &session] {
        if (!session.is_open() || session.visit().subject.client_id == for_client_) return;
        for_client_ = session.visit().subject.client_id;
        const auto client = session.store().client(for_client_);
        QString body = client ? demo_body(*client) : QString();
        if (body.isEmpty() && client) // somebody who was added: an ordinary body of that height
            body = QStringLiteral("sex=%1 height=%2 fat=%3 ffm=%4 rv=1.3 vc=4.5")
                       .arg(QString::fromLatin1(word(client->sex)))
                       .arg(client->height_cm)
                       .arg(5.0 * client->height_cm * client->height_cm / 1e4)
                       .arg(17.5 * client->height_cm * client->height_cm / 1e4);
        if (!body.isEmpty()) direct(QStringLiteral("client ") + body);
    });
}

QWidget* DemoRoom::make_strip()
{
    auto* strip = new QWidget;
    strip->setObjectName(QStringLiteral("side"));
    auto* row = new QHBoxLayout(strip);
    row->setContentsMargins(22, 5, 22, 5);
    auto* words = label(
        "small", QStringLiteral(
                     "Demo: invented people, virtual instruments. The virtual client does what the screen asks for."));
    words->setWordWrap(false);
    row->addWidget(words);
    row->addStretch();
    row->addWidget(label("small", QStringLiteral("Make trouble:")));
    auto* box = new ChoiceBox;
    box->setObjectName(QStringLiteral("trouble_maker"));
    box->setFocusPolicy(Qt::ClickFocus);
    box->addItem(QStringLiteral("none"), QString());
    std::vector<QString> words_of_faults;
    const auto offer = [&](const auto& rows) {
        for (const auto& f : rows) {
            box->addItem(QString::fromUtf8(f.title), QString::fromLatin1(f.word));
            words_of_faults.push_back(QString::fromLatin1(f.word));
        }
    };
    offer(virt::faults());
    offer(virt::chamber_faults());
    offer(virt::analyser_faults());
    offer(virt::table_faults());
    box->addItem(QStringLiteral("presses the release button"), QStringLiteral("release"));
    box->addItem(QStringLiteral("line unplugged for 4 s"), QStringLiteral("unplug"));
    row->addWidget(box);
    connect(box, &QComboBox::activated, this, [this, box, words_of_faults] {
        for (const QString& fault : words_of_faults) direct(QStringLiteral("fault %1 off").arg(fault));
        const QString word_chosen = box->currentData().toString();
        if (word_chosen == QStringLiteral("unplug") || word_chosen == QStringLiteral("release")) {
            direct(word_chosen == QStringLiteral("unplug") ? QStringLiteral("unplug 4") : word_chosen);
            box->setCurrentIndex(0);
        } else if (!word_chosen.isEmpty()) {
            direct(QStringLiteral("fault %1 on").arg(word_chosen));
        }
    });
    return strip;
}

} // namespace fusain::desk

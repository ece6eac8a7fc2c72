// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/stage/stand_in_processes.h"

#include <algorithm>

#include <QCoreApplication>
#include <QDir>
#include <QStandardPaths>
#include <QTemporaryDir>

namespace fusain::desk {
namespace {
constexpr double table_hurry = 10;
constexpr int start_ms = 60000; ///< a machine that does much else

QStringList for_all(double speed, quint64 seed)
{
    return {QStringLiteral("--speed"), QString::number(speed), QStringLiteral("--seed"), QString::number(seed),
        QStringLiteral("--parent"), QString::number(QCoreApplication::applicationPid())};
}

} // namespace

QString program_beside(const QString& name)
{
    const QString beside = QCoreApplication::applicationDirPath() + '/' + name;
    return QFile::exists(beside) ? beside : QStandardPaths::findExecutable(name);
}

StandInProcesses::StandInProcesses(double speed, quint64 seed, const Foreign& foreign, QObject* parent)
    : StandIns(parent)
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
    if (trouble_.isEmpty())
        start_printer(speed, seed); // without it the others measure all the same
    else
        lines_.clear();
}

void StandInProcesses::start(
    const QString& instrument, double speed, quint64 seed, const QStringList& foreign, const QString& prefix)
{
    const QString line = folder_ + '/' + instrument, control = line + QStringLiteral("-control");
    QStringList words{instrument, QStringLiteral("--line"), line};
    for (const QString& each : foreign)
        words << QStringLiteral("--foreign") << (each.contains(QStringLiteral("%1")) ? each.arg(folder_) : each);
    run(QStringLiteral("fusain-virtual"), instrument, control, words + for_all(speed, seed));
    if (trouble_.isEmpty()) lines_ << prefix + line;
}

void StandInProcesses::start_printer(double speed, quint64 seed)
{
    if (!QDir().mkpath(printouts())) return;
    run(QStringLiteral("fusain-virtual-printer"), QStringLiteral("printer"),
        folder_ + QStringLiteral("/printer-control"),
        QStringList{QStringLiteral("--folder"), printouts()} + for_all(speed, seed));
}

void StandInProcesses::run(
    const QString& name, const QString& instrument, const QString& control, const QStringList& words)
{
    const QString program = program_beside(name);
    StandIn& s = *stand_ins_.emplace_back(std::make_unique<StandIn>());
    s.instrument = instrument;
    s.process.setProcessChannelMode(QProcess::ForwardedErrorChannel);
    s.process.start(program, words + QStringList{QStringLiteral("--control"), control});
    QByteArray said;
    while (s.process.state() != QProcess::NotRunning && !said.contains("ready") && s.process.waitForReadyRead(start_ms))
        said += s.process.readAllStandardOutput();
    if (!said.contains("ready")) {
        trouble_ = QStringLiteral("The virtual %1 (%2) could not be started: %3")
                       .arg(instrument, program, s.process.errorString());
        return;
    }
    connect(&s.control, &QLocalSocket::readyRead, this, [this, &s] {
        while (s.control.canReadLine()) emit answered(QString::fromUtf8(s.control.readLine()).trimmed());
    });
    s.control.connectToServer(control);
    s.control.waitForConnected(start_ms);
}

void StandInProcesses::ask(const QString& instrument, const QString& words)
{
    for (auto& s : stand_ins_)
        if (s->instrument == instrument) {
            s->control.write(words.toUtf8() + '\n');
            s->control.flush();
        }
}

StandInProcesses::~StandInProcesses()
{
    for (auto& s : stand_ins_) s->process.terminate();
    for (auto& s : stand_ins_) s->process.waitForFinished(2000);
    QDir(folder_).removeRecursively();
}

void StandInProcesses::direct(const QString& words)
{
    for (auto& s : stand_ins_) {
        s->control.write(words.toUtf8() + '\n');
        s->control.flush();
    }
}

} // namespace fusain::desk

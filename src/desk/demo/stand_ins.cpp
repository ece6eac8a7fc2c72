// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/demo/stand_ins.h"

#include "bench/printed/printed.h"
#include "desk/demo/demo_lab.h"
#include "desk/shell/parts.h"
#include "work/lab.h"
#include "virtual/analyser/analyser.h"
#include "virtual/chamber/chamber.h"
#include "virtual/table/xray_table.h"
#include "virtual/tank/tank.h"

#include <QHBoxLayout>

namespace fusain::desk {

void StandIns::listen_to(work::Session& session)
{
    connect(&session, &work::Session::cue, this, &StandIns::direct);
    connect(&session, &work::Session::changed, this, [this, &session] {
        if (session.is_open() && session.visit().next_step() == bench::step::printout &&
            printed_for_ != session.visit_id()) {
            printed_for_ = session.visit_id();
            // after the stand-ins have been told whose body it is, which happens below
            QMetaObject::invokeMethod(
                this,
                [this, number = q(session.visit().subject.number), age = session.visit().age_y(),
                    zone = session.store().zone_of(session.visit())] {
                    direct(QStringLiteral("print number=%1 age=%2 at=%3")
                               .arg(number)
                               .arg(static_cast<int>(age))
                               .arg(work::clock_now().toTimeZone(zone).toString(QStringLiteral("yyyy-MM-ddTHH:mm"))));
                },
                Qt::QueuedConnection);
        }
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

QWidget* StandIns::make_strip()
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

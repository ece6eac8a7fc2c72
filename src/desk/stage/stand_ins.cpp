// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/stage/stand_ins.h"

#include "bench/printed/printed.h"
#include "records/base/text.h"
#include "work/lab/lab.h"

namespace fusain::desk {

void StandIns::listen_to(work::Session& session, const Bodies& bodies)
{
    connect(&session, &work::Session::cue, this, &StandIns::direct);
    connect(&session, &work::Session::changed, this, [this, &session, bodies] {
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
        QString body = client && bodies ? bodies(*client) : QString();
        if (body.isEmpty() && client) // nobody knows it: an ordinary one of that height
            body = QStringLiteral("sex=%1 height=%2 fat=%3 ffm=%4 rv=1.3 vc=4.5")
                       .arg(QString::fromLatin1(word(client->sex)))
                       .arg(client->height_cm)
                       .arg(5.0 * client->height_cm * client->height_cm / 1e4)
                       .arg(17.5 * client->height_cm * client->height_cm / 1e4);
        if (!body.isEmpty()) direct(QStringLiteral("client ") + body);
    });
}

} // namespace fusain::desk

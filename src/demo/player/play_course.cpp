// SPDX-License-Identifier: GPL-3.0-or-later
// The demo's player over time: the day that was just measured, then somebody with a year behind her.
#include "demo/player/demo_player.h"

#include <QDir>
#include <QLineEdit>

namespace fusain::desk {

void DemoPlayer::play_course()
{
    const auto always = [] { return true; };
    add(QStringLiteral("the client's course"), always,
        [this] { window_.show_course(window_.session().visit().subject.client_id); });
    add_press(QStringLiteral("course_day"));
    add_press(QStringLiteral("combine"));
    shot_when("course-day", always);
    add(QStringLiteral("somebody with a year behind her"), always, [this] {
        for (const records::Client& c : window_.lab().store->find_clients(QStringLiteral("abgrall"), 1))
            window_.show_course(c.id);
    });
    for (const auto& [view, picture] : {std::pair{"course_balance", "course-balance"},
             {"course_energy", "course-energy"}, {"course_tape", "course-tape"}, {"course_plan", "course-plan"}}) {
        add_press(QString::fromLatin1(view));
        shot_when(picture, always);
    }
    add_press(QStringLiteral("course_change"));
    add_press(QStringLiteral("against_first"));
    shot_when("course-change", always);
    add_press(QStringLiteral("course_talk"));
    for (int i = 0; i < 4; ++i) add_press(QStringLiteral("talk_on"));
    shot_when("course-talk", always);
    for (int i = 0; i < 2; ++i) add_press(QStringLiteral("talk_on"));
    add(QStringLiteral("what is agreed"), always, [this] {
        if (auto* step = window_.findChild<QLineEdit*>(QStringLiteral("step_1")))
            step->setText(QStringLiteral("two evenings with weights"));
    });
    add_press(QStringLiteral("keep_steps"));
    shot_when("course-agreed", always);
    add_press(QStringLiteral("talk_sheet"));
    add(QStringLiteral("keep the sheet of the course"), always, [this] {
        const QDir sheets(window_.lab().folder() + QStringLiteral("/sheets"));
        const QStringList newest = sheets.entryList({QStringLiteral("visit*-client.pdf")}, QDir::Files, QDir::Time);
        QFile::remove(out_ + QStringLiteral("/course-client-sheet.pdf"));
        if (!newest.isEmpty())
            QFile::copy(sheets.filePath(newest.front()), out_ + QStringLiteral("/course-client-sheet.pdf"));
    });
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
// A visit that is taken up from the strip and put down somewhere else.
#include "desk/day/day_page.h"
#include "records/base/clock.h"

#include <algorithm>

namespace fusain::desk {

using records::Booking;
using schedule::Minute;

void DayPage::begin_move()
{
    held_ = lab_.diary->booking(strip_->selected());
    if (!held_) return;
    held_by_ = 0;
    held_lanes_ = 0;
    keys_->hide();
    move_keys_->show();
    moving_->show();
    chosen_->hide();
    move_by(0, 0);
    setFocus(Qt::OtherFocusReason);
}

void DayPage::move_by(Minute by, int lanes_down)
{
    if (!held_) return;
    held_by_ += by;
    held_lanes_ += lanes_down;
    strip_->hold(held_->id, held_by_, held_lanes_);
    // what it would clash with is said while it is held
    schedule::Lab l = lab_.planning(day_, day_, held_->id);
    for (schedule::Slot s : held_->parts) {
        s.at = {s.at.from + held_by_, s.at.to + held_by_};
        l.tests.push_back(s);
    }
    QString clash;
    for (const schedule::Conflict& c : schedule::conflicts(l))
        if (std::find(c.visits.begin(), c.visits.end(), held_->id) != c.visits.end() && clash.isEmpty())
            clash = q(c.words);
    moving_->setText(
        QStringLiteral("%1 at %2%3")
            .arg(lab_.name_of(held_->client_id),
                records::local_of(held_->from() + held_by_, lab_.diary->zone()).toString(QStringLiteral("HH:mm")),
                clash.isEmpty() ? QString() : QStringLiteral("  ◆ ") + clash));
}

void DayPage::end_move(bool keep)
{
    if (!held_) return;
    const Booking b = *held_;
    held_.reset();
    strip_->let_go();
    move_keys_->hide();
    moving_->hide();
    keys_->show();
    if (keep) {
        auto parts = b.parts;
        const auto all = lanes();
        for (schedule::Slot& s : parts) {
            s.at = {s.at.from + held_by_, s.at.to + held_by_};
            if (!held_lanes_) continue;
            for (std::size_t i = 0; i < all.size(); ++i) {
                const int to = static_cast<int>(i) + held_lanes_;
                if (all[i]->serial.toStdString() != s.instrument || to < 0 || to >= static_cast<int>(all.size()))
                    continue;
                if (all[static_cast<std::size_t>(to)]->kind->method == s.method) {
                    s.instrument = all[static_cast<std::size_t>(to)]->serial.toStdString();
                    break;
                }
            }
        }
        place(b, parts);
    }
    show_chosen();
}

void DayPage::place(const Booking& before, const std::vector<schedule::Slot>& parts)
{
    Booking b = before;
    b.parts = parts;
    // a clash is said and marked on the strip, not hidden; the technician may want it for a moment
    const auto stored = lab_.diary->change(b, true);
    if (!stored) {
        emit trouble(q(stored.messages().front().text));
    } else if (!stored.messages().empty()) {
        emit trouble(QStringLiteral("Moved, but: %1").arg(q(stored.messages().front().text)));
    } else if (!before.sheet_sent_at.isEmpty()) {
        emit trouble(QStringLiteral("Moved. The client's sheet has the old times: send it again (S)."));
    }
    refresh();
    choose(before.id);
}

} // namespace fusain::desk

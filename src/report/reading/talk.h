// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/reading/reading_words.h"

#include <memory>

/// What is told to the client, in the order people have found to work: one picture and one sentence at a time. The
/// sheet's second page is made of the same.
namespace fusain::report {

struct Slide {
    QString id;       ///< sure, sum, balance, where, change, energy, steps, next
    QString sentence; ///< large
    QString more;     ///< under it; may be empty
    std::function<void(QPainter&, const QRectF&, const look::Palette&, int em)> picture; ///< may be empty
};

struct TalkAbout {
    const work::Reading* reading = nullptr;
    std::shared_ptr<const bench::Visit> visit; ///< of the main test, for its own picture; null: none
    MassUnit unit;
    const work::Told* told = nullptr; ///< what was agreed, once it is
    QString next_visit;               ///< "8 January 2027, 09:00"; empty: nothing is booked
};
/// Nothing to tell (no test with a result): one slide that says so.
/// A client who is told without numbers: what was done, what to watch, what was agreed, when to come again.
std::vector<Slide> talk(const TalkAbout& about);
/// "You were measured by …; no number is told."
QString quiet_words(const work::Measurement& measurement);

} // namespace fusain::report

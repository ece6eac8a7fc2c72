// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/look.h"
#include "work/practice/practice.h"

#include <QPainter>

/// Drills in words and as a picture.
namespace fusain::report {

/// One run, by the number that is better when smaller.
struct RunDot {
    QDateTime at;
    double measure = 0;
    bool passed = false;
};
/// Runs one after the other inside the band that runs by themselves scatter in; what is asked for as a line.
void draw_progress(QPainter& painter, const QRectF& area, const std::vector<RunDot>& runs, const QString& unit,
    double asked_for, const look::Palette& palette, int em);

/// What a run has shown: bias, spread, own precision, beside the reader; faults missed and called wrongly; time; the
/// dearest mistake.
QString marks_words(const work::DrillRun& run, const QString& why);
QString progress_words(const practice::Progress& progress);

} // namespace fusain::report

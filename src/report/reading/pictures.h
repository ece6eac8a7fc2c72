// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/body/plan.h"
#include "core/time/change.h"
#include "core/base/person.h"
#include "report/page/figures.h"

#include <QDate>

/// Pictures of reading over time, drawn alike on the screen and on paper. `em`: the text size in pixels.
namespace fusain::report {

/// The balance plane: fat-free against fat mass index. Percent fat is a ray, body mass index a diagonal; the box is the
/// reference's. The path runs from the first to the last point.
struct BalancePoint {
    double ffmi = 0, fmi = 0;
    QString label;
    double u_ffmi = 0, u_fmi = 0; ///< of the last: drawn as a smudge
};
struct BalancePicture {
    Sex sex = Sex::female;
    bool adult = true; ///< else the box is not theirs and left out
    std::vector<BalancePoint> path;
};
void draw_balance(
    QPainter& painter, const QRectF& area, const BalancePicture& picture, const look::Palette& palette, int em);

/// The change band: a quantity over time, and the band around one visit within which a change cannot be told from
/// noise.
struct ChangePoint {
    double day = 0; ///< days from any fixed day, with their fraction
    double value = 0;
    bool comparable = true; ///< with the visit the band lies around
    bool real = false;      ///< its change passes the band
    double lsc = 0;         ///< what its change was held against; 0: no repeatability is known
    QString detail;         ///< told when the pointer is on it
};
struct ChangePicture {
    std::vector<ChangePoint> points;
    int around = 0;                     ///< the visit that changes are held against
    std::optional<change::Trend> trend; ///< through those that can be compared with the last
    QString unit;
    int decimals = 1;
    double factor = 1; ///< to the unit that is shown
    QColor ink;        ///< of the tissue
};
/// What of the picture is seen, and where the pointer is.
struct ChangeSeen {
    double from_day = 0, to_day = 0; ///< equal: everything
    int pointed = -1;
};
struct ChangePlace {
    QRectF plot;
    double from_day = 0, to_day = 1, low = 0, high = 1;
    QPointF at(double day, double value) const
    {
        return {plot.left() + (day - from_day) / (to_day - from_day) * plot.width(),
            plot.bottom() - (value - low) / (high - low) * plot.height()};
    }
};
ChangePlace place_change(const QRectF& area, const ChangePicture& picture, const ChangeSeen& seen, int em);
void draw_change(QPainter& painter, const QRectF& area, const ChangePicture& picture, const ChangeSeen& seen,
    const look::Palette& palette, int em);

/// Where the mass went: fat and fat-free growing away from a line, each with the band of noise; their sum is what the
/// scale says.
void draw_moved(QPainter& painter, const QRectF& area, const change::Moved& moved, const look::Palette& palette, int em,
    const MassUnit& unit = {});

/// A plan on its time axis: the way with its doubt, the target, what was measured since.
struct PlanPicture {
    QDate start, target_day;
    std::vector<plan::Day> way; ///< day by day, to the end of the picture
    plan::Band band;
    double target_percent = 0;
    double start_percent = 0, lsc = 0;
    std::optional<QDate> earliest, next;
    struct Measured {
        QDate day;
        double percent = 0, u = 0;
    };
    std::vector<Measured> since;
    bool refused = false;
    QString arrives;                       ///< what one arrives with, in words; empty: the aim is refused
    std::optional<double> nearest_percent; ///< that is safe, where the aim is not
};
struct PlanPlace {
    QRectF plot;
    int days = 1;
    double low = 0, high = 1;
    double x(double day) const { return plot.left() + day / days * plot.width(); }
    double y(double percent) const { return plot.bottom() - (percent - low) / (high - low) * plot.height(); }
    double day_at(double x) const { return (x - plot.left()) / plot.width() * days; }
    double percent_at(double y) const { return low + (plot.bottom() - y) / plot.height() * (high - low); }
};
PlanPlace place_plan(const QRectF& area, const PlanPicture& picture, int em);
void draw_plan(QPainter& painter, const QRectF& area, const PlanPicture& picture, const look::Palette& palette, int em);

/// Days of four kinds beside what is eaten: need as a bar from rest on, the client's own account as a line across.
struct DayCost {
    QString title;
    double kcal = 0;
    bool chosen = false;
};
void draw_days(QPainter& painter, const QRectF& area, double resting_kcal, const std::vector<DayCost>& days,
    std::optional<double> food_kcal, const look::Palette& palette, int em);

} // namespace fusain::report

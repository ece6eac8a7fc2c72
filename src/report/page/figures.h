// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"
#include "core/density/densitometry.h"
#include "core/body/reference.h"
#include "report/page/look.h"

#include <QPainter>

/// Pictures that carry the work, drawn alike on the screen and on paper. `em` is the text size in pixels of the
/// painter.
namespace fusain::report {

/// The unit masses are written in: the sheets are metric, the screen follows the technician.
struct MassUnit {
    double per_kg = 1;
    QString word = QStringLiteral("kg");
};

/// The density ladder: what was lost in water, each correction with its size, body volume. The axis is cut before the
/// first step.
void draw_ladder(QPainter& painter, const QRectF& area, const std::vector<Rung>& ladder, const look::Palette& palette,
    int em, const MassUnit& unit = {});

/// Where the doubt comes from: the inputs ranked by their share of the variance.
void draw_budget(
    QPainter& painter, const QRectF& area, const uncertainty::Budget& budget, const look::Palette& palette, int em);

/// How many rows draw_budget needs.
int budget_rows(const uncertainty::Budget& budget);

/// Results of different methods on one person, side by side: each with its doubt, never joined.
struct BesideRow {
    QString title, detail;
    double fat_percent = 0, u = 0;
    bool now = false;
};
void draw_beside(
    QPainter& painter, const QRectF& area, const std::vector<BesideRow>& rows, const look::Palette& palette, int em);

/// Percent fat on the chosen range: the range as a band, the value as a mark, its doubt as a smudge.
void draw_range(QPainter& painter, const QRectF& area, double fat_percent, double u,
    const std::optional<reference::Place>& place, const look::Palette& palette, int em);

/// Mass as fat and fat-free, a bar that adds up.
void draw_split(
    QPainter& painter, const QRectF& area, double fat_kg, double fat_free_kg, const look::Palette& palette, int em);

} // namespace fusain::report

// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/likeness.h"

#include <algorithm>
#include <cmath>

namespace fusain::xray {
namespace {

using Eigen::Index;

constexpr double step_mm = 2; ///< between which the worth of a millimetre is taken

double at(const StringRow& row, const Lines& lines, const Spot& of)
{
    if (row.height) return lines.*row.height;
    return row.level ? y_at(lines.*row.line, of.x_mm) : x_at(lines.*row.line, of.y_mm);
}

} // namespace

Frame frame_of(const Mask& area, const Lines& lines, double dx, double dy)
{
    Frame out;
    Index first = -1, last = -1, from = -1, to = -1;
    double sum = 0;
    int rows = 0;
    for (Index r = 0; r < area.rows(); ++r) {
        if (!area.row(r).any()) continue;
        if (first < 0) first = r;
        last = r;
        const double y = (static_cast<double>(r) + 0.5) * dy;
        if (y < lines.neck_mm || y > lines.pelvis_mm) continue;
        const auto column = [&](double x) { return std::clamp<Index>(std::lround(x / dx), 0, area.cols()); };
        from = column(x_at(lines.right_arm, y));
        to = column(x_at(lines.left_arm, y));
        while (from < to && !area(r, from)) ++from;
        while (to > from && !area(r, to - 1)) --to;
        if (to <= from) continue;
        sum += static_cast<double>(from + to) / 2 * dx;
        ++rows;
    }
    out.crown_mm = static_cast<double>(std::max<Index>(0, first)) * dy;
    out.soles_mm = static_cast<double>(last + 1) * dy;
    out.middle_mm = rows > 0 ? sum / rows : static_cast<double>(area.cols()) / 2 * dx;
    return out;
}

Lines carried(const Lines& lines, const Frame& from, const Frame& to)
{
    const double scale = from.length_mm() > 0 ? to.length_mm() / from.length_mm() : 1;
    const auto y = [&](double mm) { return to.crown_mm + scale * (mm - from.crown_mm); };
    Lines out = lines;
    out.neck_mm = y(lines.neck_mm);
    out.pelvis_mm = y(lines.pelvis_mm);
    for (const LineRow& row : line_rows)
        for (Spot& s : out.*row.line) s = {to.middle_mm + scale * (s.x_mm - from.middle_mm), y(s.y_mm)};
    return out;
}

Lines moved(Lines lines, String string, int knot, double dx, double dy)
{
    const StringRow& r = row(string);
    if (r.height) {
        lines.*r.height += dy;
        return lines;
    }
    Polyline& line = lines.*r.line;
    for (std::size_t i = 0; i < line.size(); ++i) {
        if (knot >= 0 && static_cast<int>(i) != knot) continue;
        line[i].x_mm += knot >= 0 || !r.level ? dx : 0;
        line[i].y_mm += knot >= 0 || r.level ? dy : 0;
    }
    return lines;
}

Mass per_mm(const Composition& scan, const Lines& lines, String string)
{
    const StringRow& r = row(string);
    const auto held = [&](double mm) {
        return regions(scan, moved(lines, string, -1, r.level ? 0 : mm, r.level ? mm : 0))[index(r.region)];
    };
    const Mass more = held(step_mm / 2), less = held(-step_mm / 2);
    return {(more.fat_g - less.fat_g) / step_mm, (more.lean_g - less.lean_g) / step_mm,
        (more.bmc_g - less.bmc_g) / step_mm, (more.area_cm2 - less.area_cm2) / step_mm};
}

std::vector<Apart> apart(const Composition& scan, const Lines& now, const Lines& last)
{
    std::vector<Apart> out;
    const Regions today = regions(scan, now);
    for (std::size_t i = 0; i < string_count; ++i) {
        const StringRow& r = string_rows[i];
        Apart a{static_cast<String>(i)};
        Lines as_last = now;
        if (r.height) {
            a.mm = now.*r.height - last.*r.height;
            as_last.*r.height = last.*r.height;
        } else {
            for (const Spot& s : now.*r.line) a.mm += at(r, now, s) - at(r, last, s);
            a.mm /= static_cast<double>(std::max<std::size_t>(1, (now.*r.line).size()));
            as_last.*r.line = last.*r.line;
        }
        a.grams = today[index(r.region)].total_g() - regions(scan, as_last)[index(r.region)].total_g();
        out.push_back(a);
    }
    return out;
}

} // namespace fusain::xray

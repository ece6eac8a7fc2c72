// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/lines.h"

#include "core/base/limits.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace fusain::xray {
namespace {

/// Straight through two points, read at `at`; `along` and `across` name the axes.
double between(const Spot& a, const Spot& b, double at, double Spot::*along, double Spot::*across)
{
    const double run = b.*along - a.*along;
    return std::abs(run) < 1e-9 ? a.*across : a.*across + (at - a.*along) * (b.*across - a.*across) / run;
}

double read(const Polyline& line, double at, double Spot::*along, double Spot::*across)
{
    if (line.size() < 2) return line.empty() ? 0 : line[0].*across;
    std::size_t i = 0;
    while (i + 2 < line.size() && at > line[i + 1].*along) ++i;
    return between(line[i], line[i + 1], at, along, across);
}

/// What part of a pixel lies under a border, in its own steps.
double part(double border, double from, double step) { return std::clamp((border - from) / step, 0.0, 1.0); }

using Shares = std::array<double, region_count>;

/// What each region takes of each pixel that is wanted.
template <class Wanted, class Take>
void each_pixel(const Lines& lines, Eigen::Index rows, Eigen::Index columns, double dx, double dy, const Wanted& wanted,
    const Take& take)
{
    std::vector<double> right_leg(static_cast<std::size_t>(columns)), left_leg(right_leg.size());
    for (std::size_t c = 0; c < right_leg.size(); ++c) {
        const double x = (static_cast<double>(c) + 0.5) * dx;
        right_leg[c] = y_at(lines.right_leg, x);
        left_leg[c] = y_at(lines.left_leg, x);
    }
    const Bands at_waist_and_hips = bands(lines);
    for (Eigen::Index r = 0; r < rows; ++r) {
        const double top = static_cast<double>(r) * dy, y = top + dy / 2;
        const double head = part(lines.neck_mm, top, dy);
        const double right_arm = x_at(lines.right_arm, y), left_arm = x_at(lines.left_arm, y),
                     middle = x_at(lines.between_legs, y);
        const auto band = [&](double from, double to) { return part(to, top, dy) - part(from, top, dy); };
        const double android = band(at_waist_and_hips.android_top, at_waist_and_hips.android_bottom),
                     gynoid = band(at_waist_and_hips.gynoid_top, at_waist_and_hips.gynoid_bottom);
        for (Eigen::Index c = 0; c < columns; ++c) {
            if (!wanted(r, c)) continue;
            const double left = static_cast<double>(c) * dx;
            const double arm_r = (1 - head) * part(right_arm, left, dx),
                         arm_l = (1 - head) * (1 - part(left_arm, left, dx));
            const double rest = std::max(0.0, 1 - head - arm_r - arm_l), right_side = part(middle, left, dx);
            const auto at = static_cast<std::size_t>(c);
            const double leg_r = rest * right_side * (1 - part(right_leg[at], top, dy)),
                         leg_l = rest * (1 - right_side) * (1 - part(left_leg[at], top, dy));
            take(r, c, Shares{head, arm_r, arm_l, rest - leg_r - leg_l, leg_r, leg_l, android * rest, gynoid * rest});
        }
    }
}

} // namespace

double x_at(const Polyline& line, double y_mm) { return read(line, y_mm, &Spot::y_mm, &Spot::x_mm); }
double y_at(const Polyline& line, double x_mm)
{
    if (line.size() < 2 || line.front().x_mm <= line.back().x_mm) return read(line, x_mm, &Spot::x_mm, &Spot::y_mm);
    return read(Polyline(line.rbegin(), line.rend()), x_mm, &Spot::x_mm, &Spot::y_mm);
}

Messages check(const Lines& lines, double width_mm, double height_mm)
{
    Messages bad;
    const auto say = [&](const char* code, const std::string& field, const std::string& text) {
        bad.push_back({code, Level::error, field, text});
    };
    for (const auto& [name, y] : {std::pair{"neck", lines.neck_mm}, {"pelvis", lines.pelvis_mm}})
        if (!(y > 0 && y < height_mm))
            say("out_of_range", std::string("lines.") + name,
                std::string("lines.") + name + " is " + limits::plain(y, 1) +
                    " mm; allowed is inside the picture, 0 to " + limits::plain(height_mm, 1) + " mm.");
    for (const LineRow& row : line_rows) {
        const Polyline& line = lines.*row.line;
        const std::string field = std::string("lines.") + row.id;
        if (line.size() < 2) {
            say("missing_field", field,
                field + " has " + std::to_string(line.size()) + " points; two or more are needed.");
            continue;
        }
        for (std::size_t i = 0; i < line.size(); ++i) {
            if (!(std::abs(line[i].x_mm) <= 10 * width_mm && std::abs(line[i].y_mm) <= 10 * height_mm))
                say("out_of_range", field, field + " has a point that is no place in the picture.");
            if (i > 0 && !(line[i].y_mm > line[i - 1].y_mm))
                say("lines_order", field,
                    "The " + std::string(row.title) + " must run from top to bottom; its point " +
                        std::to_string(i + 1) + " lies at " + limits::plain(line[i].y_mm, 1) +
                        " mm, not under the one before.");
        }
    }
    if (!bad.empty()) return bad;
    if (!(lines.neck_mm < lines.pelvis_mm))
        say("lines_cross", "lines.pelvis",
            "The pelvis (" + limits::plain(lines.pelvis_mm, 1) + " mm) must lie under the neck (" +
                limits::plain(lines.neck_mm, 1) + " mm).");
    for (double y = lines.neck_mm; y < height_mm; y += height_mm / 200) {
        const double right = x_at(lines.right_arm, y), left = x_at(lines.left_arm, y);
        if (!(right < left)) {
            say("lines_cross", "lines.right_arm",
                "The arms' lines cross at " + limits::plain(y, 0) +
                    " mm: the right arm's must stay left of the left arm's.");
            break;
        }
    }
    return bad;
}

std::vector<Image> shares(const Lines& lines, Eigen::Index rows, Eigen::Index columns, double dx, double dy)
{
    std::vector<Image> out(region_count, Image::Zero(rows, columns));
    each_pixel(
        lines, rows, columns, dx, dy, [](Eigen::Index, Eigen::Index) { return true; },
        [&](Eigen::Index r, Eigen::Index c, const Shares& share) {
            for (std::size_t i = 0; i < region_count; ++i) out[i](r, c) = share[i];
        });
    return out;
}

Regions regions(const Composition& scan, const Lines& lines)
{
    Regions out{};
    const double area = scan.pixel_cm2();
    const auto holds_something = [&](Eigen::Index r, Eigen::Index c) {
        return scan.area(r, c) || scan.fat(r, c) != 0 || scan.lean(r, c) != 0 || scan.bone(r, c) != 0;
    };
    each_pixel(lines, scan.fat.rows(), scan.fat.cols(), scan.dx_mm, scan.dy_mm, holds_something,
        [&](Eigen::Index r, Eigen::Index c, const Shares& share) {
            const Mass here{
                area * scan.fat(r, c), area * scan.lean(r, c), area * scan.bone(r, c), scan.area(r, c) ? area : 0};
            for (std::size_t i = 0; i < region_count; ++i)
                if (share[i] > 0)
                    out[i] += {
                        share[i] * here.fat_g, share[i] * here.lean_g, share[i] * here.bmc_g, share[i] * here.area_cm2};
        });
    return out;
}

} // namespace fusain::xray

// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/visceral.h"

#include <algorithm>
#include <cmath>

namespace fusain::xray {
namespace {

using Eigen::Index;

constexpr double fat_g_per_mm = 0.0907, lean_g_per_mm = 0.1055; ///< g/cm² in a millimetre
constexpr double marbling = 0.045;                              ///< fat within muscle and organs, of the lean
constexpr double outer = 0.74, rim = 0.97;                      ///< of the half width: where no organs lie
constexpr double fat_kg_per_l = 0.94;
constexpr double least_half_mm = 60;
constexpr int fewest_slices = 5;
constexpr double u_share = 0.35, u_floor_g = 80; ///< of one body beside another: benchmarks/scan_accuracy

double chord(double half, double depth, double x)
{
    return half > 0 && std::abs(x) < half ? 2 * depth * std::sqrt(1 - x * x / (half * half)) : 0;
}

/// A row of the trunk inside the arms' lines.
struct Row {
    double middle = 0, half = 0, depth = 0; ///< mm
    Index r = 0, from = 0, to = 0;
};

} // namespace

std::optional<Visceral> visceral_fat(const Composition& scan, const Lines& lines)
{
    const Bands band = bands(lines);
    std::vector<Row> rows;
    for (Index r = 0; r < scan.fat.rows(); ++r) {
        const double y = (static_cast<double>(r) + 0.5) * scan.dy_mm;
        if (y < band.android_top || y > band.android_bottom) continue;
        const auto column = [&](double x) {
            return std::clamp<Index>(static_cast<Index>(std::lround(x / scan.dx_mm)), 0, scan.fat.cols());
        };
        Row row;
        row.r = r;
        row.from = column(x_at(lines.right_arm, y));
        row.to = column(x_at(lines.left_arm, y));
        while (row.from < row.to && !scan.area(r, row.from)) ++row.from;
        while (row.to > row.from && !scan.area(r, row.to - 1)) --row.to;
        row.half = static_cast<double>(row.to - row.from) * scan.dx_mm / 2;
        if (row.half < least_half_mm) continue;
        row.middle = static_cast<double>(row.from + row.to) * scan.dx_mm / 2;
        double area = 0, oval = 0; // depth by the whole section: half·depth·π = ∫ thickness
        for (Index c = row.from; c < row.to; ++c) {
            area += (scan.fat(r, c) / fat_g_per_mm + scan.lean(r, c) / lean_g_per_mm) * scan.dx_mm;
            const double x = (static_cast<double>(c) + 0.5) * scan.dx_mm - row.middle;
            oval += chord(row.half, 1, x) * scan.dx_mm;
        }
        row.depth = area / oval;
        rows.push_back(row);
    }
    if (static_cast<int>(rows.size()) < fewest_slices) return std::nullopt;

    const auto expected = [&](const Row& row, double x, double coat, double lean) {
        return fat_g_per_mm *
                   (chord(row.half, row.depth, x) - chord(row.half - coat, std::max(1.0, row.depth - coat), x)) +
               marbling / (1 - marbling) * lean;
    };
    // the coat that leaves the outer parts explained
    const auto left_over = [&](double coat) {
        double sum = 0;
        for (const Row& row : rows)
            for (Index c = row.from; c < row.to; ++c) {
                const double x = (static_cast<double>(c) + 0.5) * scan.dx_mm - row.middle, at = std::abs(x) / row.half;
                if (at > outer && at < rim) sum += scan.fat(row.r, c) - expected(row, x, coat, scan.lean(row.r, c));
            }
        return sum;
    };
    double thin = 0, thick = 0.9 * std::min_element(rows.begin(), rows.end(), [](const Row&a, const Row&b) {
        return a.depth < b.depth;
    })->depth;
    if (left_over(thin) <= 0 || left_over(thick) >= 0) return std::nullopt;
    for (int i = 0; i < 50; ++i) {
        const double mid = (thin + thick) / 2;
        (left_over(mid) > 0 ? thin : thick) = mid;
    }
    double grams = 0;
    for (const Row& row : rows)
        for (Index c = row.from; c < row.to; ++c) {
            const double x = (static_cast<double>(c) + 0.5) * scan.dx_mm - row.middle;
            if (std::abs(x) > outer * row.half) continue;
            grams += scan.pixel_cm2() * (scan.fat(row.r, c) - expected(row, x, thin, scan.lean(row.r, c)));
        }
    Visceral out;
    out.mass_g = std::max(0.0, grams);
    out.u_g = std::hypot(u_floor_g, u_share * out.mass_g);
    out.area_cm2 = out.mass_g / fat_kg_per_l / (0.1 * scan.dy_mm * static_cast<double>(rows.size()));
    return out;
}

} // namespace fusain::xray

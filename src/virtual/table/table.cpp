// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/table/table.h"

#include <cmath>

namespace fusain::virt {
namespace {

using Eigen::Index;
using xray::Image;

constexpr double metal_low = 9, metal_high = 7; ///< nothing gets through

/// A picture whose rows lie so many millimetres further to the right, in parts of pixels.
Image moved(const Image& image, const Eigen::ArrayXd& by_px)
{
    Image out = Image::Zero(image.rows(), image.cols());
    for (Index r = 0; r < image.rows(); ++r) {
        const double whole = std::floor(by_px(r)), part = by_px(r) - whole;
        for (Index c = 0; c < image.cols(); ++c) {
            const auto from = c - static_cast<Index>(whole);
            const auto value = [&](Index at) { return at >= 0 && at < image.cols() ? image(r, at) : 0.0; };
            out(r, c) = (1 - part) * value(from) + part * value(from - 1);
        }
    }
    return out;
}

} // namespace

xray::Table stand_in_table()
{
    xray::Table t;
    t.id = "stand_in_table_1";
    t.low = {0.2312, 0.2744, 1.015};
    t.high = {0.1905, 0.1978, 0.356};
    t.field_width_mm = 660;
    t.field_height_mm = 1980;
    return t;
}

xray::Map scan(const TrueMap& body, const xray::Table& table, const Beam& beam, const ScanFaults& faults, unsigned seed)
{
    const Index rows = body.fat.rows();
    Eigen::ArrayXd by = Eigen::ArrayXd::Constant(rows, faults.shifted_mm / body.dx_mm);
    for (Index r = 0; r < rows; ++r) {
        const double share = static_cast<double>(r) / static_cast<double>(rows);
        if (share >= faults.motion_at && share < faults.back_at) by(r) += faults.motion_mm / body.dx_mm;
    }
    const auto seen = [&](const Image& tissue) { return moved(xray::blurred(tissue, beam.blur_px), by); };
    const Image fat = seen(body.fat), lean = seen(body.lean), bone = seen(body.bone);
    std::mt19937_64 random(seed);
    const auto energy = [&](const xray::Attenuation& mu, double photons_per_mm2, double drift, double metal) {
        Image log = (1 + drift) * (mu.fat * fat + mu.lean * lean + mu.bone * bone);
        const double photons = photons_per_mm2 * body.dx_mm * body.dy_mm;
        std::normal_distribution<double> normal;
        const double middle = body.dx_mm * static_cast<double>(log.cols()) / 2;
        for (Index r = 0; r < rows; ++r)
            for (Index c = 0; c < log.cols(); ++c) {
                const double x = (static_cast<double>(c) + 0.5) * body.dx_mm - middle;
                if (faults.metal_mm > 0 && std::abs(x) < faults.metal_mm / 2 &&
                    std::abs(static_cast<double>(r) / static_cast<double>(rows) - 0.42) < 0.012)
                    log(r, c) += metal;
                const double expected = photons * std::exp(-log(r, c));
                // few photons are counted one by one
                const double counted = expected > 50
                                           ? expected + std::sqrt(expected) * normal(random)
                                           : static_cast<double>(std::poisson_distribution<long>(expected)(random));
                log(r, c) = -std::log(std::max(0.5, counted) / photons);
            }
        return log;
    };
    xray::Map out;
    out.dx_mm = body.dx_mm;
    out.dy_mm = body.dy_mm;
    out.low = energy(table.low, beam.low_photons_per_mm2, beam.table_drift, metal_low);
    out.high = energy(table.high, beam.high_photons_per_mm2, 0, metal_high);
    if (faults.frames_swapped) std::swap(out.low, out.high);
    return out;
}

} // namespace fusain::virt

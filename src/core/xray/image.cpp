// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/image.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace fusain::xray {
namespace {

constexpr double widest_exact_sd = 2.5; ///< over it, three running means are the same to the eye and to the sums

std::vector<double> kernel(double sd)
{
    const int reach = std::max(1, static_cast<int>(std::ceil(4 * sd)));
    std::vector<double> k(static_cast<std::size_t>(reach) + 1);
    double sum = 0;
    for (std::size_t i = 0; i < k.size(); ++i) {
        const auto d = static_cast<double>(i);
        k[i] = std::exp(-d * d / (2 * sd * sd));
        sum += i ? 2 * k[i] : k[i];
    }
    for (double& w : k) w /= sum;
    return k;
}

/// Half width of a running mean, three of which spread by `sd`.
int half_width(double sd) { return std::max(1, static_cast<int>(std::lround((std::sqrt(4 * sd * sd + 1) - 1) / 2))); }

void running_mean(std::vector<double>& line, std::vector<double>& before, int half)
{
    const auto n = static_cast<int>(line.size());
    before.assign(line.size() + 1, 0);
    for (int i = 0; i < n; ++i)
        before[static_cast<std::size_t>(i) + 1] =
            before[static_cast<std::size_t>(i)] + line[static_cast<std::size_t>(i)];
    for (int i = 0; i < n; ++i)
        line[static_cast<std::size_t>(i)] = (before[static_cast<std::size_t>(std::min(n, i + half + 1))] -
                                                before[static_cast<std::size_t>(std::max(0, i - half))]) /
                                            (2 * half + 1);
}

/// Along every column; the caller turns the picture for the rows.
Image down(const Image& image, double sd)
{
    if (!(sd > 0)) return image;
    if (sd > widest_exact_sd) {
        Image out(image.rows(), image.cols());
        std::vector<double> line(static_cast<std::size_t>(image.rows())), before;
        for (Eigen::Index c = 0; c < image.cols(); ++c) {
            for (Eigen::Index r = 0; r < image.rows(); ++r) line[static_cast<std::size_t>(r)] = image(r, c);
            for (int i = 0; i < 3; ++i) running_mean(line, before, half_width(sd));
            for (Eigen::Index r = 0; r < image.rows(); ++r) out(r, c) = line[static_cast<std::size_t>(r)];
        }
        return out;
    }
    const std::vector<double> k = kernel(sd);
    Image out = k[0] * image;
    for (std::size_t i = 1; i < k.size(); ++i) {
        const auto d = static_cast<Eigen::Index>(i);
        if (d >= image.rows()) break;
        const Eigen::Index n = image.rows() - d;
        out.topRows(n) += k[i] * image.bottomRows(n);
        out.bottomRows(n) += k[i] * image.topRows(n);
    }
    return out;
}

} // namespace

Image blurred(const Image& image, double rows_sd, double columns_sd)
{
    const Image turned = down(image, rows_sd).transpose();
    return down(turned, columns_sd).transpose();
}

Eigen::ArrayXd blurred(const Eigen::ArrayXd& values, double sd)
{
    Image line(values.size(), 1);
    line.col(0) = values;
    return down(line, sd).col(0);
}

Mask grown(const Mask& mask, int pixels)
{
    Mask out = mask;
    for (int i = 0; i < pixels; ++i) {
        const Mask now = out;
        const Eigen::Index r = now.rows() - 1, c = now.cols() - 1;
        out.topRows(r) = out.topRows(r) || now.bottomRows(r);
        out.bottomRows(r) = out.bottomRows(r) || now.topRows(r);
        out.leftCols(c) = out.leftCols(c) || now.rightCols(c);
        out.rightCols(c) = out.rightCols(c) || now.leftCols(c);
    }
    return out;
}

Image depth_in(const Mask& mask, int most)
{
    Image depth = as_image(mask);
    Mask outside = !mask;
    for (int i = 1; i < most; ++i) {
        outside = grown(outside, 1);
        outside.row(0) = outside.row(outside.rows() - 1) = true;
        outside.col(0) = outside.col(outside.cols() - 1) = true;
        depth += as_image(mask && !outside);
    }
    return depth;
}

} // namespace fusain::xray

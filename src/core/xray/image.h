// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <Eigen/Core>

/// Pictures as arrays, and the few filters that reading a scan takes.
namespace fusain::xray {

using Image = Eigen::Array<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
using Mask = Eigen::Array<bool, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;

/// Gaussian blur of so many pixels; nothing lies beyond the edges. Wide ones are three running means.
Image blurred(const Image& image, double rows_sd, double columns_sd);
inline Image blurred(const Image& image, double sd) { return blurred(image, sd, sd); }
/// Of values along one line.
Eigen::ArrayXd blurred(const Eigen::ArrayXd& values, double sd);

/// Grown by so many pixels up, down, left and right.
Mask grown(const Mask& mask, int pixels);
/// Pixels from the nearest one outside the mask (the first inside is 1), up to `most`; outside the picture is outside.
Image depth_in(const Mask& mask, int most);

inline Image as_image(const Mask& mask) { return mask.cast<double>(); }

} // namespace fusain::xray

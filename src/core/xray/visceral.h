// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/absorptiometry.h"
#include "core/xray/lines.h"

/// Fat around the organs, from what the fat under the skin leaves unexplained.
namespace fusain::xray {

/// Fat around the organs, within the android band.
///
/// There the trunk is taken for an oval under a coat of fat of one thickness; half width and depth are
/// seen in the map, the coat is fitted where no organs lie (the outer quarter of each side). What fat the coat and the
/// muscle do not explain further in lies around the organs.
///
/// Given:    a scan and its lines
/// Returned: mass within the android band with its doubt, and the mean area of a slice (mass / 0.94 kg/L / height)
/// Source:   this program's own model, tried on virtual bodies only (docs/science/absorptiometry.md); no publication.
///           Nothing when the band is too small to be read, or no coat explains it
std::optional<Visceral> visceral_fat(const Composition& scan, const Lines& lines);

} // namespace fusain::xray

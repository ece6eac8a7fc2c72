// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/decompose.h"

/// A body wider than the field: one half is scanned, and mirrored.
namespace fusain::xray {

enum class Half { none, right, left }; ///< of the client, which lies within the field

/// The half that was scanned and its mirror, on a picture wide enough for both. The middle runs from the middle of the
/// head to the fork between the legs.
///
/// Refused: repeat no_lines, when head or fork cannot be seen · what `shape_of` refuses
Outcome<Map> mirrored(const Map& map, const Table& table, Half half);

} // namespace fusain::xray

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/decompose.h"

/// What is seen of a scan while it runs, and afterwards, that spoils it.
namespace fusain::xray {

/// Of the rows that have come so far: motion, metal, the wrong way round, the body over the field's left or right edge.
/// `half`: one side lies outside on purpose. Empty: nothing is wrong, or there is too little yet.
[[nodiscard]] Messages watch(const Map& so_far, const Table& table, bool half);

/// `wrong_way_round`: the body begins with two feet instead of one head.
[[nodiscard]] std::optional<Message> wrong_way_round(const Shape& shape);
/// `metal` (a caution): a narrow place through which hardly a photon comes, or that reads as more bone than there is at
/// this height, beyond what its few photons leave open.
[[nodiscard]] std::optional<Message> metal(const Map& map, const Shape& shape, const Table& table);

} // namespace fusain::xray

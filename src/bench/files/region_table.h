// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/xray/region.h"

#include <array>
#include <map>
#include <optional>
#include <string>
#include <vector>

/// Tables of regions that other tables write (docs/formats/region-table.md): regions as rows, regions as columns, or
/// everything in one row; left and right apart or as sums; the trunk with or without the head.
namespace fusain::bench {

/// What a heading means that is not understood by itself: its words as they stand, and one of `meanings()`.
using LearntWords = std::map<std::string, std::string>;
struct Meaning {
    const char *id, *title;
};
/// What a heading can mean: regions, tissues, units, or nothing of interest.
const std::vector<Meaning>& meanings();

/// What regions are made of, as a table tells it.
struct RegionMasses {
    xray::Regions regions{};
    std::array<bool, xray::region_count> given{};
    bool trunk_has_head = false, sides_told_apart = true;
    std::optional<xray::Mass> total{};
    std::optional<double> own_visceral_g{}; ///< as the instrument tells it
};

struct RegionTable {
    std::optional<RegionMasses> masses; ///< nothing while something is not understood
    std::vector<std::string> unknown;   ///< headings to be asked about
};
/// Refused: bad_file, with line and cell and what is allowed there; region_missing, naming what the six regions lack.
Outcome<RegionTable> read_region_table(const std::string& text, const std::string& file, const LearntWords& learnt);

} // namespace fusain::bench

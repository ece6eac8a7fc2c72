// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"
#include "core/base/outcome.h"

#include <map>
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

struct RegionTable {
    Json body;                        ///< of `trial_typed`, without its source; null while something is not understood
    std::vector<std::string> unknown; ///< headings to be asked about
};
/// Refused: bad_file, with line and cell and what is allowed there; region_missing, naming what the six regions lack.
Outcome<RegionTable> read_region_table(const std::string& text, const std::string& file, const LearntWords& learnt);

} // namespace fusain::bench

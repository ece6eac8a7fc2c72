// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/map.h"

#include <memory>
#include <string>
#include <vector>

/// Tissue tables that ship with the program (data/tables), by id. Others come as files (scan_file.h).
namespace fusain::bench {

struct ShippedTable {
    xray::Table table;
    std::string title;
    double dose_usv = 0; ///< effective, of a whole scan; 0: not known
};
const std::vector<std::shared_ptr<const ShippedTable>>& shipped_tables();
/// Null when none has the id.
std::shared_ptr<const ShippedTable> shipped_table(std::string_view id);
std::string shipped_table_ids();

} // namespace fusain::bench

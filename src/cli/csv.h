// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "cli/record.h"

#include <string>
#include <vector>

/// Records and results as CSV (core/csv.h reads the rows).
namespace fusain::cli {

/// A record from a header of dotted names and a row of cells: numbers as numbers, `;` separated cells of list fields as lists.
Json record_from_csv(const std::vector<std::string>& header, const std::vector<std::string>& row);

/// A result as one CSV row under csv_header().
std::string csv_row(const Json& result);
std::string csv_header();

} // namespace fusain::cli

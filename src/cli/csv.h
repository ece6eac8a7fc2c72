// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "cli/record.h"

#include <istream>
#include <optional>

/// CSV as RFC 4180 has it: commas, quotes doubled inside quotes, newlines allowed inside quotes.
namespace fusain::cli {

/// One row of cells; nothing at the end of the input. `line` counts physical lines, for messages.
/// Throws std::runtime_error when a quote is never closed.
std::optional<std::vector<std::string>> read_csv_row(std::istream& in, long& line);

/// A record from a header of dotted names and a row of cells: numbers as numbers, `;` separated cells of list fields as lists.
Json record_from_csv(const std::vector<std::string>& header, const std::vector<std::string>& row);

/// A result as one CSV row under csv_header().
std::string csv_row(const Json& result);
std::string csv_header();

} // namespace fusain::cli

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <istream>
#include <optional>
#include <string>
#include <vector>

/// CSV as RFC 4180 has it: quotes doubled inside quotes, newlines allowed inside quotes.
namespace fusain::csv {

/// One row of cells; nothing at the end of the input. `line` counts physical lines, for messages.
/// Lines may end in LF, CR LF or CR. Throws std::runtime_error, with line and cell, when a quote stands in mid-cell, is
/// followed by text, or is never closed: it would swallow what comes after it.
std::optional<std::vector<std::string>> read_row(std::istream& in, long& line, char separator = ',');

/// The separator of a file by its first lines: comma, semicolon or tab, whichever gives the same number of cells most
/// often.
char guess_separator(const std::string& beginning);

std::string quoted(const std::string& cell);
/// A text that a spreadsheet would take for a formula, with an apostrophe before it; numbers stay.
std::string without_formula(const std::string& cell);

} // namespace fusain::csv

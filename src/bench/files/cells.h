// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>
#include <string>

/// Cells of a table that somebody else wrote.
namespace fusain::bench {

inline std::string trimmed(const std::string& cell)
{
    const auto from = cell.find_first_not_of(" \t\r\""), to = cell.find_last_not_of(" \t\r\"");
    return from == std::string::npos ? std::string() : cell.substr(from, to - from + 1);
}

/// With a decimal comma where the separator is another sign. Nothing when it is no number.
inline std::optional<double> number_of(const std::string& cell, char separator)
{
    std::string text = trimmed(cell);
    if (separator != ',') std::replace(text.begin(), text.end(), ',', '.');
    double value = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (code != std::errc() || end != text.data() + text.size() || !std::isfinite(value)) return std::nullopt;
    return value;
}

} // namespace fusain::bench

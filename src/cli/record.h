// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <nlohmann/json.hpp>

#include <string>
#include <vector>

/// Records and results of the calculation interface (docs/formats/calculation.md) as JSON.
namespace fusain::cli {

using Json = nlohmann::ordered_json;

/// Computes one record. Never throws: whatever is wrong comes back as a result with status "error".
Json compute_record(const Json& record);

/// Parses one line of JSON Lines and computes it. A line that is not JSON, or names a field twice, is an error result.
Json compute_line(const std::string& line, long line_number);

/// The result of a record that could not even be read.
Json error_result(const Json& id, const std::string& code, const std::string& field, const std::string& text);

} // namespace fusain::cli

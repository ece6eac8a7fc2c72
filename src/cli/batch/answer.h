// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/density/densitometry.h"
#include "core/base/outcome.h"

#include <optional>
#include <string>
#include <utility>
#include <vector>

/// Results of the calculation interface as text: a line of JSON, or a row of CSV.
namespace fusain::cli {

/// What became of one record. Values that are handed back as they came are kept as JSON text.
struct Answer {
    std::string id = "null", method = "null";
    Messages messages;
    std::optional<Result> result;
    const char* used = ""; ///< name of the list of readings that count
    bool used_in_results = false;
    std::vector<std::pair<std::string, std::string>> extra; ///< name, JSON

    bool is_error() const;
};

/// Appends one line, with its end.
void write_json(std::string& out, const Answer& answer, bool with_story);
void write_csv(std::string& out, const Answer& answer);
/// The heading of the CSV, with its end.
std::string csv_header();

/// A text as a JSON string. Control characters, quotes and backslashes are escaped.
void append_json(std::string& out, std::string_view text);
/// A number with the fewest digits that read back the same double; null when it is none.
void append_json(std::string& out, double number);

} // namespace fusain::cli

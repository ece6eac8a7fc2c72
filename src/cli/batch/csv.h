// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <string>
#include <vector>

/// Records as CSV (core/csv.h reads the rows): dotted names become blocks, and a row becomes the same JSON that a line
/// of JSON Lines is.
namespace fusain::cli {

class CsvRecords {
public:
    /// Why these cannot be the columns: not UTF-8, nameless, doubled, absurdly deep. Empty: they can.
    static std::string wrong_with(const std::vector<std::string>& header);
    explicit CsvRecords(const std::vector<std::string>& header);
    std::size_t width() const { return columns_.size(); }
    /// Appends one line of JSON, without its end. Numbers as numbers, `;` separated cells of list fields as lists;
    /// empty cells are left out.
    void append(std::string& out, const std::vector<std::string>& row) const;

private:
    struct Column {
        std::vector<std::string> blocks; ///< "hydrostatic", "lung"
        std::string name;                ///< "source"
        bool is_list = false, is_text = false;
        std::size_t cell = 0;
    };
    std::vector<Column> columns_; ///< those of one block stand together
};

} // namespace fusain::cli

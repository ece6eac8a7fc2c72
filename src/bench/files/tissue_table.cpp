// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/tissue_table.h"

#include "bench/files/scan_file.h"
#include "shipped_profiles.h"

#include "bench/base/json.h"

#include <stdexcept>

namespace fusain::bench {

const std::vector<std::shared_ptr<const ShippedTable>>& shipped_tables()
{
    static const auto all = [] {
        std::vector<std::shared_ptr<const ShippedTable>> out;
        for (const auto& [file, text] : shipped_table_texts) {
            const auto read = read_tissue_table(text, file);
            if (!read) throw std::runtime_error(read.messages().front().text);
            const auto j = nlohmann::json::parse(text);
            out.push_back(std::make_shared<const ShippedTable>(
                ShippedTable{*read, j.at("title"), j.at("dose_usv").get<double>()}));
        }
        return out;
    }();
    return all;
}

std::shared_ptr<const ShippedTable> shipped_table(std::string_view id)
{
    for (const auto& t : shipped_tables())
        if (t->table.id == id) return t;
    return nullptr;
}

std::string shipped_table_ids()
{
    std::string out;
    for (const auto& t : shipped_tables()) out += (out.empty() ? "" : ", ") + t->table.id;
    return out;
}

} // namespace fusain::bench

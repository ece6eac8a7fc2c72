// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/bone_reference.h"

#include "bench/files/cells.h"
#include "core/base/csv.h"

#include <sstream>
#include <stdexcept>
#include <tuple>

namespace fusain::bench {
namespace {

constexpr std::size_t most_bytes = 1 << 20;
const std::vector<std::string> heading = {"sex", "age_y", "mean_kg", "sd_kg", "source"};

} // namespace

Outcome<std::vector<BoneRow>> read_bone_reference(const std::string& text, const std::string& file)
{
    using Refused = Outcome<std::vector<BoneRow>>;
    const auto bad = [&](const std::string& words) {
        return Refused::refuse({"bad_file", Level::error, "file", file + ": " + words});
    };
    if (text.size() > most_bytes) return bad("larger than 1 MiB; a reference table is not.");
    const std::string body = text.starts_with("\xEF\xBB\xBF") ? text.substr(3) : text;
    const char separator = csv::guess_separator(body);
    std::vector<BoneRow> out;
    try {
        std::istringstream in(body);
        long line = 0;
        bool headed = false;
        while (auto row = csv::read_row(in, line, separator)) {
            for (std::string& cell : *row) cell = trimmed(cell);
            if (row->size() == 1 && row->front().empty()) continue;
            if (!row->empty() && row->front().starts_with("#")) continue;
            if (!headed) {
                if (*row != heading) return bad("the heading must be sex,age_y,mean_kg,sd_kg,source.");
                headed = true;
                continue;
            }
            const std::string at = "line " + std::to_string(line) + ": ";
            if (row->size() != heading.size()) return bad(at + "five cells are needed: sex, age, mean, SD, source.");
            BoneRow r;
            if ((*row)[0] != "female" && (*row)[0] != "male")
                return bad(at + "sex is \"" + (*row)[0] + "\"; allowed is female or male.");
            r.sex = (*row)[0] == "male" ? Sex::male : Sex::female;
            for (const auto& [column, value, low, high] :
                {std::tuple{1, &r.age_y, 0.0, 120.0}, {2, &r.mean_kg, 0.1, 8.0}, {3, &r.sd_kg, 0.01, 3.0}}) {
                const auto number = number_of((*row)[static_cast<std::size_t>(column)], separator);
                if (!number || *number < low || *number > high)
                    return bad(at + heading[static_cast<std::size_t>(column)] + " is \"" +
                               (*row)[static_cast<std::size_t>(column)] + "\"; allowed is a number from " +
                               std::to_string(low).substr(0, 4) + " to " + std::to_string(high).substr(0, 3) + ".");
                *value = *number;
            }
            r.source = (*row)[4];
            if (r.source.size() < 3) return bad(at + "the source is missing; a Z-score without one says nothing.");
            for (const BoneRow& before : out)
                if (before.sex == r.sex && before.age_y >= r.age_y)
                    return bad(at + "ages of one sex must rise from line to line.");
            out.push_back(r);
        }
    } catch (const std::runtime_error& e) {
        return bad(e.what());
    }
    if (out.empty()) return bad("no line of numbers.");
    return out;
}

std::optional<xray::BoneReference> bone_reference(const std::vector<BoneRow>& rows, Sex sex, double age_y)
{
    const BoneRow* under = nullptr;
    for (const BoneRow& r : rows) {
        if (r.sex != sex) continue;
        if (r.age_y == age_y) return xray::BoneReference{r.mean_kg, r.sd_kg, r.source};
        if (r.age_y > age_y) {
            if (!under) return std::nullopt;
            const double t = (age_y - under->age_y) / (r.age_y - under->age_y);
            return xray::BoneReference{under->mean_kg + t * (r.mean_kg - under->mean_kg),
                under->sd_kg + t * (r.sd_kg - under->sd_kg),
                under->source == r.source ? r.source : under->source + "; " + r.source};
        }
        under = &r;
    }
    return std::nullopt;
}

} // namespace fusain::bench

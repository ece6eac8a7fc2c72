// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/possible.h"

#include "core/base/limits.h"

namespace fusain::possible {
namespace {

constexpr double least_percent = 0, most_percent = 75, least_water = 0.60, most_water = 0.85;

Message impossible(const char* field, std::string text)
{
    return {"not_a_body", Level::repeat, field,
        std::move(text) + " No body has this: look at what was entered, and measure again."};
}

} // namespace

std::optional<Message> not_a_body(const Result& result, std::optional<double> water)
{
    const Value* percent = result.find(quantity::fat_percent);
    if (percent && !(percent->value >= least_percent && percent->value <= most_percent))
        return impossible("fat_percent", "Percent fat comes out as " + limits::plain(percent->value, 1) + " %.");
    if (const Value* own = result.find(quantity::total_body_water)) water = own->value;
    const Value* lean = result.find(quantity::fat_free_mass);
    if (!water || !lean) return std::nullopt;
    if (const double share = *water / lean->value; !(share >= least_water && share <= most_water))
        return impossible("total_body_water",
            "Water comes out as " + limits::plain(100 * share, 0) + " % of fat-free mass; 60 to 85 % is possible.");
    return std::nullopt;
}

} // namespace fusain::possible

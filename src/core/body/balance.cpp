// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/balance.h"

#include "core/body/reference.h"
#include "core/quality/judgement.h"

namespace fusain::balance {
namespace {

constexpr double adult_y = 18;
struct Words {
    const char *id, *title;
};
constexpr Words words[] = {{"low_fat", "low fat"}, {"low_reserve", "low reserve"}, {"fat_led", "fat-led"},
    {"both_high", "both high"}, {"muscle_led", "muscle-led"}, {"balanced", "balanced"}};
constexpr double ahead = 0.5, clearly_behind = 0.25, upper_half = 0.5;

} // namespace

const char* id(Kind kind) { return words[static_cast<int>(kind)].id; }
const char* title(Kind kind) { return words[static_cast<int>(kind)].title; }

std::optional<Place> place(Sex sex, double age_y, double ffmi, double fmi)
{
    if (!(age_y >= adult_y)) return std::nullopt;
    const judgement::IndexRange& r = judgement::index_range(sex);
    const double l = (ffmi - r.ffmi_low) / (r.ffmi_high - r.ffmi_low), f = (fmi - r.fmi_low) / (r.fmi_high - r.fmi_low);
    const double percent = 100 * fmi / (fmi + ffmi), top = reference::find("gallagher_2000")->nearest(sex, age_y).high;
    const Kind kind = percent < judgement::least_fat_percent(sex)            ? Kind::low_fat
                      : l < 0 && f < 0                                       ? Kind::low_reserve
                      : (f > 1 && percent > top) || (l < 0 && f - l > ahead) ? Kind::fat_led
                      : f > 1 && l > 1                                       ? Kind::both_high
                      : l >= upper_half && f <= 1 && l - f >= clearly_behind ? Kind::muscle_led
                                                                             : Kind::balanced;
    return Place{l, f, kind};
}

void add(Result& result, Sex sex, double age_y)
{
    const Value lean = result[quantity::ffmi], fat = result[quantity::fmi];
    const auto where = place(sex, age_y, lean.value, fat.value);
    if (!where) return;
    const judgement::IndexRange& r = judgement::index_range(sex);
    const auto put = [&](const Quantity& q, double value, const Value& of, double width) {
        result.values.push_back({&q, value, of.u / width, of.u_model / width});
    };
    put(quantity::balance_lean, where->lean, lean, r.ffmi_high - r.ffmi_low);
    put(quantity::balance_fat, where->fat, fat, r.fmi_high - r.fmi_low);
    result.balance = id(where->kind);
}

} // namespace fusain::balance

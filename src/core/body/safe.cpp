// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/safe.h"

#include "core/base/limits.h"
#include "core/quality/judgement.h"

namespace fusain::safe {

double least_ffmi(Sex sex) { return judgement::index_range(sex).ffmi_low; }

std::optional<std::string> why_no_loss(const energy::Body& b)
{
    const double bmi = b.bmi(), least = least_bmi(b.age_y), fat = b.fat_percent(),
                 least_fat = judgement::least_fat_percent(b.sex);
    if (bmi < least)
        return "Body mass index is " + limits::plain(bmi, 1) + " kg/m², under " + limits::plain(least, 1) +
               (b.age_y >= old_y ? " (from 70 years)" : "") + ": nothing is taken from this body.";
    if (fat < least_fat)
        return "Percent fat is " + limits::plain(fat, 1) + " %, under the level needed for health (" +
               limits::plain(least_fat, 0) + " %): nothing is taken from this body.";
    return std::nullopt;
}

} // namespace fusain::safe

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"
#include "core/xray/absorptiometry.h"

#include <string>
#include <vector>

/// A lab's own reference for the bone mineral of the whole body (docs/formats/bone-reference.md). None ships.
namespace fusain::bench {

struct BoneRow {
    Sex sex = Sex::female;
    double age_y = 0, mean_kg = 0, sd_kg = 0;
    std::string source;
};
/// CSV with the heading sex,age_y,mean_kg,sd_kg,source; by rising age within a sex.
/// Refused: bad_file, with line and column and what is allowed there.
Outcome<std::vector<BoneRow>> read_bone_reference(const std::string& text, const std::string& file);
/// Between the two ages around; nothing outside the table's ages.
std::optional<xray::BoneReference> bone_reference(const std::vector<BoneRow>& rows, Sex sex, double age_y);

} // namespace fusain::bench

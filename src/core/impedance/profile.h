// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/person.h"
#include "core/impedance/segment.h"

#include <map>
#include <string>

/// The calibration of one instrument from segmental impedance to lean (docs/formats/instrument-profile.md). There is no
/// equation for everyone: each instrument carries its own.
namespace fusain::impedance {

struct Profile {
    struct Part {
        double length_per_height = 0; ///< 0 to 1
        double a_kg = 0;              ///< lean = a + b·L²/R, before it is scaled to the whole body
        double b_kg_ohm_per_cm2 = 0;
        double u_kg = 0;       ///< the profile's own error in lean
        double mass_share = 0; ///< of body mass, 0 to 1
    };
    std::string id, title, calibrated_on, source;
    std::array<Part, segment_count> parts;
    double rest_share_of_fat_free_mass = 0, rest_mass_share = 0;          ///< head, hands and feet
    std::array<double, segment_count> expected_male{}, expected_female{}; ///< share of fat-free mass
    const std::array<double, segment_count>& expected(Sex sex) const
    {
        return sex == Sex::male ? expected_male : expected_female;
    }
};

/// What a file or a record says of a profile, by dotted name: `segments.trunk.a_kg`.
struct ProfileFields {
    std::map<std::string, std::string> texts;
    std::map<std::string, double> numbers;
};
/// Names of the numbers that a profile must have, and of its texts.
const std::vector<std::string>& profile_numbers();
inline constexpr const char* profile_texts[] = {"id", "title", "calibrated_on", "source"};

/// Given:    fields; path   what stands before their names in messages, "impedance.profile."
/// Returned: the profile
/// Refused:  missing_field · out_of_range (lengths and shares 0 to 1, errors 0 and more)
Outcome<Profile> profile_from(const ProfileFields& fields, const std::string& path);
ProfileFields fields_of(const Profile& profile);

} // namespace fusain::impedance

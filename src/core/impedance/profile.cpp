// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/impedance/profile.h"

#include "core/base/limits.h"

#include <cmath>

namespace fusain::impedance {
namespace {

struct PartField {
    const char* name;
    double Profile::Part::*member;
    double low, high;
};
constexpr double any = 1e6;
constexpr PartField part_fields[] = {
    {"length_per_height", &Profile::Part::length_per_height, 0, 1},
    {"a_kg", &Profile::Part::a_kg, -any, any},
    {"b_kg_ohm_per_cm2", &Profile::Part::b_kg_ohm_per_cm2, -any, any},
    {"u_kg", &Profile::Part::u_kg, 0, any},
    {"mass_share", &Profile::Part::mass_share, 0, 1},
};

/// Every number of a profile with its name and limits.
template <class AProfile, class Visit>
void each_number(AProfile& p, Visit visit)
{
    for (std::size_t i = 0; i < segment_count; ++i) {
        const std::string segment = segment_rows[i].id;
        for (const PartField& f : part_fields)
            visit("segments." + segment + '.' + f.name, p.parts[i].*f.member, f.low, f.high);
        visit("expected_share_of_fat_free_mass.male." + segment, p.expected_male[i], 0.0, 1.0);
        visit("expected_share_of_fat_free_mass.female." + segment, p.expected_female[i], 0.0, 1.0);
    }
    visit("rest_share_of_fat_free_mass", p.rest_share_of_fat_free_mass, 0.0, 1.0);
    visit("rest_mass_share", p.rest_mass_share, 0.0, 1.0);
}

template <class AProfile, class Visit>
void each_text(AProfile& p, Visit visit)
{
    visit("id", p.id);
    visit("title", p.title);
    visit("calibrated_on", p.calibrated_on);
    visit("source", p.source);
}

} // namespace

const std::vector<std::string>& profile_numbers()
{
    static const std::vector<std::string> names = [] {
        std::vector<std::string> all;
        const Profile p;
        each_number(p, [&](const std::string& name, double, double, double) { all.push_back(name); });
        return all;
    }();
    return names;
}

Outcome<Profile> profile_from(const ProfileFields& fields, const std::string& path)
{
    Profile p;
    Messages bad;
    each_text(p, [&](const char* name, std::string& to) {
        if (const auto at = fields.texts.find(name); at != fields.texts.end()) to = at->second;
    });
    if (p.id.empty())
        bad.push_back({"missing_field", Level::error, path + "id", "A profile has an id; " + path + "id is missing."});
    each_number(p, [&](const std::string& name, double& to, double low, double high) {
        const auto at = fields.numbers.find(name);
        if (at == fields.numbers.end())
            bad.push_back({"missing_field", Level::error, path + name, "Field " + path + name + " is missing."});
        else if (!(at->second >= low && at->second <= high))
            bad.push_back({"out_of_range", Level::error, path + name,
                path + name + " is " + limits::plain(at->second) + "; allowed is " +
                    (high < any ? limits::plain(low) + " to " + limits::plain(high) + "." : "a number of 0 or more.")});
        else
            to = at->second;
    });
    if (!bad.empty()) return Outcome<Profile>::refuse(std::move(bad));
    return p;
}

ProfileFields fields_of(const Profile& profile)
{
    ProfileFields out;
    each_text(profile, [&](const char* name, const std::string& text) { out.texts[name] = text; });
    each_number(profile, [&](const std::string& name, double value, double, double) { out.numbers[name] = value; });
    return out;
}

} // namespace fusain::impedance

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/impedance/profile.h"

#include <memory>
#include <vector>

/// Instrument profiles (docs/formats/instrument-profile.md): the file, and those that ship with the program
/// (data/profiles).
namespace fusain::bench {

/// A file that cannot be used is refused with its name and the field.
Outcome<impedance::Profile> read_profile(const std::string& text, const std::string& file);
std::string write_profile(const impedance::Profile& profile);

const std::vector<std::shared_ptr<const impedance::Profile>>& shipped_profiles();
/// Null when none has the id.
std::shared_ptr<const impedance::Profile> shipped_profile(std::string_view id);
std::string shipped_profile_ids();

} // namespace fusain::bench

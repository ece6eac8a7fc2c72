// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/impedance/profile.h"

#include <cstdint>

namespace fusain::virt {

/// The profile of the virtual analyser, from virtual people whose segments are known: least squares of lean on the
/// conductor's index of each segment. Its own error is what is left once the segments are scaled to the known whole.
impedance::Profile fit_profile(int people, std::uint64_t seed);

} // namespace fusain::virt

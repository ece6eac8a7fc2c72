// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/references.h"

#include <algorithm>

namespace fusain::virt {
namespace {

using bench::Channel;

constexpr Reference rows[] = {
    {Channel::scale, "reference_mass", 20.0, 0.006, 0.0016, 0.04},
    {Channel::cylinder, "cylinder", 50.012, 0.018, 0.004, 0.12},
    {Channel::r_right_arm, "r_right_arm", 500.0, 0.4, 0.05, 4.0, 60.0},
    {Channel::r_left_arm, "r_left_arm", 500.0, 0.4, 0.05, 0.0, 60.0},
    {Channel::r_trunk, "r_trunk", 500.0, 0.4, 0.05, 0.0, 60.0},
    {Channel::r_right_leg, "r_right_leg", 500.0, 0.4, 0.05, 0.0, 60.0},
    {Channel::r_left_leg, "r_left_leg", 500.0, 0.4, 0.05, 0.0, 60.0},
    {Channel::phantom, "phantom", 1.1, 0.004, 0.0004, 0.045},
};

} // namespace

std::span<const Reference> references() { return rows; }

const Reference& reference(Channel channel)
{
    return *std::find_if(std::begin(rows), std::end(rows), [&](const Reference& r) { return r.channel == channel; });
}

double read_reference(const Reference& r, double days, bool drifts, bool stepped, std::mt19937_64& random)
{
    return r.value + std::normal_distribution<double>(0, r.noise)(random) + (drifts ? r.drift_per_day * days : 0) +
           (stepped ? r.step : 0);
}

} // namespace fusain::virt

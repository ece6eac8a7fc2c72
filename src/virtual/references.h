// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/line.h"

#include <random>

/// What the virtual instruments read when a reference is put on them: true value, gain error, noise, and the two ways
/// in which instruments go wrong over weeks, a slow drift and a step.
namespace fusain::virt {

struct Reference {
    bench::Channel channel;
    const char* word;     ///< of the stage direction
    double value;         ///< of the reference object
    double noise;         ///< SD of one reading
    double drift_per_day; ///< while the fault `reference_drift` is on
    double step;          ///< while the fault `reference_step` is on
    double x = 0;         ///< reactance of a network of resistor and capacitor; 0: it has none
    bool of_analyser() const { return x != 0; }
    /// Read by an instrument that speaks for itself, not by the tank room.
    bool of_another() const { return of_analyser() || channel == bench::Channel::phantom; }
};
std::span<const Reference> references();
const Reference& reference(bench::Channel channel);

/// One reading `days` after the instrument was last set right.
double read_reference(const Reference& reference, double days, bool drifts, bool stepped, std::mt19937_64& random);

} // namespace fusain::virt

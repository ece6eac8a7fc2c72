// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/events.h"
#include "core/density/displacement.h"
#include "core/signal/chamber.h"

namespace fusain::bench {

/// What was read while puffing against the shut valve.
struct Puffing {
    double slope = 0, u_slope = 0, merit = 0, peak_cmh2o = 0, barometric_mmhg = 0;
};

/// What was read of the chamber's two pressures.
struct RatioRead : chamber::Ratio {
    double seconds = 0; ///< how long
};

} // namespace fusain::bench

namespace fusain::bench::event {

/// What was seen to before the door is shut; what leaving the rest out does, in words.
struct Prepared {
    static constexpr char kind[] = "prepared";
    std::vector<std::string> seen{}, left_out{};
};

/// The volume engraved on the cylinder.
struct Cylinder {
    static constexpr char kind[] = "cylinder";
    double l = 0;
};

/// The instrument has calibrated itself; its own volumes are typed from here on.
struct SelfCalibrated {
    static constexpr char kind[] = "self_calibrated";
    std::string source = "typed";
};

/// How the gas in the chest is known.
struct LungGas {
    static constexpr char kind[] = "lung_gas";
    std::optional<displacement::LungRoute> route{}; ///< nothing: none that is known
    std::string equation{};
    std::optional<double> l{}; ///< measured elsewhere, and typed
    std::string source{};
};

struct RatioTaken : TrialTaken, RatioRead {};

struct PuffsTaken : TrialTaken, Puffing {
    int count = 0;
};

/// A volume or a density that the chamber gave, with what it has corrected for; or what the reader made of a recording
/// in a file.
struct VolumeTyped : TrialTyped {
    std::optional<double> l{}, kg_per_l{};
    std::vector<std::string> corrected{}; ///< surface, lung_gas
    bool mean = false;                    ///< one value that it made of its runs
    std::optional<RatioRead> recorded{};
    bool is_corrected_for(std::string_view cause) const;
};

} // namespace fusain::bench::event

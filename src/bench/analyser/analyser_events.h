// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/files/spectrum_file.h"
#include "bench/visit/events.h"

namespace fusain::bench {

/// Refuses a reading that holds nothing, or nothing that can be read.
Message no_spectra();

/// What was wrong while a client stood there.
struct SpectrumFound {
    std::string code, words;
    std::vector<std::string> segments; ///< ids of those that it spoils
    bool spoils(std::size_t segment) const;
};

} // namespace fusain::bench

namespace fusain::bench::event {

/// What `started` of an analyser says besides: equations by the client's age, where the house's are not for it.
struct AnalyserStarted {
    std::string fat_free_mass{}, total_body_water{}, skeletal_muscle{};
};

/// What was seen to of feet, hands and posture; what leaving the rest out does, in words.
struct Stance {
    static constexpr char kind[] = "stance";
    std::vector<std::string> seen{}, left_out{};
};

/// Numbers of an instrument that gives only its own.
struct OwnNumbers : OfFile {
    static constexpr char kind[] = "instruments_own";
    std::vector<InstrumentsOwn> rows{};
};

struct SpectraTaken : TrialTaken, Spectra {
    std::vector<SpectrumFound> found{};
    double seconds = 0;
    double platform_kg = 0;            ///< while the last point came; 0: not heard
    std::vector<double> contact_ohm{}; ///< of each electrode, where the analyser tells
};

struct SpectraTyped : TrialTyped, Spectra {};

} // namespace fusain::bench::event

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"

#include <map>
#include <optional>
#include <vector>

/// The events of a study's log (docs/formats/study-log.md); their keys: study_events.cpp.
namespace fusain::work::in_study {

struct Stamped {
    std::string local{}; ///< when it was, by the lab's clock
};

struct Begun : Stamped {
    static constexpr char kind[] = "begun";
    std::string what{}, method{};                      ///< words of a `StudyKind`, of a method
    std::string instrument{}, second{}, repaired_on{}; ///< serial numbers; ISO day
    std::vector<std::string> operators{};
    int people = 15, times = 3; ///< what is aimed at
};

struct Repositioned : Stamped {
    static constexpr char kind[] = "repositioned";
    long client = 0;
    bool anew = false;
};

struct Repeat : Stamped {
    static constexpr char kind[] = "repeat";
    long visit = 0;
    std::string started_at{}, technician{};
    bool repositioned = false;
};

struct LeftOut : Stamped {
    static constexpr char kind[] = "left_out";
    long visit = 0;
    std::string reason{};
};

struct TakenBack : Stamped {
    static constexpr char kind[] = "taken_back";
    long visit = 0;
};

struct GivenUp : Stamped {
    static constexpr char kind[] = "given_up";
    std::string reason{};
};

/// Of a repeat, without a name of the person.
struct MemberKept {
    std::string who{}, at{}, left_out{};
    int side = 0;
    std::map<std::string, double> values{};
};

/// What repeats came to.
struct RepeatsKept {
    double rms_sd = 0, lsc = 0, degrees_of_freedom = 0, effective_degrees = 0, rms_sd_upper95 = 0, held_against = 0;
};
/// What two sides came to beside each other.
struct BesideKept {
    int n = 0;
    double shift = 0, shift_within = 0, sd = 0, low = 0, high = 0, lsc = 0;
    std::string verdict{};
};
/// Of a quantity: one of them.
struct ResultKept {
    std::optional<RepeatsKept> repeats{};
    std::optional<BesideKept> beside{};
};

struct Closed : Stamped {
    static constexpr char kind[] = "closed";
    std::string equations{};
    std::vector<std::vector<MemberKept>> people{};
    std::map<std::string, ResultKept> results{};
    std::map<std::string, double> noise_lsc{};
};

} // namespace fusain::work::in_study

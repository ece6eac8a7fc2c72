// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/line.h"
#include "core/before/schedule.h"
#include "core/quality/quality.h"

/// What a lab may own, as rows: how it is made ready, checked, looked after. A scale has no method of its own; every
/// other kind stands in its method's room (bench/tank/tank_instrument.cpp).
namespace fusain::bench {

class CheckRun;

struct CheckStep {
    enum class Kind {
        confirm, ///< the technician says that it is done
        wait,    ///< a time that must pass; counts from the step before
        expect,  ///< a time that it usually takes; may be confirmed before
        person,  ///< one of the staff, by name
        read,    ///< readings from the line against the reference
        water,   ///< the water's temperature from the line
        zero     ///< the load cell's zero from the line
    } kind = Kind::confirm;
    const char* id;
    const char* words;                ///< what to do now
    const char* hint;                 ///< cautions, how
    int minutes = 0;                  ///< wait, expect
    Channel channel = Channel::scale; ///< read
    const char* ask = "";             ///< what the stand-in is told (demo)
    bool by_hand = false;             ///< read: typed from what the instrument shows; once
    bool may_lack = false;            ///< and not every instrument shows it
};

/// What some kinds of instrument are told of their make by name: an instrument profile, a tissue table.
struct ProfileAsked {
    const char *title, *what_for;
    bool (*known)(const std::string& id);
    std::string (*ids)();
    const char* of_stand_in; ///< that of the practice bench
};

struct InstrumentKind {
    const char* id;    ///< in the records: "hydrostatic"
    const char* title; ///< "tank"
    std::optional<Method> method;
    const char* reference_title; ///< what the check is made against; empty: it has no reference of its own
    const char* unit;
    double reference; ///< usual value of it
    quality::Tolerance (*tolerance)(double reference);
    int decimals;
    double least_sd;             ///< for the chart: the display step of the reading
    int duration_min, after_min; ///< client on it; to make it free again
    std::vector<schedule::Lead> first_lead, each_lead;
    std::vector<CheckStep> steps;
    const char* check_title;              ///< "Check the scale with the certified mass"
    std::vector<std::string_view> ways{}; ///< other ways of `check_ways` that fit it
    const char* usual_way = "self_test";  ///< of one that shows finished numbers
    bool usually_raw = false;             ///< its readings are computed here; the others show finished numbers too
    bool strict = false;                  ///< checked every day, whatever the lab's rule, or no test
    bool chart_forbids = false;           ///< no test while its chart drifts
    bool network = false;                 ///< its reference may have a reactance
    std::optional<Channel> feeds{};       ///< what its line says, where it is one thing
    std::vector<const char*> closing{};   ///< what is done with it before the lab is left
    std::optional<ProfileAsked> profile{};
    const char* chart_words = ""; ///< what its chart is of, where it has no reference
    /// What a check without readings comes to; null: there is none
    quality::CheckResult (*concluded)(const CheckRun& run) = nullptr;
};

/// The scale, then a kind a method, in the order of lists.
const std::vector<const InstrumentKind*>& instrument_kinds();
/// By its id; null: there is none.
const InstrumentKind* instrument_kind(const std::string& id);
const InstrumentKind& instrument_of(Method method);

const InstrumentKind& scale_kind();

} // namespace fusain::bench

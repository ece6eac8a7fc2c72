// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/checks/instrument_check.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>

namespace fusain::bench {
namespace {

using Kind = CheckStep::Kind;

quality::Tolerance phantom_bmd(double value) { return quality::phantom(value, "g/cm²"); }
/// A tank has no reference value of its own; its zero must be calm.
quality::Tolerance no_reference(double) { return {}; }

Message not_now(const std::string& text) { return {"not_now", Level::error, "check", text}; }

} // namespace

const std::vector<KindRow>& instrument_kinds()
{
    static const std::vector<KindRow> table = {
        {InstrumentKind::scale, "scale", "scale", std::nullopt, "certified mass", "kg", 20, quality::scale_mass, 2,
            0.005, 2, 0, {}, {},
            {{Kind::confirm, "level", "Level the scale, nothing on it",
                 "Let it come to zero by itself. Nobody touches it."},
                {Kind::read, "mass", "Certified mass on, read, off; three times",
                    "In the middle of the platform. Lift with both hands and straight knees. The repeats must agree "
                    "with each other and with the mass.",
                    0, Channel::scale, "reference_mass"}},
            "Check the scale with the certified mass"},
        {InstrumentKind::impedance, "impedance", "impedance analyser", protocol::Method::impedance,
            "reference resistor or network", "Ω", 500, quality::resistor, 1, 0.2, 5, 0,
            {{"switch on, nobody on the platform", 15}}, {},
            {{Kind::confirm, "surface", "On a hard floor, level by the bubble",
                 "Carpet charges the client and the platform."},
                {Kind::confirm, "switch_on", "Switch on; nobody stands on or touches the platform",
                    "Its zero is taken now."},
                {Kind::wait, "warm_up", "Warming up", "Two minutes at the least; leave it alone.", 2},
                {Kind::confirm, "wipe", "Wipe the electrodes",
                    "Only the maker's approved wipes: other cleaners corrode."},
                {Kind::read, "right_arm", "Reference resistor (or network) on the right arm, three readings",
                    "One channel after the other.", 0, Channel::r_right_arm, "resistor"},
                {Kind::read, "left_arm", "Now the left arm", "", 0, Channel::r_left_arm, "resistor"},
                {Kind::read, "trunk", "Now the trunk", "", 0, Channel::r_trunk, "resistor"},
                {Kind::read, "right_leg", "Now the right leg", "", 0, Channel::r_right_leg, "resistor"},
                {Kind::read, "left_leg", "Now the left leg", "", 0, Channel::r_left_leg, "resistor"}},
            "Check the analyser with the reference resistor"},
        {InstrumentKind::air_displacement, "air_displacement", "chamber", protocol::Method::air_displacement,
            "cylinder", "L", 50, quality::cylinder, 3, 0.005, 10, 0, {{"warm up", 30}},
            {{"calibrate, empty and with the cylinder", 5}},
            {{Kind::confirm, "room", "A quiet, steady room: no fans, no sun, doors closed",
                 "A slammed door moves the reading."},
                {Kind::confirm, "empty", "Chamber empty, door closed",
                    "The empty reading is taken with the first of the five."},
                {Kind::read, "cylinder", "Cylinder in, five readings, the door opened in between",
                    "The cylinder that belongs to this chamber. Carry it with two hands. Check its number against the "
                    "chamber's.",
                    0, Channel::cylinder, "cylinder"}},
            "Check the chamber with its cylinder"},
        {InstrumentKind::hydrostatic, "hydrostatic", "tank", protocol::Method::hydrostatic, "", "kg", 0, no_reference,
            3, 0.002, 40, 10,
            {{"wipe with diluted bleach, leave it 15 min", 20}, {"rinse", 10},
                {"open the tap: fill, part of it hot only", 165},
                {"hang the chair, zero with belt, read the water", 15}},
            {},
            {{Kind::confirm, "clean", "Wipe the tank with diluted bleach (1:10)",
                 "Gloves on, air the room, never mix it with another cleaner."},
                {Kind::wait, "act", "Leave the bleach", "Fifteen minutes; the time goes on when the program is closed.",
                    15},
                {Kind::confirm, "rinse", "Rinse well, drain", "Until nothing smells any more."},
                {Kind::confirm, "tap", "Open the tap",
                    "Part of the time hot water only, or it will be too cold to sit in."},
                {Kind::expect, "fill", "Filling", "Two and a half to three hours. Confirm when it is full.", 165},
                {Kind::confirm, "overflow", "Drain a few centimetres below the overflow", ""},
                {Kind::confirm, "chair", "Hang the chair now, switch the load cell on",
                    "Only now: a hanging chair ages the load cell."},
                {Kind::water, "temperature", "Read the water", "In °C, the thermometer fully in."},
                {Kind::zero, "zero", "Chair and weight belt together, hands off: zero",
                    "Take the belt off again afterwards."}},
            "Make the tank ready"},
        {InstrumentKind::absorptiometry, "absorptiometry", "X-ray table", protocol::Method::absorptiometry, "phantom",
            "g/cm²", 1.1, phantom_bmd, 4, 0.001, 15, 5, {{"scan the phantom", 15}}, {},
            {{Kind::confirm, "licence", "Only a person licensed for X-ray goes on", "Local rules decide who may."},
                {Kind::confirm, "clear", "Table clear, phantom on its marks, everybody out of the beam", ""},
                {Kind::read, "phantom", "Scan the phantom", "It must lie inside its limits and must not drift.", 0,
                    Channel::phantom, "phantom"}},
            "Scan the phantom"},
    };
    return table;
}

const KindRow& row(InstrumentKind kind) { return instrument_kinds()[static_cast<std::size_t>(kind)]; }

const KindRow* instrument_kind(const std::string& id)
{
    for (const KindRow& r : instrument_kinds())
        if (id == r.id) return &r;
    return nullptr;
}

double seconds_of(const std::string& iso)
{
    using namespace std::chrono;
    int y = 0;
    unsigned mo = 0, d = 0, h = 0, mi = 0;
    double s = 0;
    if (std::sscanf(iso.c_str(), "%d-%u-%uT%u:%u:%lf", &y, &mo, &d, &h, &mi, &s) != 6) return NAN;
    return duration<double>(sys_days{year{y} / month{mo} / day{d}}.time_since_epoch()).count() + 3600.0 * h +
           60.0 * mi + s;
}

std::optional<Message> CheckRun::refuse(const Event& e) const
{
    if (e.seq != last_seq + 1)
        return Message{"log_gap", Level::error, "seq",
            "Event " + std::to_string(e.seq) + " follows " + std::to_string(last_seq) + ": the log has a gap."};
    if (e.kind == "started") return e.seq == 1 ? std::nullopt : std::optional(not_now("The check has begun already."));
    if (e.seq == 1) return not_now("A check begins with its start.");
    if (finished_) return not_now("This check is finished.");
    if (e.kind == "finished") return std::nullopt;
    if (all_done()) return not_now("Every step is done.");
    const CheckStep& step = row(kind_).steps[static_cast<std::size_t>(next_)];
    if (e.body.value("step", "") != step.id) return not_now(std::string("First: ") + step.words + ".");
    const double at = seconds_of(e.at_utc);
    if (e.kind == "done") {
        if (step.kind == Kind::wait && !(seconds_left(at) <= 0))
            return not_now(std::string(step.words) + ": " +
                           std::to_string(static_cast<int>(std::ceil(seconds_left(at) / 60))) + " min are left.");
        if (step.kind == Kind::read || step.kind == Kind::water || step.kind == Kind::zero)
            return not_now("This step needs a reading.");
        return std::nullopt;
    }
    if (e.kind == "reading") {
        if (step.kind != Kind::read && step.kind != Kind::water && step.kind != Kind::zero)
            return not_now("No reading belongs to this step.");
        if (!e.body.contains("value") || !e.body["value"].is_number() || !std::isfinite(e.body["value"].get<double>()))
            return Message{"missing_field", Level::error, "value", "The reading is missing."};
        if (e.body.contains("x") && (!e.body["x"].is_number() || !std::isfinite(e.body["x"].get<double>())))
            return Message{"missing_field", Level::error, "x", "The reactance of the reading is no number."};
        return std::nullopt;
    }
    return Message{"unknown_event", Level::error, "kind",
        "The log holds an event \"" + e.kind + "\" that this version does not know."};
}

std::optional<Message> CheckRun::apply(const Event& e)
{
    try {
        if (auto why = refuse(e)) return why;
        if (e.kind == "started") {
            started_at = e.at_utc;
            who = e.who;
            reference_ = e.body.value("reference", reference_);
            reference_x_ = e.body.value("reference_x", 0.0);
            step_since_s = seconds_of(e.at_utc);
        } else if (e.kind == "finished") {
            finished_ = true;
        } else {
            const CheckStep& step = row(kind_).steps[static_cast<std::size_t>(next_)];
            bool on = true;
            if (e.kind == "reading") {
                const double value = e.body["value"];
                if (step.kind == Kind::water)
                    water_c = value;
                else if (step.kind == Kind::zero)
                    zero_kg = value;
                else {
                    readings_[step.id].push_back(value);
                    if (e.body.contains("x")) reactances_[step.id].push_back(e.body["x"].get<double>());
                    on = static_cast<int>(readings_[step.id].size()) >= row(kind_).tolerance(reference_).readings;
                }
            }
            if (on) {
                ++next_;
                step_since_s = seconds_of(e.at_utc);
            }
        }
        last_seq = e.seq;
        return std::nullopt;
    } catch (const Json::exception& x) {
        return Message{"bad_event", Level::error, e.kind, std::string("The event cannot be read: ") + x.what()};
    }
}

double CheckRun::seconds_left(double now_s) const
{
    if (all_done()) return 0;
    return std::max(0.0, 60.0 * row(kind_).steps[static_cast<std::size_t>(next_)].minutes - (now_s - step_since_s));
}

const std::vector<double>& CheckRun::readings(const std::string& step) const
{
    static const std::vector<double> none;
    const auto at = readings_.find(step);
    return at == readings_.end() ? none : at->second;
}

Outcome<quality::CheckResult> CheckRun::result() const
{
    if (!all_done()) return Outcome<quality::CheckResult>::refuse(not_now("The check is not finished."));
    std::optional<quality::CheckResult> worst;
    const quality::Tolerance tolerance = row(kind_).tolerance(reference_);
    for (const CheckStep& step : row(kind_).steps) {
        if (step.kind != Kind::read) continue;
        auto r = quality::check(tolerance, readings(step.id));
        if (!r) return r;
        quality::CheckResult one = *r;
        if (readings_.size() > 1) {
            one.words = std::string(step.id) + ": " + one.words;
            std::replace(one.words.begin(),
                one.words.begin() + static_cast<std::ptrdiff_t>(std::string(step.id).size()), '_', ' ');
        }
        if (reference_x_ > 0) {
            const auto at = reactances_.find(step.id);
            if (at == reactances_.end()) {
                one.words += " No reactance was read: the phase is not checked.";
            } else {
                const auto x = quality::check(quality::reactance(reference_x_), at->second);
                if (!x) return x;
                one.passed = one.passed && x->passed;
                one.words += " Reactance: " + x->words;
            }
        }
        if (!worst || std::abs(one.of.mean - reference_) > std::abs(worst->of.mean - reference_) ||
            (worst->passed && !one.passed))
            worst = one;
    }
    if (worst && readings_.size() > 1)
        worst->words = "Of " + std::to_string(readings_.size()) + " channels the furthest off, the " + worst->words;
    if (worst) return *worst;
    quality::CheckResult tank;
    tank.of = {1, zero_kg.value_or(0), 0, 0};
    tank.passed = true;
    char words[160];
    std::snprintf(words, sizeof words, "Water %.1f °C, zero with chair and belt %.3f kg. Ready.", water_c.value_or(0),
        zero_kg.value_or(0));
    tank.words = words;
    return tank;
}

Readiness readiness(InstrumentKind kind, bool in_use, const std::string& calibration_due, const std::string& today,
    const std::optional<LastCheck>& last, const quality::Chart& chart)
{
    const KindRow& r = row(kind);
    const std::string check = r.check_title;
    if (!in_use) return {false, "It is out of use."};
    if (!calibration_due.empty() && calibration_due < today)
        return {false, "Its calibration was due on " + calibration_due +
                           ". Have it calibrated and write the new date into the register."};
    if (!last || !last->today) return {false, "Not checked today. " + check + "."};
    if (!last->finished) return {false, "Its check of today is not finished. Go on with it."};
    if (!last->passed)
        return {false,
            "Its check of today failed. Repeat it once; if it fails again, stop using it and say what was done."};
    // X-ray: inside its control limits and without drift, or nobody lies down on it (common laboratory practice)
    const bool wanders = chart.last_outside || chart.sign == quality::Sign::drift || chart.sign == quality::Sign::step;
    if (kind == InstrumentKind::absorptiometry && wanders) return {false, chart.words};
    if (wanders) return {true, "Ready, but: " + chart.words};
    return {true, "Ready."};
}

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
// What air displacement adds to a visit.
#include "bench/visit/visit_kinds.h"

#include "bench/checks/instrument_check.h"
#include "core/base/limits.h"

#include <cmath>

namespace fusain::bench {
namespace {

using What = Trial::What;
constexpr char k_l[] = "l", f_cylinder[] = "air_displacement.cylinder_l";
constexpr double pa_per_mmhg = 133.322;
constexpr double gain_doubt = 0.01; ///< of the pressure sensors against each other, in the lung manoeuvre
constexpr double repeat_doubt_l =
    0.05; ///< where in the breath the valve shuts. No source: the lab's own repeats replace it

/// The certified volume is a number somebody typed once, and everything hangs on it.
std::optional<Message> refuse_cylinder(const Visit& v, const Event& e)
{
    if (auto m = needs_number<k_l, f_cylinder>(v, e)) return m;
    const double litres = e.body["l"];
    if (v.cylinder_register_l > 0 && std::abs(litres - v.cylinder_register_l) > 0.01 * v.cylinder_register_l)
        return Message{"cylinder_differs", Level::error, f_cylinder,
            "The cylinder's volume is given as " + limits::plain(litres, 3) + " L; this chamber's cylinder is " +
                limits::plain(v.cylinder_register_l, 3) +
                " L in the register (1 % is allowed). Read the number on the cylinder, or correct the register."};
    return std::nullopt;
}

std::optional<Message> refuse_trial(const Visit& v, const Event& e)
{
    for (Step s : v.steps()) {
        if (s == Step::calibrate) break;
        if (!v.done(s)) return not_now(std::string("Before the chamber: ") + title(s) + ".");
    }
    const std::string what = e.body["what"];
    if (what == word(What::empty)) return std::nullopt;
    if (what == word(What::cylinder)) {
        if (!v.cylinder_l)
            return Message{"missing_field", Level::error, f_cylinder, "The cylinder's volume comes first."};
        const Trial* empty = v.last_taken(What::empty);
        const Trial* before = v.last_taken(What::cylinder);
        if (!empty || (before && before->number > empty->number))
            return not_now("First the empty chamber, then the cylinder.");
        return std::nullopt;
    }
    if (what == word(What::weighing)) return not_now("There is no weighing under water in this visit.");
    const auto line = v.calibration();
    if (!line) return line.messages().front();
    if (what == word(What::puffs))
        return v.readings().empty() ? std::optional(not_now("First a volume run, then the lungs.")) : std::nullopt;
    // a chamber drifts with the room: a calibration is worth something right before the client only
    const double age_min = (seconds_of(e.at_utc) - seconds_of(v.calibrated_at())) / 60;
    if (age_min < -1)
        return Message{"calibration_stale", Level::error, "calibration",
            "The calibration is dated " + limits::plain(-age_min, 0) +
                " minutes in the future: the clock was set back, and nobody knows how old it is. Calibrate again: "
                "empty, then the cylinder."};
    const double holds_min = v.readings().empty() ? calibration_holds_min : calibration_ends_min;
    if (!(age_min <= holds_min))
        return Message{"calibration_stale", Level::error, "calibration",
            "The chamber was calibrated " + limits::plain(age_min, 0) + " minutes ago; at most " +
                limits::plain(holds_min, 0) +
                (v.readings().empty() ? " before the first run." : " before a later run.") +
                " Calibrate again: empty, then the cylinder."};
    if (v.readings().size() >= displacement::most_runs && !displacement::agree(v.readings()))
        return not_now("No two of three runs agree: calibrate again and start over.");
    return std::nullopt;
}

} // namespace

void add_chamber_kinds(Kinds& table)
{
    table.merge(Kinds{
        {"prepared",
            {[](const Visit& v, const Event& e) -> std::optional<Message> {
                 if (auto m = needs_open(v, e)) return m;
                 if (!e.body.contains("seen") || !e.body["seen"].is_array() || e.body["seen"].empty())
                     return Message{"missing_field", Level::error, "seen", "Say what was seen to before the chamber."};
                 return std::nullopt;
             },
                [](Visit& v, const Event& e) {
                    v.prepared = e.body["seen"].get<std::vector<std::string>>();
                    v.left_out = e.body.value("left_out", std::vector<std::string>{});
                }}},
        {"cylinder", {refuse_cylinder, [](Visit& v, const Event& e) { v.cylinder_l = e.body["l"].get<double>(); }}},
        {"lung_gas", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                          if (auto m = needs_open(v, e)) return m;
                          const std::string route = e.body.value("route", "");
                          if (route == "measured" && !v.measured_gas())
                              return Message{"missing_field", Level::error,
                                  "air_displacement.lung.thoracic_gas_volume_l", "No puffs were accepted yet."};
                          if (route == "measured" ||
                              (route == "predicted" && lung::find_gas(e.body.value("equation", ""))))
                              return std::nullopt;
                          return Message{"unknown_choice", Level::error, "air_displacement.lung.source",
                              "Choose how the lung gas is known."};
                      },
                         [](Visit& v, const Event& e) {
                             v.gas_done = true;
                             v.gas_route = e.body["route"] == "measured" ? displacement::LungRoute::measured
                                                                         : displacement::LungRoute::predicted;
                             v.gas_equation = e.body.value("equation", v.gas_equation);
                         }}},
    });
}

std::optional<Message> refuse_chamber_reading(const Visit& v, const Trial& running, const Event& e)
{
    const Json& b = e.body;
    const auto number = [&](const char* key) {
        return b.contains(key) && b[key].is_number() && std::isfinite(b[key].get<double>());
    };
    if (running.what == What::puffs) {
        for (const char* key : {"slope", "merit", "peak_cmh2o"})
            if (!number(key) || !(b[key].get<double>() > 0))
                return Message{
                    "missing_field", Level::error, key, std::string("Field ") + key + " is missing or not positive."};
        if (auto m = check_number(b, "barometric_mmhg", "hydrostatic.lung.barometric_mmhg")) return m;
        if (!(b["merit"].get<double>() < chamber::merit_limit) ||
            !(b["peak_cmh2o"].get<double>() < chamber::airway_limit_cmh2o))
            return Message{"puffs_refused", Level::repeat, "air_displacement.lung.thoracic_gas_volume_l",
                "Puffs count when their merit is under 1.0 and the airway stays under 35 cmH₂O."};
        return std::nullopt;
    }
    for (const char* key : {"ratio", "u_ratio", "phase_rad"})
        if (!number(key) || (key[0] != 'p' && !(b[key].get<double>() > 0)))
            return Message{
                "missing_field", Level::error, key, std::string("Field ") + key + " is missing or not positive."};
    Trial read = running;
    take_chamber_reading(read, e);
    if (running.what == What::cylinder) {
        if (!v.last_taken(What::empty))
            return not_now("The reading of the empty chamber was thrown out: begin with the empty chamber again.");
        const auto line = chamber::calibrate(v.last_taken(What::empty)->ratio, read.ratio, *v.cylinder_l);
        if (!line) return line.messages().front();
        if (!(line->a_l >= smallest_chamber_l && line->a_l <= largest_chamber_l))
            return Message{"calibration_failed", Level::repeat, f_cylinder,
                "With a cylinder of " + limits::plain(*v.cylinder_l, 3) + " L this chamber would hold " +
                    limits::plain(line->a_l, 0) + " L; a test chamber holds " + limits::plain(smallest_chamber_l, 0) +
                    " to " + limits::plain(largest_chamber_l, 0) +
                    " L. Check the cylinder's volume and that it stood in the chamber."};
    }
    if (running.what == What::run)
        if (const auto line = v.calibration())
            return limits::check("air_displacement.raw_volumes_l", line->volume_l(read.ratio.value));
    return std::nullopt;
}

void take_chamber_reading(Trial& t, const Event& e)
{
    const Json& b = e.body;
    if (t.what == What::puffs) {
        t.slope = b["slope"];
        t.u_slope = b.value("u_slope", 0.0);
        t.merit = b["merit"];
        t.peak_cmh2o = b["peak_cmh2o"];
        t.barometric_mmhg = b["barometric_mmhg"];
        return;
    }
    t.ratio.value = b["ratio"];
    t.ratio.u = b["u_ratio"];
    t.ratio.phase_rad = b["phase_rad"];
    t.ratio.drift_per_s = b.value("drift_per_s", 0.0);
    t.ratio.breath = b.value("breath", 0.0);
}

MethodRow chamber_row()
{
    using enum Step;
    return {
        protocol::Method::air_displacement,
        "air displacement",
        "The client can leave at any time: the release button opens the door. Local rules and licensed practice "
        "decide.",
        "The sum appears with the first run.",
        "Not a result yet: the last run, lung gas as chosen so far.",
        {who, stops, mass, prepare, calibrate, runs, lung_gas, result},
        refuse_trial,
        [](const Visit& v, const Trial& t) -> std::optional<double> {
            // runs that were taken with the newest calibration
            if (t.what != What::run || !t.has_reading) return std::nullopt;
            const auto line = v.calibration();
            if (!line || t.number < v.last_taken(What::cylinder)->number) return std::nullopt;
            return line->volume_l(t.ratio.value);
        },
        [](const Visit& v) {
            const auto in = v.displacement_input();
            if (!in || !v.gas_done) return no_result("The test is not complete.");
            auto computed = displacement::compute(*in);
            if (!computed) return computed;
            Messages messages = computed.messages();
            for (const std::string& words : v.left_out)
                messages.push_back({"left_out", Level::caution, "", "Done all the same: " + words + "."});
            if (v.gas_route != v.gas_route_used())
                messages.push_back({"lung_gas_lost", Level::caution, "air_displacement.lung.source",
                    "The puffs that the lung gas was measured with were thrown out: it is predicted from age, height "
                    "and sex now."});
            if (v.mass_before_kg)
                if (const auto drift = judgement::judge_drift(*v.mass_before_kg, *v.mass_kg))
                    messages.push_back(*drift);
            return Outcome<densitometry::Result>(std::move(computed).take(), std::move(messages));
        },
        [](const Visit& v) {
            auto in = v.displacement_input();
            if (!in || in->raw_volumes_l.empty()) return no_result("Nothing is measured yet.");
            in->raw_volumes_l = {in->raw_volumes_l.back(), in->raw_volumes_l.back()};
            return displacement::compute(*in);
        },
        [](const Visit& v) {
            const auto in = v.displacement_input();
            return in ? displacement::what_ifs(*in) : std::vector<densitometry::WhatIf>{};
        },
    };
}

Outcome<chamber::Calibration> Visit::calibration() const
{
    const Trial* cylinder = last_taken(What::cylinder);
    const Trial* empty = nullptr; // the one before it: a newer one begins a new calibration
    if (cylinder)
        for (const Trial& t : trials)
            if (t.what == What::empty && t.status == Trial::Status::taken) empty = &t;
    if (!cylinder || !empty || empty->number > cylinder->number || !cylinder_l)
        return Outcome<chamber::Calibration>::refuse(
            Message{"not_now", Level::error, "calibration", "Calibrate the chamber first: empty, then the cylinder."});
    return chamber::calibrate(empty->ratio, cylinder->ratio, *cylinder_l);
}

std::string Visit::calibrated_at() const
{
    const Trial* cylinder = last_taken(What::cylinder);
    return cylinder ? cylinder->begun_at : std::string();
}

std::optional<Visit::Gas> Visit::measured_gas() const
{
    const Trial* puffs = last_taken(What::puffs);
    const auto line = calibration();
    const std::vector<double> volumes = readings();
    if (!puffs || !line || volumes.empty()) return std::nullopt;
    double mean_l = 0;
    for (double v : volumes) mean_l += v / static_cast<double>(volumes.size());
    const double litres = lung::boyle_gas_l(puffs->slope, line->a_l - mean_l, puffs->barometric_mmhg * pa_per_mmhg);
    return Gas{litres, std::hypot(litres * puffs->u_slope / puffs->slope, litres * gain_doubt, repeat_doubt_l)};
}

std::optional<displacement::Input> Visit::displacement_input() const
{
    const auto line = calibration();
    if (method != protocol::Method::air_displacement || !mass_kg || !line) return std::nullopt;
    displacement::Input in;
    in.sex = subject.sex;
    in.age_y = age_y();
    in.height_cm = height_cm();
    in.mass_kg = *mass_kg;
    in.conversion = conversion;
    in.raw_volumes_l = readings();
    in.lung.equation = gas_equation;
    if (const auto gas = measured_gas(); gas && gas_route == displacement::LungRoute::measured)
        in.lung = {gas_route, gas->litres, gas->u_l, gas_equation};
    double run_u = 0;
    for (int n : reading_numbers())
        run_u = std::max(run_u, chamber::reading_of(trials[static_cast<std::size_t>(n - 1)].ratio, *line).u_run_l);
    in.errors.single_run_l = std::max(run_u, 0.02);
    if (!in.raw_volumes_l.empty())
        in.errors.calibration_l = line->u_l((in.raw_volumes_l.front() - line->a_l) / line->b_l);
    return in;
}

} // namespace fusain::bench

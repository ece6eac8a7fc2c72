// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chamber/chamber.h"

#include "bench/checks/instrument_check.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {
namespace {

constexpr char f_cylinder[] = "air_displacement.cylinder_l";
constexpr double pa_per_mmhg = 133.322;
constexpr double gain_doubt = 0.01; ///< of the pressure sensors against each other, in the lung manoeuvre
constexpr double repeat_doubt_l =
    0.05; ///< where in the breath the valve shuts. No source: the lab's own repeats replace it

} // namespace

std::optional<RatioRead> ratio_read(const chamber::State& state)
{
    if (state.fault != chamber::Fault::none || !state.ratio) return std::nullopt;
    return RatioRead{*state.ratio, state.now_s};
}

void ChamberState::begin(const event::Started& started, const std::string& body)
{
    DensityState::begin(started, body);
    const protocol::HouseRules& house = started.house;
    if (const auto at = house.find("chamber_lung_gas"); at != house.end() && at->second == "measured")
        gas_route = displacement::LungRoute::measured;
}

std::optional<Message> ChamberState::refuse_trial(const Visit& v, const event::TrialBegun& e, const Stamp& stamp) const
{
    if (auto m = needs_steps_before(v, step::calibrate, "Before the chamber")) return m;
    const std::string& what = e.what;
    if (what == take::empty) return std::nullopt;
    if (what == take::cylinder) {
        if (!cylinder_l)
            return Message{"missing_field", Level::error, f_cylinder, "The cylinder's volume comes first."};
        const Trial* empty = v.last_taken(take::empty);
        const Trial* before = v.last_taken(take::cylinder);
        if (!empty || (before && before->number > empty->number))
            return not_now("First the empty chamber, then the cylinder.");
        return std::nullopt;
    }
    if (self_calibrated())
        return not_now("The chamber's own volumes are typed in this test. To measure here, calibrate it here: empty, "
                       "then the cylinder.");
    const auto line = calibration(v);
    if (!line) return line.messages().front();
    if (what == take::puffs)
        return v.readings().empty() ? std::optional(not_now("First a volume run, then the lungs.")) : std::nullopt;
    // a chamber drifts with the room: a calibration is worth something right before the client only
    const double age_min = (seconds_of(stamp.at_utc) - seconds_of(calibrated_at(v))) / 60;
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

std::optional<Message> ChamberState::refuse_ratio(
    const Visit& v, const Trial& running, const chamber::Ratio& read) const
{
    if (running.is(take::cylinder)) {
        if (!v.last_taken(take::empty))
            return not_now("The reading of the empty chamber was thrown out: begin with the empty chamber again.");
        const auto line = chamber::calibrate(ratios.at(v.last_taken(take::empty)->number), read, *cylinder_l);
        if (!line) return line.messages().front();
        if (!(line->chamber_l() >= smallest_chamber_l && line->chamber_l() <= largest_chamber_l))
            return Message{"calibration_failed", Level::repeat, f_cylinder,
                "With a cylinder of " + limits::plain(*cylinder_l, 3) + " L this chamber would hold " +
                    limits::plain(line->chamber_l(), 0) + " L; a test chamber holds " +
                    limits::plain(smallest_chamber_l, 0) + " to " + limits::plain(largest_chamber_l, 0) +
                    " L. Check the cylinder's volume and that it stood in the chamber."};
    }
    if (running.is(take::run))
        if (const auto line = calibration(v)) {
            const double volume_l = line->volume_l(read.value);
            if (auto bad = limits::check("air_displacement.raw_volumes_l", volume_l)) return bad;
            if (v.log_version >= 3) return chamber::impossible(volume_l, *line);
        }
    return std::nullopt;
}

std::optional<Message> ChamberState::take_reading(const Visit& before, const Trial& running, const Event& e)
{
    if (running.is(take::empty)) self_from_ = 0; // calibrated here from now on
    if (running.is(take::puffs)) {
        const auto puffs = read<event::PuffsTaken>(e.body);
        if (!puffs) return puffs.messages().front();
        if (!(puffs->merit < chamber::merit_limit) || !(puffs->peak_cmh2o < chamber::airway_limit_cmh2o))
            return Message{"puffs_refused", Level::repeat, "air_displacement.lung.thoracic_gas_volume_l",
                "Puffs count when their merit is under 1.0 and the airway stays under 35 cmH₂O."};
        typed_gas_l.reset();
        puffings[running.number] = *puffs;
        return std::nullopt;
    }
    const auto ratio = read<event::RatioTaken>(e.body);
    if (!ratio) return ratio.messages().front();
    if (auto m = chamber_of(before).refuse_ratio(before, running, *ratio)) return m;
    ratios[running.number] = *ratio;
    return std::nullopt;
}

void ChamberState::calibrate_itself(const Visit& v)
{
    self_from_ = static_cast<int>(v.trials.size()) + 1;
    surface_corrected = lungs_corrected = mean_of_runs = false;
}

bool ChamberState::enough(const Visit& v) const
{
    return (mean_of_runs && !v.readings().empty()) || bool(displacement::agree(v.readings()));
}

const double* ChamberState::typed_volume_l(int trial) const
{
    const auto at = typed_l.find(trial);
    return at == typed_l.end() ? nullptr : &at->second;
}

std::optional<Message> ChamberState::take_typed(const Visit& v, const Trial& trial, const Event& event)
{
    const auto typed = read<event::VolumeTyped>(event.body);
    if (!typed) return typed.messages().front();
    const event::VolumeTyped& e = *typed;
    const ChamberState& before = chamber_of(v);
    if (auto m = needs_steps_before(v, step::calibrate, "Before the chamber")) return m;
    const bool run = trial.is(take::run);
    if (e.recorded) { // from a file, by the same reader
        if (trial.is(take::puffs)) return not_now("Puffs are not read from a file.");
        if (trial.is(take::cylinder) && !cylinder_l)
            return Message{
                "missing_field", Level::error, f_cylinder, "The volume engraved on the cylinder is needed first."};
        if (run && !calibration(v))
            return not_now("Calibrate first: the recordings of the empty chamber and of the cylinder.");
        if (run && v.readings().size() >= displacement::most_runs && !displacement::agree(v.readings()))
            return not_now("No two of three runs agree: calibrate again and start over.");
        if (auto m = before.refuse_ratio(v, trial, *e.recorded)) return m;
        if (trial.is(take::empty)) self_from_ = 0; // calibrated here from now on
        ratios[trial.number] = *e.recorded;
        return std::nullopt;
    }
    if (!run)
        return not_now("Only volumes of the client are typed; the instrument's own calibration is its own matter.");
    if (auto m = before.refuse_volume(v, e)) return m;
    typed_l[trial.number] = e.kg_per_l ? *v.mass_kg / *e.kg_per_l : *e.l;
    surface_corrected = e.is_corrected_for("surface");
    lungs_corrected = e.is_corrected_for("lung_gas");
    mean_of_runs = e.mean;
    return std::nullopt;
}

std::optional<Message> ChamberState::refuse_volume(const Visit& v, const event::VolumeTyped& e) const
{
    constexpr const char* field = "air_displacement.raw_volumes_l";
    if (!self_calibrated())
        return not_now("Say first that the instrument has calibrated itself; its own volumes rest on that.");
    if (auto m =
            e.kg_per_l ? check_number(e.kg_per_l, "kg_per_l", "body_density_kg_per_l") : check_number(e.l, "l", field))
        return m;
    const double litres = e.kg_per_l ? *v.mass_kg / *e.kg_per_l : *e.l;
    if (const double by_mass = *v.mass_kg / litres; !(by_mass > 0.85 && by_mass < 1.25))
        return Message{"out_of_range", Level::error, field,
            limits::plain(litres, 3) + " L for " + limits::plain(*v.mass_kg, 2) + " kg would be a density of " +
                limits::plain(by_mass, 3) + " kg/L; allowed is 0.85 to 1.25. Is a digit mistyped, or the mass wrong?"};
    const bool first = v.readings().empty();
    if (!first && (mean_of_runs || e.mean))
        return not_now("The instrument's own mean stands by itself: throw out what was typed before.");
    if (!first &&
        (e.is_corrected_for("surface") != surface_corrected || e.is_corrected_for("lung_gas") != lungs_corrected))
        return Message{"corrected_differs", Level::error, "corrected",
            "The runs typed before were corrected for other things. Runs of one result hold the same corrections."};
    if (v.readings().size() >= displacement::most_runs && !displacement::agree(v.readings()))
        return not_now("No two of three runs agree: calibrate again and start over.");
    return std::nullopt;
}

std::optional<double> ChamberState::value(const Visit& v, const Trial& t) const
{
    // runs that were taken with the newest calibration
    if (!t.is(take::run) || !t.has_reading) return std::nullopt;
    if (const double* litres = typed_volume_l(t.number))
        return t.number >= self_from_ && self_calibrated() ? std::optional(*litres) : std::nullopt;
    const auto line = calibration(v);
    if (!line || t.number < v.last_taken(take::cylinder)->number || t.number < self_from_) return std::nullopt;
    return line->volume_l(ratios.at(t.number).value);
}

Outcome<Result> ChamberState::result(const Visit& v) const
{
    const auto in = input(v);
    if (!in || !(gas_done || lungs_corrected)) return no_result("The test is not complete.");
    auto computed = displacement::compute(*in);
    if (!computed) return computed;
    Messages messages = computed.messages();
    for (const std::string& words : left_out)
        messages.push_back({"left_out", Level::caution, "", "Done all the same: " + words + "."});
    if (gas_route != gas_route_used(v))
        messages.push_back({"lung_gas_lost", Level::caution, "air_displacement.lung.source",
            "The puffs that the lung gas was measured with were thrown out: it is predicted from age, height "
            "and sex now."});
    if (v.mass_before_kg)
        if (const auto drift = judgement::judge_drift(*v.mass_before_kg, *v.mass_kg)) messages.push_back(*drift);
    return Outcome<Result>(std::move(computed).take(), std::move(messages));
}

Outcome<Result> ChamberState::provisional(const Visit& v) const
{
    auto in = input(v);
    if (!in || in->raw_volumes_l.empty()) return no_result("Nothing is measured yet.");
    if (!in->mean_of_runs) in->raw_volumes_l = {in->raw_volumes_l.back(), in->raw_volumes_l.back()};
    return displacement::compute(*in);
}

std::vector<WhatIf> ChamberState::what_ifs(const Visit& v) const
{
    const auto in = input(v);
    return in ? displacement::what_ifs(*in) : std::vector<WhatIf>{};
}

std::string ChamberState::schools(const Visit& v) const
{
    return schools_of(conversion, displacement::id(gas_route_used(v)));
}

std::string ChamberState::lung(const Visit& v) const
{
    const auto route = gas_route_used(v);
    return displacement::id(route) + (route == displacement::LungRoute::predicted ? ' ' + gas_equation : std::string());
}

const Puffing* ChamberState::last_puffing(const Visit& v) const
{
    const Trial* puffs = v.last_taken(take::puffs);
    return puffs ? &puffings.at(puffs->number) : nullptr;
}

displacement::LungRoute ChamberState::gas_route_used(const Visit& v) const
{
    return gas_route == displacement::LungRoute::measured && measured_gas(v) ? gas_route
                                                                             : displacement::LungRoute::predicted;
}

Outcome<chamber::Calibration> ChamberState::calibration(const Visit& v) const
{
    const Trial* cylinder = v.last_taken(take::cylinder);
    const Trial* empty = nullptr; // the one before it: a newer one begins a new calibration
    if (cylinder)
        for (const Trial& t : v.trials)
            if (t.is(take::empty) && t.status == Trial::Status::taken) empty = &t;
    if (!cylinder || !empty || empty->number > cylinder->number || !cylinder_l)
        return Outcome<chamber::Calibration>::refuse(
            Message{"not_now", Level::error, "calibration", "Calibrate the chamber first: empty, then the cylinder."});
    return chamber::calibrate(ratios.at(empty->number), ratios.at(cylinder->number), *cylinder_l);
}

std::string ChamberState::calibrated_at(const Visit& v) const
{
    const Trial* cylinder = v.last_taken(take::cylinder);
    return cylinder ? cylinder->begun_at : std::string();
}

std::optional<ChamberState::Gas> ChamberState::measured_gas(const Visit& v) const
{
    return typed_gas_l ? Gas{*typed_gas_l, lung::measured_gas_error_l} : puffed_gas(v);
}

std::optional<ChamberState::Gas> ChamberState::puffed_gas(const Visit& v) const
{
    const Puffing* puffs = last_puffing(v);
    const auto line = calibration(v);
    const std::vector<double> volumes = v.readings();
    if (!puffs || !line || volumes.empty()) return std::nullopt;
    double mean_l = 0;
    for (double each : volumes) mean_l += each / static_cast<double>(volumes.size());
    const double litres = lung::boyle_gas_l(puffs->slope, line->a_l - mean_l, puffs->barometric_mmhg * pa_per_mmhg);
    return Gas{litres, std::hypot(litres * puffs->u_slope / puffs->slope, litres * gain_doubt, repeat_doubt_l)};
}

std::optional<displacement::Input> ChamberState::input(const Visit& v) const
{
    const auto line = calibration(v);
    if (!v.mass_kg || !(line || self_calibrated())) return std::nullopt;
    displacement::Input in;
    static_cast<densitometry::Person&>(in) = person(v);
    in.raw_volumes_l = v.readings();
    in.lung.equation = gas_equation;
    if (const auto gas = measured_gas(v); gas && gas_route == displacement::LungRoute::measured)
        in.lung = {gas_route, gas->litres, gas->u_l, gas_equation, typed_gas_l.has_value()};
    const bool typed = self_calibrated() && !in.raw_volumes_l.empty();
    if (typed) {
        in.runs_from.assign(in.raw_volumes_l.size(), "typed: the chamber's own volume");
        in.errors.single_run_l = number_of_rule(v.house, "typed_volume_l", in.errors.single_run_l);
        in.surface_corrected = surface_corrected;
        in.lungs_corrected = lungs_corrected;
        in.mean_of_runs = mean_of_runs;
        return in;
    }
    bool any_file = false;
    for (int n : v.reading_numbers()) {
        const Trial& t = v.trial(n);
        any_file |= t.source == "file";
        in.runs_from.push_back(t.source == "file" ? "file " + t.file : "chamber");
    }
    if (!any_file) in.runs_from.clear();
    double run_u = 0;
    for (int n : v.reading_numbers()) run_u = std::max(run_u, chamber::reading_of(ratios.at(n), *line).u_run_l);
    in.errors.single_run_l = std::max(run_u, 0.02);
    if (!in.raw_volumes_l.empty())
        in.errors.calibration_l = line->u_l((in.raw_volumes_l.front() - line->a_l) / line->b_l);
    return in;
}

} // namespace fusain::bench

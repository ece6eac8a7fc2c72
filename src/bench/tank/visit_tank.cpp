// SPDX-License-Identifier: GPL-3.0-or-later
// What hydrostatic weighing adds to a visit.
#include "bench/visit/visit_kinds.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {
namespace {

constexpr char k_l[] = "l", k_c[] = "c", f_vc[] = "hydrostatic.lung.vital_capacity_l",
               f_rv[] = "hydrostatic.lung.residual_volume_l", f_water[] = "hydrostatic.water_temp_c";

} // namespace

void add_tank_kinds(Kinds& table)
{
    table.merge(Kinds{
        {"blow", {needs_number<k_l, f_vc>,
                     [](Visit& v, const Event& e) {
                         v.blows.push_back({e.body["l"], false, ""});
                     }}},
        {"blow_thrown_out", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                                 const Json& b = e.body;
                                 if (auto m = needs_open(v, e)) return m;
                                 const int number = b.value("number", 0);
                                 if (number < 1 || number > static_cast<int>(v.blows.size()))
                                     return not_now("There is no blow " + std::to_string(number) + ".");
                                 return std::nullopt;
                             },
                                [](Visit& v, const Event& e) {
                                    Blow& blow = v.blows[static_cast<std::size_t>(e.body["number"].get<int>() - 1)];
                                    blow.thrown_out = true;
                                    blow.reason = e.body.value("reason", "");
                                }}},
        {"lungs", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                       const Json& b = e.body;
                       if (auto m = needs_open(v, e)) return m;
                       const std::string route = b.value("route", "");
                       if (route == "measured") return check_number(b, "rv_l", f_rv);
                       if (route == "vital_capacity") {
                           if (v.blows_kept() < 3)
                               return Message{"too_few_blows", Level::error, f_vc,
                                   "At least three blows are needed; " + std::to_string(v.blows_kept()) +
                                       " kept so far."};
                           if (auto m = check_number(b, "gas_temp_c", "hydrostatic.lung.gas_temp_c")) return m;
                           return check_number(b, "barometric_mmhg", "hydrostatic.lung.barometric_mmhg");
                       }
                       if (route == "age_height" && lung::find(b.value("equation", ""))) return std::nullopt;
                       return Message{"unknown_choice", Level::error, "hydrostatic.lung.source",
                           "Choose a route to the residual volume."};
                   },
                      [](Visit& v, const Event& e) {
                          v.lungs_done = true;
                          const std::string route = e.body["route"];
                          v.lung_route = route == "measured"     ? hydrostatic::LungRoute::measured
                                         : route == "age_height" ? hydrostatic::LungRoute::age_height
                                                                 : hydrostatic::LungRoute::vital_capacity;
                          if (e.body.contains("rv_l")) v.measured_rv_l = e.body["rv_l"].get<double>();
                          if (e.body.contains("gas_temp_c")) v.gas_temp_c = e.body["gas_temp_c"].get<double>();
                          if (e.body.contains("barometric_mmhg"))
                              v.barometric_mmhg = e.body["barometric_mmhg"].get<double>();
                          if (e.body.contains("equation")) v.lung_equation = e.body["equation"];
                      }}},
        {"zero", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                      const Json& b = e.body;
                      if (auto m = needs_open(v, e)) return m;
                      if (!b.contains("kg") || !b["kg"].is_number() || !std::isfinite(b["kg"].get<double>()))
                          return Message{"missing_field", Level::error, "zero", "The zero reading is missing."};
                      return std::nullopt;
                  },
                     [](Visit& v, const Event& e) {
                         v.zero_kg = e.body["kg"].get<double>();
                         v.zero_sd_kg = e.body.value("sd_kg", 0.0);
                     }}},
        {"water", {needs_number<k_c, f_water>,
                      [](Visit& v, const Event& e) {
                          v.water_temp_c = e.body["c"].get<double>();
                          v.salinity_g_per_l = e.body.value("salinity_g_per_l", 0.0);
                      }}},
    });
}

MethodRow tank_row()
{
    using enum Step;
    return {
        protocol::Method::hydrostatic,
        "hydrostatic weighing",
        "Never alone at the tank. Wet floor. Local rules and licensed practice decide.",
        "The sum appears with the first trial.",
        "Not a result yet: the mean of all trials.",
        {who, stops, mass, lungs, zero, water, trials, result},
        [](const Visit& v, const Event& e) -> std::optional<Message> {
            if (e.body.value("what", std::string(word(Trial::What::weighing))) != word(Trial::What::weighing))
                return not_now("There is no chamber in this visit.");
            for (Step s : v.steps()) {
                if (s == trials) break;
                if (!v.done(s)) return not_now(std::string("Before a trial: ") + title(s) + ".");
            }
            return std::nullopt;
        },
        [](const Visit&, const Trial& t) -> std::optional<double> {
            return t.has_reading ? std::optional(t.kg) : std::nullopt;
        },
        [](const Visit& v) {
            const auto in = v.hydrostatic_input();
            return in ? hydrostatic::compute(*in) : no_result("The test is not complete.");
        },
        [](const Visit& v) {
            auto in = v.hydrostatic_input();
            if (!in || in->trials_kg.empty()) return no_result("Nothing is measured yet.");
            in->trial_rule = "mean_all";
            return hydrostatic::compute(*in);
        },
        [](const Visit& v) {
            const auto in = v.hydrostatic_input();
            return in ? hydrostatic::what_ifs(*in) : std::vector<densitometry::WhatIf>{};
        },
    };
}

int Visit::blows_kept() const
{
    return static_cast<int>(std::count_if(blows.begin(), blows.end(), [](const Blow& b) { return !b.thrown_out; }));
}

std::optional<double> Visit::best_blow_l() const
{
    std::optional<double> best;
    for (const Blow& b : blows)
        if (!b.thrown_out && (!best || b.volume_l > *best)) best = b.volume_l;
    return best;
}

std::optional<hydrostatic::Input> Visit::hydrostatic_input() const
{
    if (method != protocol::Method::hydrostatic || !mass_kg || !water_temp_c || !lung_route || !lungs_done)
        return std::nullopt;
    hydrostatic::Input in;
    in.sex = subject.sex;
    in.age_y = age_y();
    in.height_cm = height_cm();
    in.mass_kg = *mass_kg;
    in.trials_kg = readings();
    for (int n : reading_numbers()) in.trials_u_kg.push_back(trials[static_cast<std::size_t>(n - 1)].u_kg);
    in.zero_sd_kg = zero_sd_kg;
    in.trial_rule = trial_rule;
    in.water_temp_c = *water_temp_c;
    in.salinity_g_per_l = salinity_g_per_l;
    in.conversion = conversion;
    in.lung.route = *lung_route;
    in.lung.equation = lung_equation;
    in.lung.residual_volume_l = measured_rv_l.value_or(NAN);
    in.lung.vital_capacity_l = best_blow_l().value_or(NAN);
    in.lung.body_conditions = false;
    in.lung.gas_temp_c = gas_temp_c.value_or(NAN);
    in.lung.barometric_mmhg = barometric_mmhg.value_or(NAN);
    return in;
}

} // namespace fusain::bench

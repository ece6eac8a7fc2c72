// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/plan.h"

#include "core/base/limits.h"
#include "core/body/reference.h"

#include <algorithm>
#include <cmath>

namespace fusain::plan {
namespace {

constexpr double adult_y = 18;
constexpr int week_days = 7, most_weeks = 156, halvings = 80;
constexpr double most_loss_kg = 1, most_loss_share = 0.01, most_gain_kg = 0.5, most_gain_intake = 1.2;
constexpr double static_kcal_per_kg = 7700;
// the model
constexpr double adaptive = 0.14, adaptive_days = 14, thermic = 0.1, forbes_kg = 10.4;
constexpr double fat_kcal = 3.2, fat_free_kcal = 22; ///< at rest, per kg and day
constexpr double fat_energy = 9440, fat_cost = 180, fat_free_energy = 1816, fat_free_cost = 230;
constexpr double least_fat_kg = 0.05;

struct State {
    double fat, fat_free, adapted;
};
State operator+(const State& a, const State& b)
{
    return {a.fat + b.fat, a.fat_free + b.fat_free, a.adapted + b.adapted};
}
State operator*(double k, const State& s) { return {k * s.fat, k * s.fat_free, k * s.adapted}; }

class Model {
public:
    explicit Model(const Input& in)
        : start_(in.body), share_(find_lean(in.lean)->share), resting_(energy::find(in.school)->kcal(in.body)),
          daily_(in.activity_level * resting_),
          delta_(((1 - thermic) * in.activity_level - 1) * resting_ / start_.mass_kg()),
          rest_(daily_ - fat_kcal * start_.fat_kg - fat_free_kcal * start_.fat_free_kg - delta_ * start_.mass_kg())
    {
    }
    double resting() const { return resting_; }
    double daily() const { return daily_; }
    double mass() const { return start_.mass_kg(); }

    std::vector<Day> run(double intake, int days) const
    {
        std::vector<Day> out{{start_.fat_kg, start_.fat_free_kg}};
        State s{start_.fat_kg, start_.fat_free_kg, 0};
        for (int d = 0; d < days; ++d) {
            const State k1 = slope(s, intake), k2 = slope(s + 0.5 * k1, intake), k3 = slope(s + 0.5 * k2, intake),
                        k4 = slope(s + k3, intake);
            s = s + (1.0 / 6) * (k1 + 2 * k2 + 2 * k3 + k4);
            s.fat = std::max(s.fat, least_fat_kg); // nobody gets there: the plan is refused long before
            out.push_back({s.fat, s.fat_free});
        }
        return out;
    }
    Day after(double intake, int weeks) const { return run(intake, week_days * weeks).back(); }

private:
    State slope(const State& s, double intake) const
    {
        const double more = intake - daily_, a = share_ * forbes_kg / std::max(s.fat, least_fat_kg);
        const double spent = rest_ + fat_kcal * s.fat + fat_free_kcal * s.fat_free + delta_ * (s.fat + s.fat_free) +
                             thermic * more + s.adapted;
        const double fat = (intake - spent) / (fat_energy + fat_cost + a * (fat_free_energy + fat_free_cost));
        return {fat, a * fat, (adaptive * more - s.adapted) / adaptive_days};
    }
    energy::Body start_;
    double share_, resting_, daily_, delta_, rest_;
};

double value(const Day& d, Aim aim)
{
    return aim == Aim::fat_percent ? 100 * d.fat_kg / d.mass_kg() : aim == Aim::mass_kg ? d.mass_kg() : d.fat_kg;
}

const char* field_of(Aim aim)
{
    return aim == Aim::fat_percent ? "fat_percent" : aim == Aim::mass_kg ? "mass_kg" : "fat_mass_kg";
}

Messages check(const Input& in)
{
    Messages bad = energy::check(in.body, in.activity_level, in.school, "plan");
    const std::string path = std::string("plan.target.") + field_of(in.aim);
    const char* limit = in.aim == Aim::fat_percent ? "plan.target.fat_percent"
                        : in.aim == Aim::mass_kg   ? "mass_kg"
                                                   : "energy.fat_mass_kg";
    if (auto m = limits::check(limit, in.target)) {
        m->field = path;
        bad.push_back(*m);
    }
    if (auto m = limits::check("plan.weeks", in.weeks)) bad.push_back(*m);
    if (!find_lean(in.lean))
        bad.push_back({"unknown_choice", Level::error, "plan.lean",
            "plan.lean is \"" + in.lean + "\"; allowed is one of forbes, half_forbes, kept."});
    if (in.range != "gallagher_2000" && in.range != "one_band")
        bad.push_back({"unknown_choice", Level::error, "plan.range",
            "plan.range is \"" + in.range + "\"; allowed is one of gallagher_2000, one_band."});
    return bad;
}

/// Where a switch from true to false lies between two intakes.
template <class Holds>
double border(double holds, double fails, const Holds& test)
{
    for (int i = 0; i < halvings; ++i) {
        const double mid = (holds + fails) / 2;
        (test(mid) ? holds : fails) = mid;
    }
    return holds;
}

/// Of the target if only fat changed.
double target_fat_kg(const Input& in)
{
    return in.aim == Aim::fat_percent ? in.target / (100 - in.target) * in.body.fat_free_kg
           : in.aim == Aim::mass_kg   ? in.target - in.body.fat_free_kg
                                      : in.target;
}

/// The intake that goes as fast as is allowed: the first week decides, the later ones are slower.
double strictest(const Model& model, bool loses)
{
    const auto first_week = [&](double intake) { return model.after(intake, 1).mass_kg() - model.mass(); };
    const double most_loss = std::min(most_loss_kg, most_loss_share * model.mass());
    if (loses) {
        const auto slow_enough = [&](double intake) { return -first_week(intake) <= most_loss; };
        return slow_enough(model.resting()) ? model.resting() : border(model.daily(), model.resting(), slow_enough);
    }
    const double most = most_gain_intake * model.daily();
    const auto slow_enough = [&](double intake) { return first_week(intake) <= most_gain_kg; };
    return slow_enough(most) ? most : border(model.daily(), most, slow_enough);
}

/// The row for the age, or the nearest.
const reference::Row& range_row(const reference::RangeSet& set, const energy::Body& b, bool& extended)
{
    const reference::Row* nearest = nullptr;
    double best = INFINITY;
    for (const reference::Row& row : set.rows) {
        if (row.sex != b.sex) continue;
        const double away = b.age_y < row.age_from_y     ? row.age_from_y - b.age_y
                            : b.age_y >= row.age_below_y ? b.age_y - row.age_below_y + 1e-9
                                                         : 0;
        if (away < best) {
            best = away;
            nearest = &row;
        }
    }
    extended = best > 0;
    return *nearest;
}

} // namespace

const Lean* find_lean(std::string_view id)
{
    for (const Lean& l : leans)
        if (id == l.id) return &l;
    return nullptr;
}

std::vector<Day> at_intake(const Input& in, double intake_kcal, int days) { return Model(in).run(intake_kcal, days); }

Outcome<Result> compute(const Input& in)
{
    if (Messages bad = check(in); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    Result r;
    Messages messages;
    const auto put = [&](const Quantity& q, double v) { r.values.push_back({&q, v, 0, 0}); };
    const auto refused = [&](const char* code, const char* field, std::string text) {
        messages.push_back({code, Level::refused, field, std::move(text)});
        return Outcome<Result>(std::move(r), std::move(messages));
    };
    if (in.body.age_y < adult_y)
        return refused(
            "no_plan_minor", "age_y", "Under 18 no plan to lose or gain is made. Ask a paediatric dietitian.");
    if (in.pregnant)
        return refused("no_plan_pregnant", "plan.pregnant", "In pregnancy no plan to lose or gain is made.");

    const Model model(in);
    const double lean = in.body.fat_free_kg, start_kg = in.body.mass_kg(), target_fat = target_fat_kg(in);
    const double target_kg = target_fat + lean, change = target_kg - start_kg;
    bool extended = false;
    const reference::Row& healthy = range_row(*reference::find(in.range), in.body, extended);
    if (extended)
        messages.push_back({"range_extended", Level::caution, "age_y",
            std::string("The range has no row for this age; that of ") + healthy.label + " is taken."});
    if (100 * target_fat / target_kg < healthy.low - 1e-9) { // its very edge is allowed
        put(quantity::nearest_fat_percent, healthy.low);
        return refused("target_under_healthy", "plan.target",
            "The target is " + limits::plain(100 * target_fat / target_kg, 1) + " % fat, under the healthy range for " +
                healthy.label + " (from " + limits::plain(healthy.low, 0) + " %). The nearest is its lower edge.");
    }
    const bool loses = change < 0;
    const auto met = [&](const Day& d) {
        return loses ? value(d, in.aim) <= in.target : value(d, in.aim) >= in.target;
    };
    const double strict = strictest(model, loses);
    const std::vector<Day> fastest = model.run(strict, week_days * most_weeks);
    int earliest = 0;
    for (int w = 1; w <= most_weeks && earliest == 0; ++w)
        if (met(fastest[static_cast<std::size_t>(week_days * w)])) earliest = w;
    const Day then = fastest[static_cast<std::size_t>(week_days * in.weeks)];
    if (earliest == 0 || earliest > in.weeks) {
        put(quantity::nearest_fat_percent, 100 * then.fat_kg / then.mass_kg());
        if (earliest == 0)
            return refused("not_reached", "plan.target",
                "The target is not reached within three years at the strictest intake that is allowed.");
        put(quantity::earliest_weeks, earliest);
        const std::string later = " The earliest is week " + std::to_string(earliest) + ".";
        if (loses && !met(model.after(model.resting(), in.weeks)))
            return refused("under_resting", "plan.weeks",
                "To be there by then the intake would have to lie under what lying in bed needs." + later);
        return refused("too_fast", "plan.weeks",
            loses
                ? "To be there by then more than a kilogram or 1 % of body mass a week would have to go." + later
                : "To be there by then more than half a kilogram a week would have to be gained, or more than a fifth "
                  "eaten beyond the day." +
                      later);
    }
    // between the strictest, which meets it, and the day itself, which does not yet
    const auto meets = [&](double intake) { return met(model.after(intake, in.weeks)); };
    const double intake = meets(model.daily()) ? model.daily() : border(strict, model.daily(), meets);
    const Day arrival = model.after(intake, in.weeks);
    const double moved = arrival.mass_kg() - start_kg, days = week_days * in.weeks;
    put(quantity::target_mass, target_kg);
    put(quantity::fat_change, change);
    put(quantity::intake, intake);
    put(quantity::pace, moved / in.weeks);
    put(quantity::pace_percent, 100 * moved / in.weeks / start_kg);
    put(quantity::static_intake, model.daily() + static_kcal_per_kg * moved / days);
    put(quantity::earliest_weeks, earliest);
    put(quantity::arrive_fat, arrival.fat_kg);
    put(quantity::arrive_fat_free, arrival.fat_free_kg);
    return {std::move(r), std::move(messages)};
}

double strictest_intake(const Input& in)
{
    return strictest(Model(in), target_fat_kg(in) + in.body.fat_free_kg < in.body.mass_kg());
}

double mass_if_only_fat(const energy::Body& body, double fat_percent)
{
    return body.fat_free_kg / (1 - fat_percent / 100);
}

Band band(const Input& in, double intake, int days)
{
    const double doubt = in.activity_level * energy::residual_sd_kcal;
    Band out;
    for (const Lean& school : leans)
        for (const double by : {-doubt, doubt}) {
            Input one = in;
            one.lean = school.id;
            const std::vector<Day> way = at_intake(one, intake + by, days);
            for (std::size_t d = 0; d < way.size(); ++d) {
                const double percent = 100 * way[d].fat_kg / way[d].mass_kg();
                if (out.low.size() <= d) {
                    out.low.push_back(percent);
                    out.high.push_back(percent);
                }
                out.low[d] = std::min(out.low[d], percent);
                out.high[d] = std::max(out.high[d], percent);
            }
        }
    return out;
}

std::optional<int> first_seen_week(const Input& in, double intake, double lsc_percent)
{
    const std::vector<Day> way = at_intake(in, intake, week_days * most_weeks);
    const double start = value(way.front(), Aim::fat_percent);
    for (int w = 1; w <= most_weeks; ++w)
        if (std::abs(value(way[static_cast<std::size_t>(week_days * w)], Aim::fat_percent) - start) >= lsc_percent)
            return w;
    return std::nullopt;
}

Progress progress(double planned, double measured, double lsc)
{
    if (std::abs(planned) < lsc && std::abs(measured) < lsc) return Progress::not_yet;
    if (std::abs(measured - planned) < lsc) return Progress::on_the_way;
    return (measured - planned > 0) == (planned > 0) ? Progress::ahead : Progress::behind;
}

} // namespace fusain::plan

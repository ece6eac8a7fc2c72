// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/plan.h"

#include "core/base/limits.h"
#include "core/body/reference.h"

#include <algorithm>
#include <cmath>

namespace fusain::plan {
namespace {

constexpr int week_days = 7, most_weeks = 156, halvings = 80;
constexpr double most_loss_kg = 1, most_loss_share = 0.01, most_gain_kg = 0.5, most_gain_intake = 1.2;
constexpr double static_kcal_per_kg = 7700;
// the model
constexpr double adaptive = 0.14, adaptive_days = 14, thermic = 0.1, forbes_kg = 10.4;
constexpr double fat_kcal = 3.2, fat_free_kcal = 22; ///< at rest, per kg and day
constexpr double fat_energy = 9440, fat_cost = 180, fat_free_energy = 1816, fat_free_cost = 230;
constexpr double least_fat_kg = 0.05;
constexpr double activity_error = 0.15; ///< of the activity level, guessed from words: half a class of FAO/WHO/UNU 2004

struct State {
    double fat, fat_free, adapted;
};
State operator+(const State& a, const State& b)
{
    return {a.fat + b.fat, a.fat_free + b.fat_free, a.adapted + b.adapted};
}
State operator*(double k, const State& s) { return {k * s.fat, k * s.fat_free, k * s.adapted}; }

std::string school_of(const Input& in)
{
    return in.school.empty() ? energy::default_school_for(in.body.age_y) : in.school;
}

class Model {
public:
    explicit Model(const Input& in)
        : start_(in.body), lean_(*find_lean(in.lean)), resting_(energy::find(school_of(in))->kcal(in.body)),
          daily_(in.activity_level * resting_),
          delta_(((1 - thermic) * in.activity_level - 1) * resting_ / start_.mass_kg()),
          rest_(daily_ - fat_kcal * start_.fat_kg - fat_free_kcal * start_.fat_free_kg - delta_ * start_.mass_kg())
    {
    }
    double resting() const { return resting_; }
    double daily() const { return daily_; }
    double mass() const { return start_.mass_kg(); }
    double floor() const { return safe::least_intake_kcal(start_.sex, resting_); }

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
        const double more = intake - daily_, share = more > 0 ? lean_.share_gained : lean_.share_lost,
                     a = share * forbes_kg / std::max(s.fat, least_fat_kg);
        const double spent = rest_ + fat_kcal * s.fat + fat_free_kcal * s.fat_free + delta_ * (s.fat + s.fat_free) +
                             thermic * more + s.adapted;
        const double fat = (intake - spent) / (fat_energy + fat_cost + a * (fat_free_energy + fat_free_cost));
        return {fat, a * fat, (adaptive * more - s.adapted) / adaptive_days};
    }
    energy::Body start_;
    Lean lean_;
    double resting_, daily_, delta_, rest_;
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
    Messages bad = energy::check(in.body, in.activity_level, school_of(in), "plan");
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
    const double most_loss = most_loss_kg_per_week(model.mass());
    if (loses) {
        const double least = std::min(model.floor(), model.daily());
        const auto slow_enough = [&](double intake) { return -first_week(intake) <= most_loss; };
        return slow_enough(least) ? least : border(model.daily(), least, slow_enough);
    }
    const double most = most_gain_intake * model.daily();
    const auto slow_enough = [&](double intake) { return first_week(intake) <= most_gain_kg; };
    return slow_enough(most) ? most : border(model.daily(), most, slow_enough);
}

/// The body on its day, with what does not change of it.
energy::Body on(const Day& d, const energy::Body& start)
{
    energy::Body b = start;
    b.fat_kg = d.fat_kg;
    b.fat_free_kg = d.fat_free_kg;
    return b;
}

/// Why nobody is led there; nothing: the body may arrive so.
std::optional<std::string> too_low(const energy::Body& there, const energy::Body& start)
{
    const double bmi = there.bmi(), least = safe::least_bmi(start.age_y);
    if (bmi < least)
        return "body mass index would be " + limits::plain(bmi, 1) + " kg/m² on arrival, under " +
               limits::plain(least, 1) + (start.age_y >= safe::old_y ? " (from 70 years)" : "");
    const double least_ffmi = safe::least_ffmi(start.sex);
    if (start.ffmi() < least_ffmi) {
        if (start.fat_free_kg - there.fat_free_kg <= safe::spare_fat_free_kg) return std::nullopt;
        return "fat-free mass index is under " + limits::plain(least_ffmi, 1) + " kg/m² already, and " +
               limits::plain(start.fat_free_kg - there.fat_free_kg, 1) + " kg of fat-free mass would go";
    }
    if (there.ffmi() < least_ffmi)
        return "fat-free mass index would be " + limits::plain(there.ffmi(), 1) + " kg/m² on arrival, under " +
               limits::plain(least_ffmi, 1);
    return std::nullopt;
}

/// Percent fat after the last whole week, from today, at which both indexes are at their least or above; of a body that
/// begins under one of them, today's.
double nearest_percent(const std::vector<Day>& way, const energy::Body& start)
{
    double percent = start.fat_percent();
    for (std::size_t day = week_days; day < way.size(); day += week_days)
        if (const energy::Body b = on(way[day], start);
            b.bmi() >= safe::least_bmi(start.age_y) && b.ffmi() >= safe::least_ffmi(start.sex))
            percent = b.fat_percent();
    return percent;
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
    };
    const Model model(in);
    const double lean = in.body.fat_free_kg, start_kg = in.body.mass_kg(), target_fat = target_fat_kg(in);
    const double target_kg = target_fat + lean, change = target_kg - start_kg;
    const bool loses = change < 0;
    if (in.body.age_y < safe::adult_y)
        refused("no_plan_minor", "age_y", "Under 18 no plan to lose or gain is made. Ask a paediatric dietitian.");
    if (in.facts.pregnant)
        refused("no_plan_pregnant", "plan.pregnant", "In pregnancy no plan to lose or gain is made.");
    if (in.facts.eating_disorder)
        refused("no_plan_eating_disorder", "plan.eating_disorder",
            "Where an eating disorder is or was treated no plan to lose or gain is made.");
    if (loses)
        if (const auto why = safe::why_no_loss(in.body)) refused("no_plan_low", "plan.fat_mass_kg", *why);
    if (!messages.empty()) return {std::move(r), std::move(messages)};

    const auto nearest_is = [&](double percent) { put(quantity::nearest_fat_percent, percent); };
    const auto done = [&] { return Outcome<Result>(std::move(r), std::move(messages)); };
    const reference::RangeSet& range = *reference::find(in.range);
    const reference::Row& healthy = range.nearest(in.body.sex, in.body.age_y);
    if (!range.row(in.body.sex, in.body.age_y))
        messages.push_back({"range_extended", Level::caution, "age_y",
            std::string("The range has no row for this age; that of ") + healthy.label + " is taken."});
    if (100 * target_fat / target_kg < healthy.low - 1e-9) { // its very edge is allowed
        Input to_edge = in;
        to_edge.aim = Aim::fat_percent;
        to_edge.target = healthy.low;
        const auto there = compute(to_edge);
        const bool low = there && std::any_of(there.messages().begin(), there.messages().end(),
                                      [](const Message& m) { return m.code == "arrival_too_low"; });
        const double nearest = low ? (*there)[quantity::nearest_fat_percent].value : healthy.low;
        nearest_is(nearest);
        refused("target_under_healthy", "plan.target",
            "The target is " + limits::plain(100 * target_fat / target_kg, 1) + " % fat, under the healthy range for " +
                healthy.label + " (from " + limits::plain(healthy.low, 0) + " %). The nearest that is safe is " +
                limits::plain(nearest, 1) + " %.");
        return done();
    }
    const auto met = [&](const Day& d) {
        return loses ? value(d, in.aim) <= in.target : value(d, in.aim) >= in.target;
    };
    if (loses && model.daily() <= model.floor()) {
        nearest_is(in.body.fat_percent());
        refused("not_reached", "plan.target",
            "The day needs " + limits::plain(model.daily(), 0) + " kcal, and nobody is told to eat less than " +
                limits::plain(model.floor(), 0) + " kcal: nothing can be lost this way.");
        return done();
    }
    const double strict = strictest(model, loses);
    const std::vector<Day> fastest = model.run(strict, week_days * most_weeks);
    int earliest = 0;
    for (int w = 1; w <= most_weeks && earliest == 0; ++w)
        if (met(fastest[static_cast<std::size_t>(week_days * w)])) earliest = w;
    const Day then = fastest[static_cast<std::size_t>(week_days * in.weeks)];
    if (earliest == 0) {
        nearest_is(100 * then.fat_kg / then.mass_kg());
        refused("not_reached", "plan.target",
            "The target is not reached within three years at the strictest intake that is allowed.");
        return done();
    }
    const bool in_time = earliest <= in.weeks;
    // between the strictest, which meets it, and the day itself, which does not yet
    const auto meets = [&](double intake) { return met(model.after(intake, in.weeks)); };
    const double intake = !in_time               ? strict
                          : meets(model.daily()) ? model.daily()
                                                 : border(strict, model.daily(), meets);
    const Day arrival = model.after(intake, in_time ? in.weeks : earliest);
    if (const auto why = loses ? too_low(on(arrival, in.body), in.body) : std::nullopt) {
        const double nearest = nearest_percent(fastest, in.body);
        nearest_is(nearest);
        put(quantity::earliest_weeks, earliest);
        refused("arrival_too_low", "plan.target",
            "Nobody is led there: " + *why + ". The nearest that is safe is " + limits::plain(nearest, 1) + " % fat.");
        return done();
    }
    if (!in_time) {
        nearest_is(100 * then.fat_kg / then.mass_kg());
        put(quantity::earliest_weeks, earliest);
        const std::string later = " The earliest is week " + std::to_string(earliest) + ".";
        if (loses && !met(model.after(model.resting(), in.weeks)))
            refused("under_resting", "plan.weeks",
                "To be there by then the intake would have to lie under what lying in bed needs." + later);
        else if (loses && !met(model.after(model.floor(), in.weeks)))
            refused("under_floor", "plan.weeks",
                "To be there by then the intake would have to lie under " + limits::plain(model.floor(), 0) +
                    " kcal a day, the least that anybody is told to eat." + later);
        else
            refused("too_fast", "plan.weeks",
                loses ? "To be there by then more than a kilogram or 1 % of body mass a week would have to go." + later
                      : "To be there by then more than half a kilogram a week would have to be gained, or more than a "
                        "fifth eaten beyond the day." +
                            later);
        return done();
    }
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
    put(quantity::arrive_bmi, on(arrival, in.body).bmi());
    put(quantity::arrive_ffmi, on(arrival, in.body).ffmi());
    put(quantity::floor_intake, model.floor());
    return done();
}

double resting_kcal(const Input& in) { return Model(in).resting(); }
double daily_kcal(const Input& in) { return Model(in).daily(); }

double most_loss_kg_per_week(double mass_kg) { return std::min(most_loss_kg, most_loss_share * mass_kg); }

std::optional<Day> furthest_down(const Input& in, int weeks)
{
    // it has no aim yet: of the plan's input only the body and its day are asked
    if (!energy::check(in.body, in.activity_level, school_of(in), "plan").empty() || !find_lean(in.lean) ||
        !reference::find(in.range) || in.body.age_y < safe::adult_y || in.facts.pregnant || in.facts.eating_disorder ||
        safe::why_no_loss(in.body))
        return std::nullopt;
    const Model model(in);
    if (model.daily() <= model.floor()) return std::nullopt;
    const double least_percent = reference::find(in.range)->nearest(in.body.sex, in.body.age_y).low;
    const std::vector<Day> way = model.run(strictest(model, true), week_days * weeks);
    for (std::size_t day = way.size() - 1; day >= week_days; day -= week_days)
        if (const energy::Body b = on(way[day], in.body); b.fat_percent() >= least_percent && !too_low(b, in.body))
            return way[day];
    return std::nullopt;
}

double strictest_intake(const Input& in)
{
    return strictest(Model(in), target_fat_kg(in) + in.body.fat_free_kg < in.body.mass_kg());
}

double mass_if_only_fat(const energy::Body& body, double fat_percent)
{
    return body.fat_free_kg / (1 - fat_percent / 100);
}

double need_error_kcal(const Input& in)
{
    return std::hypot(in.activity_level * energy::residual_sd_kcal, activity_error * Model(in).resting());
}

Band band(const Input& in, double intake, int days)
{
    const double doubt = need_error_kcal(in);
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

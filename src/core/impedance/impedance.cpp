// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/impedance/impedance.h"

#include "core/base/limits.h"
#include "core/body/balance.h"
#include "core/body/possible.h"
#include "core/quality/judgement.h"

#include <algorithm>
#include <numbers>
#include <tuple>

namespace fusain::impedance {
namespace {

constexpr double exchanged_limit = 1.15;                 ///< a leg so far over its arm is no leg. This lab's rule
constexpr double trunk_limit = 0.5;                      ///< of a limb: the trunk is a tenth of one
constexpr double phase_low_deg = 2, phase_high_deg = 12; ///< this lab's rule, outside all published norms
constexpr double water_kg_per_l = 0.99371;               ///< at 36 °C
// what conditions do to the resistance between hand and foot
constexpr double cold_skin_per_c = 0.008; ///< Caton et al. 1988, Med Sci Sports Exerc 20:489–491: 8 % for 9 °C
constexpr double just_stood = 0.015;      ///< this lab's rule: water is still on its way to the legs
constexpr double arm_of_height = 0.332;   ///< Drillis & Contini 1966; so far from thumb to shoulder
constexpr double arm_of_whole = 0.52;     ///< of the resistance between hand and foot

constexpr double waters_apart = 0.10; ///< by equation and by the arc. This lab's rule

/// Inputs of the chain, in order.
enum Slot : std::size_t {
    mass,
    height,
    r50,
    x50,
    contact,
    ffm_error,
    water_error,
    muscle_error,
    r_zero,
    r_inf,
    outside_error,
    inside_error
};

/// Quantities in the order of the chain; the arc's come last and may be left out.
std::vector<const Quantity*> places(const Input& in, bool with_arc)
{
    using namespace quantity;
    std::vector<const Quantity*> all = {&resistance, &reactance, &phase_angle};
    if (in.equations.total_body_water != no_equation) all.push_back(&total_body_water);
    if (in.equations.skeletal_muscle != no_equation) all.push_back(&skeletal_muscle);
    if (in.equations.fat_free_mass != no_equation)
        all.insert(all.end(), {&fat_percent, &fat_mass, &fat_free_mass, &bmi, &ffmi, &fmi});
    else
        all.push_back(&bmi);
    if (with_arc) all.insert(all.end(), {&r0, &rinf, &extracellular_water, &intracellular_water, &ecw_ratio});
    return all;
}

std::string path_of(const Input& in, std::size_t segment)
{
    return in.has_segments() ? std::string("impedance.segments.") + segment_rows[segment].id : "impedance.whole_body";
}
std::string name_of(const Input& in, std::size_t segment)
{
    return in.has_segments() ? segment_rows[segment].title : "whole body";
}

/// What is measured, one spectrum after the other: segments, or the whole body alone.
std::vector<std::pair<std::size_t, std::vector<Point>>> spectra(const Input& in)
{
    std::vector<std::pair<std::size_t, std::vector<Point>>> out;
    if (!in.has_segments()) out.emplace_back(0, in.whole_body);
    for (std::size_t i = 0; i < segment_count; ++i)
        if (!in.segments[i].empty()) out.emplace_back(i, in.segments[i]);
    for (auto& [segment, points] : out)
        std::sort(points.begin(), points.end(), [](const Point& a, const Point& b) { return a.f_khz < b.f_khz; });
    return out;
}

const Point* at_50(const std::vector<Point>& points)
{
    const auto at = std::find_if(points.begin(), points.end(), [](const Point& p) { return p.f_khz == equations_khz; });
    return at == points.end() ? nullptr : &*at;
}

std::optional<Message> limit(const std::string& path, const char* field, double value)
{
    auto m = limits::check(std::string("impedance.") + field, value);
    if (m) m->field = path + '.' + field;
    return m;
}

void check_points(const Input& in, std::size_t segment, const std::vector<Point>& points, Messages& bad)
{
    const std::string path = path_of(in, segment), name = name_of(in, segment);
    for (std::size_t i = 0; i < points.size(); ++i) {
        const Point& p = points[i];
        const bool swapped = p.x_ohm > p.r_ohm && p.r_ohm > 0;
        if (swapped)
            bad.push_back({"swapped", Level::error, path,
                "The " + name + " has a reactance of " + limits::plain(p.x_ohm, 1) + " Ω over a resistance of " +
                    limits::plain(p.r_ohm, 1) + " Ω at " + limits::plain(p.f_khz) +
                    " kHz; allowed is a reactance under the resistance. Are the two swapped?"});
        for (const auto& [field, value] :
            {std::pair{"f_khz", p.f_khz}, {"r_ohm", p.r_ohm}, {"x_ohm", swapped ? 0 : p.x_ohm}})
            if (const auto m = limit(path, field, value)) bad.push_back(*m);
        if (i > 0 && points[i - 1].f_khz == p.f_khz)
            bad.push_back({"frequency_twice", Level::error, path,
                "The " + name + " has " + limits::plain(p.f_khz) + " kHz twice; allowed is once."});
    }
    if (!at_50(points))
        bad.push_back({"missing_field", Level::error, path,
            "The " + name + " has no point at 50 kHz, which every equation rests on."});
}

std::string ids(Predicts what)
{
    std::string out;
    for (const Equation& e : equations())
        if (e.what == what) out += (out.empty() ? "" : ", ") + std::string(e.id);
    return out;
}

Messages check(const Input& in)
{
    Messages bad;
    for (const auto& [field, value] :
        {std::pair{"age_y", in.age_y}, {"height_cm", in.height_cm}, {"mass_kg", in.mass_kg}})
        if (const auto m = limits::check(field, value)) bad.push_back(*m);
    const auto unknown = [&](const char* field, const std::string& given, const std::string& allowed) {
        bad.push_back({"unknown_choice", Level::error, std::string("impedance.equations.") + field,
            std::string("impedance.equations.") + field + " is \"" + given + "\"; allowed is one of " + allowed + "."});
    };
    for (const auto& [field, what, id] :
        {std::tuple{"fat_free_mass", Predicts::fat_free_mass, in.equations.fat_free_mass},
            {"total_body_water", Predicts::total_body_water, in.equations.total_body_water},
            {"skeletal_muscle", Predicts::skeletal_muscle, in.equations.skeletal_muscle}})
        if (id != no_equation && !find(what, id)) unknown(field, id, ids(what) + ", none");
    if (!knows_water_spaces(in.equations.water_spaces))
        unknown("water_spaces", in.equations.water_spaces, "moissl_2006, de_lorenzo_1997");
    if (in.has_segments()) {
        for (Segment s : in_the_way)
            if (const auto i = static_cast<std::size_t>(s); in.segments[i].empty())
                bad.push_back({"missing_field", Level::error, path_of(in, i),
                    std::string("The ") + segment_rows[i].title +
                        " is missing; the whole body is right arm, trunk and right leg."});
    } else if (in.whole_body.empty()) {
        bad.push_back({"missing_field", Level::error, "impedance.segments",
            "There is no spectrum: neither of segments nor of the whole body."});
    }
    for (const auto& [segment, points] : spectra(in))
        if (!points.empty()) check_points(in, segment, points, bad);
    return bad;
}

/// A body's impedance falls as the frequency rises; where it does not, something else was measured.
Messages not_falling(const Input& in)
{
    Messages out;
    for (const auto& [segment, points] : spectra(in))
        for (std::size_t i = 1; i < points.size(); ++i) {
            const double before = std::hypot(points[i - 1].r_ohm, points[i - 1].x_ohm),
                         now = std::hypot(points[i].r_ohm, points[i].x_ohm);
            if (!(now < before))
                out.push_back({"impedance_not_falling", Level::repeat, path_of(in, segment),
                    "The impedance of the " + name_of(in, segment) + " does not fall from " +
                        limits::plain(points[i - 1].f_khz) + " kHz (" + limits::plain(before, 1) + " Ω) to " +
                        limits::plain(points[i].f_khz) + " kHz (" + limits::plain(now, 1) +
                        " Ω): check its contacts and measure it again."});
        }
    return out;
}

std::vector<Point> whole_body(const Input& in)
{
    if (!in.has_segments()) return spectra(in).front().second;
    std::vector<std::vector<Point>> way;
    for (Segment s : in_the_way) way.push_back(in.segments[static_cast<std::size_t>(s)]);
    auto out = in_series(way);
    std::sort(out.begin(), out.end(), [](const Point& a, const Point& b) { return a.f_khz < b.f_khz; });
    return out;
}

/// Null where none is chosen.
const Equation* equation(const Input& in, Predicts what)
{
    return find(what, what == Predicts::fat_free_mass      ? in.equations.fat_free_mass
                      : what == Predicts::total_body_water ? in.equations.total_body_water
                                                           : in.equations.skeletal_muscle);
}

double bmi_of(const Input& in) { return in.mass_kg / (in.height_cm * in.height_cm / 1e4); }

std::vector<uncertainty::Input> uncertain_inputs(const Input& in, const Point& whole, const std::optional<Arc>& arc)
{
    const double bmi = bmi_of(in);
    const auto error = [&](Predicts what) {
        const Equation* e = equation(in, what);
        return e ? error_in(*e, in.sex, bmi) : Error();
    };
    const Error lean = error(Predicts::fat_free_mass), water = error(Predicts::total_body_water),
                muscle = error(Predicts::skeletal_muscle);
    std::vector<uncertainty::Input> x = {{"M", "body mass", "kg", in.mass_kg, in.errors.mass_kg},
        {"H", "height", "cm", in.height_cm, in.errors.height_cm}, {"R", "resistance", "Ω", whole.r_ohm, 0},
        {"Xc", "reactance", "Ω", whole.x_ohm, in.errors.reactance_ohm},
        {"κ", "contact, posture and skin", "", 0, in.errors.resistance_share},
        {"δFFM", "equation for fat-free mass", "kg", 0, lean.u, true},
        {"δTBW", water.known ? "equation for water" : "equation for water, error unknown", "L", 0, water.u, true},
        {"δSMM", "equation for muscle", "kg", 0, muscle.u, true}};
    if (arc) {
        x.push_back({"R0", "R0 of the arc", "Ω", arc->r0_ohm, arc->u_r0_ohm});
        x.push_back({"R∞", "R∞ of the arc", "Ω", arc->rinf_ohm, arc->u_rinf_ohm});
        const bool known = in.equations.water_spaces == "moissl_2006";
        x.push_back({"δECW", known ? "equation for water outside" : "equation for water outside, error unknown", "L", 0,
            moissl_outside_error_l, true});
        x.push_back({"δICW", known ? "equation for water inside" : "equation for water inside, error unknown", "L", 0,
            moissl_inside_error_l, true});
    }
    return x;
}

/// The whole computation, once: with double the values, with Grad their derivatives.
template <class T>
std::vector<T> chain(const Input& in, const std::vector<T>& x)
{
    using std::atan;
    const T met = T(1.0) + x[contact], r = x[r50] * met, height_m2 = x[height] * x[height] / T(1e4);
    const Body<T> b{in.sex, T(in.age_y), x[height], x[mass], r, x[x50]};
    std::vector<T> v = {r, x[x50], atan(x[x50] / r) * T(180 / std::numbers::pi)};
    if (const Equation* e = equation(in, Predicts::total_body_water)) v.push_back(predict(*e, b) + x[water_error]);
    if (const Equation* e = equation(in, Predicts::skeletal_muscle)) v.push_back(predict(*e, b) + x[muscle_error]);
    if (const Equation* e = equation(in, Predicts::fat_free_mass)) {
        const T ffm = predict(*e, b) + x[ffm_error], fat = x[mass] - ffm;
        v.insert(v.end(), {T(100.0) * fat / x[mass], fat, ffm, x[mass] / height_m2, ffm / height_m2, fat / height_m2});
    } else {
        v.push_back(x[mass] / height_m2);
    }
    if (x.size() > r_inf) {
        const T r0 = x[r_zero] * met, rinf = x[r_inf] * met, ri = r0 * rinf / (r0 - rinf);
        const Spaces<T> spaces =
            in.equations.water_spaces == "moissl_2006" ? moissl_2006(b, r0, ri) : de_lorenzo_1997(b, r0, ri);
        const T outside = spaces.outside + x[outside_error], inside = spaces.inside + x[inside_error];
        v.insert(v.end(), {r0, rinf, outside, inside, outside / (outside + inside)});
    }
    return v;
}

/// What says that contacts, posture or cables were not right, though the impedance falls.
void add_doubts_of_measuring(const Input& in, const Result& r, Messages& out)
{
    const auto ohms = [&](Segment s) -> double {
        const Point* p = at_50(in.segments[index(s)]);
        return p ? std::hypot(p->r_ohm, p->x_ohm) : NAN;
    };
    const auto say = [&](const char* code, std::string field, std::string text) {
        out.push_back({code, Level::caution, std::move(field), std::move(text)});
    };
    for (const Sides& s : pairs_of_sides) {
        const double right = ohms(s.right), left = ohms(s.left);
        if (std::abs(right - left) > sides_apart * (right + left) / 2)
            say("sides_differ", "impedance.segments",
                std::string("Right and left of the ") + s.title + " differ by over 20 % (" + limits::plain(right, 0) +
                    " and " + limits::plain(left, 0) + " Ω): check contacts and posture, and measure again.");
    }
    for (const auto& [arm, leg, side] :
        {std::tuple{Segment::right_arm, Segment::right_leg, "right"}, {Segment::left_arm, Segment::left_leg, "left"}})
        if (ohms(leg) > exchanged_limit * ohms(arm))
            say("segments_exchanged", std::string("impedance.segments.") + row(leg).id,
                std::string("The ") + side + " leg (" + limits::plain(ohms(leg), 0) + " Ω) lies far over the " + side +
                    " arm (" + limits::plain(ohms(arm), 0) + " Ω): are the two exchanged?");
    for (Segment s : all_segments)
        if (s != Segment::trunk && ohms(Segment::trunk) > trunk_limit * ohms(s)) {
            say("segments_exchanged", "impedance.segments.trunk",
                "The trunk (" + limits::plain(ohms(Segment::trunk), 0) + " Ω) is no smaller than half of the " +
                    row(s).title + " (" + limits::plain(ohms(s), 0) + " Ω): are segments exchanged?");
            break;
        }
    const double phase = r[quantity::phase_angle].value;
    if (!(phase >= phase_low_deg && phase <= phase_high_deg))
        say("phase_unusual", "impedance.x_ohm",
            "The phase angle of " + limits::plain(phase, 1) + "° is outside " + limits::plain(phase_low_deg) + " to " +
                limits::plain(phase_high_deg) + "°, where nearly everybody lies: check contacts and cables.");
}

void add_cautions(const Input& in, const Result& r, bool with_arc, Messages& out)
{
    const auto say = [&](const char* code, std::string field, std::string text) {
        out.push_back({code, Level::caution, std::move(field), std::move(text)});
    };
    if (!with_arc)
        say("one_frequency", "impedance",
            "There are fewer than three frequencies: no arc, and no water inside and outside the cells.");
    for (Predicts what : {Predicts::fat_free_mass, Predicts::total_body_water, Predicts::skeletal_muscle}) {
        const Equation* e = equation(in, what);
        if (!e) continue;
        if (!e->covers(in.age_y, bmi_of(in)))
            say("outside_group", "impedance.equations",
                std::string("The client is outside the group ") + e->title + " was made on (" + e->made_on + ").");
        if (!e->error(in.sex))
            say("error_unknown", "impedance.equations",
                std::string(e->title) +
                    " comes without an error of its own here: the widest of its kind is assumed, which is no statement "
                    "of chance.");
    }
    if (with_arc && in.age_y < adult_y)
        say("outside_group", "impedance.equations.water_spaces",
            "Water inside and outside the cells is reckoned as in adults; the client is under 18.");
    if (const Value* water = r.find(quantity::total_body_water); water && with_arc) {
        const double by_arc = r[quantity::extracellular_water].value + r[quantity::intracellular_water].value,
                     apart = std::abs(water->value - by_arc);
        if (apart > waters_apart * std::min(water->value, by_arc))
            say("waters_differ", "impedance",
                "Water is " + limits::plain(water->value, 1) + " L by " +
                    equation(in, Predicts::total_body_water)->title + " and " + limits::plain(by_arc, 1) +
                    " L by the arc, over 10 % apart: neither is sure.");
    }
    add_doubts_of_measuring(in, r, out);
    if (!equation(in, Predicts::fat_free_mass)) {
        say("no_equation", "impedance.equations.fat_free_mass",
            "No equation for fat-free mass is chosen: none was made on people of " + limits::plain(in.age_y, 0) +
                " years. What was measured stands; an equation is chosen by its name.");
        return;
    }
    const double fat = r[quantity::fat_percent].value, bmi = r[quantity::bmi].value;
    if (const char* build = judgement::unusual_build(in.sex, in.age_y, fat, r[quantity::ffmi].value, bmi))
        say("outside_group", "impedance.equations",
            std::string("The client is ") + build +
                "; impedance equations were not made on such people, and read "
                "them less surely.");
    for (Message& m :
        judgement::judge_composition(in.sex, in.age_y, fat, r[quantity::ffmi].value, r[quantity::fmi].value))
        out.push_back(std::move(m));
}

std::vector<Rung> build_ladder(const Input& in, const Result& r)
{
    if (!equation(in, Predicts::fat_free_mass)) return {};
    const double lean = r[quantity::fat_free_mass].value, u_lean = r[quantity::fat_free_mass].u;
    std::vector<Rung> rungs;
    if (const Equation* e = equation(in, Predicts::total_body_water)) {
        const double water = water_kg_per_l * r[quantity::total_body_water].value,
                     u_water = water_kg_per_l * r[quantity::total_body_water].u;
        rungs = {{"water", e->title, water, u_water, true, true, Tissue::water},
            {"dry lean", "protein and mineral", lean - water, std::hypot(u_lean, u_water), false, true, Tissue::lean}};
    } else {
        rungs = {
            {"fat-free mass", equation(in, Predicts::fat_free_mass)->title, lean, u_lean, true, true, Tissue::lean}};
    }
    rungs.push_back({"fat", "mass less fat-free mass", r[quantity::fat_mass].value, r[quantity::fat_mass].u, false,
        true, Tissue::fat});
    rungs.push_back({"body mass", "", in.mass_kg, in.errors.mass_kg, true, true});
    return rungs;
}

void tell_story(const Input& in, Result& r, const std::optional<Arc>& arc)
{
    using Kind = StoryStep::Kind;
    const auto add = [&](Kind kind, const char* symbol, std::string title, double value, const char* unit, int decimals,
                         double u, std::string source) {
        r.story.push_back({kind, symbol, std::move(title), value, unit, decimals, u, std::move(source)});
    };
    const auto tell = [&](Kind kind, const char* symbol, const Quantity& q, std::string source) {
        add(kind, symbol, q.title, r[q].value, q.unit, q.decimals, r[q].u, std::move(source));
    };
    const auto by = [&](Predicts what, Kind kind, const char* symbol, const Quantity& q) {
        if (const Equation* e = equation(in, what)) tell(kind, symbol, q, e->source);
    };
    add(Kind::input, "M", "Body mass", in.mass_kg, "kg", 2, in.errors.mass_kg, in.mass_from);
    add(Kind::input, "H", "Height", in.height_cm, "cm", 1, in.errors.height_cm, "measured");
    add(Kind::input, "A", "Age", in.age_y, "y", 2, 0, "date of birth");
    const char* way = in.has_segments() ? "right arm + trunk + right leg" : "whole body";
    tell(Kind::input, "R", quantity::resistance, way);
    tell(Kind::input, "Xc", quantity::reactance, way);
    tell(Kind::equation, "φ", quantity::phase_angle, "atan(Xc/R)");
    add(Kind::equation, "RI", "Conductor's index", in.height_cm * in.height_cm / r[quantity::resistance].value, "cm²/Ω",
        2, 0, "H²/R");
    if (arc) {
        const std::string fitted = "Cole's arc, fitted; it leaves " + limits::plain(arc->residual_ohm, 2) + " Ω";
        tell(Kind::equation, "R0", quantity::r0, fitted);
        tell(Kind::equation, "R∞", quantity::rinf, fitted);
        const std::string spaces = in.equations.water_spaces == "moissl_2006"
                                       ? "Moissl et al. 2006, Physiol Meas 27:921–933"
                                       : "De Lorenzo et al. 1997, J Appl Physiol 82:1542–1558";
        tell(Kind::result, "ECW", quantity::extracellular_water, spaces);
        tell(Kind::result, "ICW", quantity::intracellular_water, spaces);
        tell(Kind::result, "ECW/TBW", quantity::ecw_ratio, "ECW/(ECW + ICW), by that method alone");
    }
    by(Predicts::total_body_water, Kind::result, "TBW", quantity::total_body_water);
    by(Predicts::skeletal_muscle, Kind::result, "SMM", quantity::skeletal_muscle);
    tell(Kind::result, "BMI", quantity::bmi, "M/h²");
    if (!equation(in, Predicts::fat_free_mass)) return;
    by(Predicts::fat_free_mass, Kind::equation, "FFM", quantity::fat_free_mass);
    tell(Kind::result, "FM", quantity::fat_mass, "M − FFM");
    tell(Kind::result, "%F", quantity::fat_percent, "100·FM/M");
    tell(Kind::result, "FFMI", quantity::ffmi, "FFM/h²");
    tell(Kind::result, "FMI", quantity::fmi, "FM/h²");
}

/// Lean and fat of each segment, where there is a profile.
void add_segments(const Input& in, Result& r, Messages& messages)
{
    if (!in.profile || !in.has_segments() || !equation(in, Predicts::fat_free_mass)) return;
    SegmentsInput s{in.sex, in.age_y, in.height_cm, in.mass_kg, in.errors.height_cm, in.errors.mass_kg};
    const Value& ffm = r[quantity::fat_free_mass];
    s.fat_free_mass_kg = ffm.value;
    s.u_measured_kg = ffm.u_measurement();
    s.u_equation_kg = ffm.u_model;
    s.by = in.expected_by;
    for (std::size_t i = 0; i < segment_count; ++i) {
        const Point* p = at_50(in.segments[i]);
        if (!p) {
            messages.push_back({"no_segments", Level::caution, path_of(in, i),
                std::string("The ") + segment_rows[i].title + " was not measured: no lean and fat by segment."});
            return;
        }
        s.r50_ohm[i] = p->r_ohm;
        s.u_r50_ohm[i] = in.errors.resistance_share * p->r_ohm;
    }
    auto found = segments(s, *in.profile);
    for (const Message& m : found.messages()) messages.push_back(m);
    for (Value& v : std::move(found).take()) r.values.push_back(v);
}

/// The arc of the whole body; nothing with too few frequencies.
Outcome<std::optional<Arc>> arc_of(const std::vector<Point>& whole)
{
    using Found = Outcome<std::optional<Arc>>;
    if (whole.size() < fewest_frequencies) return std::optional<Arc>();
    const auto arc = fit_arc(whole);
    if (arc) return std::optional(*arc);
    Message why = arc.messages().front();
    why.level = Level::repeat;
    return Found::refuse(std::move(why));
}

} // namespace

Choice usual_choice(double age_y)
{
    Choice out;
    if (age_y >= adult_y) return out;
    const auto unless_made_on = [&](Predicts what, const char* id) {
        return find(what, id)->covers(age_y) ? id : no_equation;
    };
    out.fat_free_mass = unless_made_on(Predicts::fat_free_mass, "houtkooper_1992");
    out.total_body_water = unless_made_on(Predicts::total_body_water, "sun_2003");
    out.skeletal_muscle = no_equation;
    return out;
}

bool knows_water_spaces(std::string_view id)
{
    return std::any_of(
        std::begin(water_space_rows), std::end(water_space_rows), [&](const WaterSpaces& row) { return id == row.id; });
}

Outcome<Result> compute(const Input& in, Detail detail)
{
    if (in.implant)
        return Outcome<Result>::refuse({"implant", Level::refused, "implant",
            "With a powered implant nobody is measured by impedance. There is no way around it."});
    if (Messages bad = check(in); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    if (Messages again = not_falling(in); !again.empty()) return Outcome<Result>::refuse(std::move(again));
    const std::vector<Point> whole = whole_body(in);
    const auto arc = arc_of(whole);
    if (!arc) return Outcome<Result>::refuse(arc.messages());
    const std::vector<uncertainty::Input> x = uncertain_inputs(in, *at_50(whole), *arc);
    Result r;
    const auto where = places(in, arc->has_value());
    propagate(
        r, [&](const auto& inputs) { return chain(in, inputs); }, where, x, detail);
    if (auto why = possible::not_a_body(r)) return Outcome<Result>::refuse(std::move(*why));
    if (r.find(quantity::ffmi)) balance::add(r, in.sex, in.age_y);
    Messages messages;
    add_cautions(in, r, arc->has_value(), messages);
    add_segments(in, r, messages);
    if (detail == Detail::numbers) return {std::move(r), std::move(messages)};
    r.ladder = build_ladder(in, r);
    tell_story(in, r, *arc);
    return {std::move(r), std::move(messages)};
}

std::vector<WhatIf> what_ifs(const Input& in)
{
    const Outcome<Result> now = compute(in, Detail::numbers);
    if (!now || !now->find(quantity::fat_percent)) return {};
    std::vector<WhatIf> list;
    const auto with = [&](std::string title, bool mistake, auto change) {
        Input changed = in;
        changed.profile.reset();
        change(changed);
        if (const Outcome<Result> then = compute(changed, Detail::numbers); then && then->find(quantity::fat_percent))
            list.push_back({std::move(title),
                (*then)[quantity::fat_percent].value - (*now)[quantity::fat_percent].value, mistake});
    };
    const auto resisting = [](double share) {
        return [share](Input& i) {
            for (auto* spectrum :
                {&i.whole_body, &i.segments[0], &i.segments[1], &i.segments[2], &i.segments[3], &i.segments[4]})
                for (Point& p : *spectrum) p.r_ohm *= 1 + share, p.x_ohm *= 1 + share;
        };
    };
    with("0.5 L drunk just before", true, [](Input& i) { i.mass_kg += 0.5; });
    with("a meal of 0.7 kg just before", true, [](Input& i) { i.mass_kg += 0.7; });
    with("1 kg of clothes on the scale", true, [](Input& i) { i.mass_kg += 1.0; });
    with("skin 5 °C colder, which no signal shows", true, resisting(cold_skin_per_c * 5));
    with("stood up just now", true, resisting(just_stood));
    with("hands 5 cm off their place", true, [](Input& i) {
        const double share = -5 / (arm_of_height * i.height_cm);
        auto& spectrum = i.has_segments() ? i.segments[index(Segment::right_arm)] : i.whole_body;
        for (Point& p : spectrum) {
            const double part = share * (i.has_segments() ? 1 : arm_of_whole);
            p.r_ohm *= 1 + part;
            p.x_ohm *= 1 + part;
        }
    });
    with("height 1 cm more", false, [](Input& i) { i.height_cm += 1; });
    for (const Equation& e : equations())
        if (e.what == Predicts::fat_free_mass && in.equations.fat_free_mass != e.id)
            with(std::string(e.title) + " instead", false, [&](Input& i) { i.equations.fat_free_mass = e.id; });
    return list;
}

std::vector<Beside> beside(const Input& in)
{
    if (in.implant || !check(in).empty()) return {};
    const std::vector<Point> whole = whole_body(in);
    const Point* p = at_50(whole);
    const Body<double> body{in.sex, in.age_y, in.height_cm, in.mass_kg, p->r_ohm, p->x_ohm};
    std::vector<Beside> out;
    for (const Equation& e : equations()) {
        Beside b{&e, predict(e, body), e.error(in.sex) ? error_in(e, in.sex, bmi_of(in)).u : 0};
        b.outside_group = !e.covers(in.age_y, bmi_of(in));
        b.chosen = e.what != Predicts::appendicular_muscle && equation(in, e.what) == &e;
        if (e.what == Predicts::fat_free_mass) b.fat_percent = 100 * (in.mass_kg - b.value) / in.mass_kg;
        out.push_back(b);
    }
    return out;
}

uncertainty::Budget fat_budget_central(const Input& in)
{
    const std::vector<Point> whole = whole_body(in);
    const auto arc = arc_of(whole);
    const auto all = places(in, arc->has_value());
    const auto fat = static_cast<std::size_t>(std::find(all.begin(), all.end(), &quantity::fat_percent) - all.begin());
    return uncertainty::propagate_central(
        [&](const std::vector<double>& x) { return chain(in, x)[fat]; }, uncertain_inputs(in, *at_50(whole), *arc));
}

} // namespace fusain::impedance

// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/impedance/sweep.h"

#include "core/base/limits.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace fusain::impedance {
namespace {

constexpr double longest_pause_s = 2;    ///< between two points; more is a pause
constexpr double trend_from_s = 20;      ///< shorter than this no trend is told from noise
constexpr double trunk_of_limbs = 0.062; ///< trunk over arm + leg: more, and something bridges the limbs
constexpr double fall_apart = 0.045;     ///< |Z| high over low frequency, arms against legs
constexpr double arm_over_leg_low = 0.75, arm_over_leg_high = 1.75;

constexpr FaultRow rows[] = {
    {Fault::poor_contact, "poor_contact", "Wipe skin and electrode, press down on it.", Again::unless_it_stays},
    {Fault::stepped_off, "stepped_off", "Step on again, hands on the metal; it goes on from there.", Again::no},
    {Fault::leaning, "leaning", "Nobody leans on client or platform; stand still in the middle.",
        Again::unless_it_stays},
    {Fault::moved, "moved", "Stand still, no talking. These segments again.", Again::unless_it_stays},
    {Fault::not_falling, "impedance_not_falling", "Wipe, thumbs and palms flat on the metal, heels back. Again.",
        Again::always},
    {Fault::not_an_arc, "not_an_arc", "Wipe, check posture, and measure it again.", Again::always},
    {Fault::limbs_touch, "limbs_touch", "Arms straight and away from the trunk, thighs apart. Again.",
        Again::unless_it_stays},
    {Fault::sides_differ, "sides_differ",
        "Look at both sides: contacts, an arm against the trunk. Again; if it stays, "
        "ask about implants and old injuries.",
        Again::unless_it_stays},
    {Fault::settling, "settling", "Water is still moving: stand for some minutes more, then measure again.", Again::no},
};

double size(const Point& p) { return std::hypot(p.r_ohm, p.x_ohm); }

double at(const SegmentReading& s, bool high)
{
    return s.points.empty() ? NAN : size(high ? s.points.back() : s.points.front());
}
double fall(const SegmentReading& s) { return at(s, true) / at(s, false); }
double at_50(const SegmentReading& s)
{
    for (const Point& p : s.points)
        if (p.f_khz == 50) return size(p);
    return NAN;
}

/// Straight line through values over time: slope, and what is left around it.
struct Line {
    double slope = 0, sd = 0;
    std::size_t n = 0;
};
Line line_through(const std::vector<std::pair<double, double>>& xy)
{
    Line out{0, 0, xy.size()};
    if (xy.size() < 2) return out;
    double mx = 0, my = 0, sxx = 0, sxy = 0, left = 0;
    for (const auto& [x, y] : xy) mx += x / static_cast<double>(xy.size()), my += y / static_cast<double>(xy.size());
    for (const auto& [x, y] : xy) sxx += (x - mx) * (x - mx), sxy += (x - mx) * (y - my);
    out.slope = sxx > 0 ? sxy / sxx : 0;
    for (const auto& [x, y] : xy) left += std::pow(y - my - out.slope * (x - mx), 2);
    out.sd = xy.size() > 2 ? std::sqrt(left / static_cast<double>(xy.size() - 2)) : 0;
    return out;
}

/// Points by frequency, in the order they came.
template <class Seen>
std::map<double, std::vector<const Seen*>> by_frequency(const std::vector<const Seen*>& seen)
{
    std::map<double, std::vector<const Seen*>> out;
    for (const Seen* one : seen) out[one->point.f_khz].push_back(one);
    return out;
}
/// Whole ones: as many as the rarest frequency has.
template <class ByFrequency>
int sweeps_of(const ByFrequency& list)
{
    std::size_t fewest = list.empty() ? 0 : list.begin()->second.size();
    for (const auto& [f, of_f] : list) fewest = std::min(fewest, of_f.size());
    return static_cast<int>(fewest);
}

/// Whether an electrode carries current or voltage of a segment: of its own limb, and of the trunk.
constexpr bool concerns(std::size_t electrode, Segment s)
{
    constexpr Segment limbs[] = {Segment::right_arm, Segment::left_arm, Segment::right_leg, Segment::left_leg};
    return s == Segment::trunk || s == limbs[electrode / 2];
}

std::string names(const std::vector<Segment>& segments)
{
    std::string out;
    for (std::size_t i = 0; i < segments.size(); ++i)
        out += (i == 0 ? "" : i + 1 == segments.size() ? " and " : ", ") + std::string(row(segments[i]).title);
    return out;
}

std::string percent(double share) { return limits::plain(100 * share, 1) + " %"; }

} // namespace

const FaultRow& row(Fault fault) { return rows[static_cast<std::size_t>(fault)]; }

bool SweepReader::leans() const { return leant_kg_ > lean_limit_kg; }

void SweepReader::add(double t_s, Segment segment, const Point& point)
{
    if (last_s_ >= 0 && t_s > last_s_ && t_s - last_s_ < longest_pause_s) seconds_ += t_s - last_s_;
    last_s_ = t_s;
    newest_ = segment;
    bool poor = false;
    for (std::size_t e = 0; e < electrode_count; ++e)
        poor = poor || (contact_ohm_[e] > contact_limit_ohm && concerns(e, segment));
    seen_[index(segment)].push_back({t_s, point, poor, off_ || leans()});
}

void SweepReader::known(Segment segment, std::span<const Point> points)
{
    for (const Point& p : points) seen_[index(segment)].push_back({0, p});
}

void SweepReader::contact(std::size_t electrode, double ohm)
{
    if (electrode >= electrode_count) return;
    contact_ohm_[electrode] = ohm;
    if (off_) return;
    worst_ohm_[electrode] = std::max(worst_ohm_[electrode], ohm);
    for (Segment s : all_segments) { // it may have been so since it was told the last time
        auto& seen = seen_[index(s)];
        std::size_t& told = told_[electrode][index(s)];
        if (ohm > contact_limit_ohm && concerns(electrode, s))
            for (std::size_t i = told; i < seen.size(); ++i) seen[i].poor = true;
        told = seen.size();
    }
}

void SweepReader::platform(double kg)
{
    if (!mass_kg_) return;
    off_ = kg < *mass_kg_ / 2;
    if (!off_) leant_kg_ = std::max(0.7 * leant_kg_, std::abs(kg - *mass_kg_)); // forgets within a second or two
}

SweepState SweepReader::state() const
{
    SweepState out;
    out.contact_ohm = contact_ohm_;
    out.seconds = seconds_;
    out.newest = newest_;
    std::vector<Segment> moved, rising, strange, poor, leant;
    std::vector<std::pair<double, double>> legs, arms_course;
    for (Segment s : all_segments) {
        SegmentReading& r = out.segments[index(s)];
        std::vector<const Seen*> clean, all;
        for (const Seen& seen : seen_[index(s)]) {
            all.push_back(&seen);
            if (!seen.poor && !seen.leant) clean.push_back(&seen);
        }
        auto list = by_frequency(clean);
        if (const auto whole = by_frequency(all);
            clean.size() < all.size() && (sweeps_of(list) < clean_sweeps || list.size() < whole.size())) {
            list = whole;
            if (std::any_of(all.begin(), all.end(), [](const Seen* one) { return one->poor; })) poor.push_back(s);
            if (std::any_of(all.begin(), all.end(), [](const Seen* one) { return one->leant; })) leant.push_back(s);
        }
        if (list.empty()) continue;
        for (const auto& [f, of_f] : list) {
            Point mean{f, 0, 0};
            const double n = static_cast<double>(of_f.size());
            for (const Seen* one : of_f) mean.r_ohm += one->point.r_ohm / n, mean.x_ohm += one->point.x_ohm / n;
            r.points.push_back(mean);
        }
        r.sweeps = sweeps_of(list);
        // a sweep against the mean of all: what is left of contact, posture and water over time
        std::vector<std::pair<double, double>> course;
        for (int k = 0; k < r.sweeps; ++k) {
            double share = 0, t = 0;
            std::size_t i = 0;
            for (const auto& [f, of_f] : list) {
                const double n = static_cast<double>(list.size());
                const Seen& one = *of_f[static_cast<std::size_t>(k)];
                share += std::log(size(one.point) / size(r.points[i++])) / n;
                t += one.t_s / n;
            }
            course.emplace_back(t, share);
        }
        const Line line = line_through(course);
        r.noise_share = r.sweeps > 0 ? line.sd / std::sqrt(static_cast<double>(r.sweeps)) : 0;
        if (course.size() > 2 && course.back().first - course.front().first >= trend_from_s) {
            r.drift_per_min = 60 * line.slope;
            if (s == Segment::right_leg || s == Segment::left_leg)
                legs.insert(legs.end(), course.begin(), course.end());
            else if (s != Segment::trunk)
                arms_course.insert(arms_course.end(), course.begin(), course.end());
        }
        if (line.n > 2 && line.sd > moved_limit) moved.push_back(s);
        if (r.sweeps < 1) continue;
        for (std::size_t i = 1; i < r.points.size(); ++i)
            if (!(size(r.points[i]) < size(r.points[i - 1]))) {
                rising.push_back(s);
                break;
            }
        const bool human = std::none_of(r.points.begin(), r.points.end(), [](const Point& p) {
            return limits::check("impedance.r_ohm", p.r_ohm) || limits::check("impedance.x_ohm", p.x_ohm);
        });
        if (r.points.size() >= fewest_frequencies)
            if (const auto arc = fit_arc(r.points)) r.arc = *arc;
        const bool is_arc = r.arc || r.points.size() < fewest_frequencies;
        if (!(human && is_arc) && (rising.empty() || rising.back() != s)) strange.push_back(s);
    }

    const auto say = [&](Fault fault, std::vector<Segment> segments, std::string words) {
        out.findings.push_back({fault, std::move(segments), std::move(words)});
    };
    for (std::size_t e = 0; e < electrode_count && !off_; ++e) {
        std::vector<Segment> spoilt;
        for (Segment s : poor)
            if (concerns(e, s) && worst_ohm_[e] > contact_limit_ohm) spoilt.push_back(s);
        const bool now = contact_ohm_[e] > contact_limit_ohm;
        if (now || !spoilt.empty())
            say(Fault::poor_contact, spoilt,
                std::string(electrode_titles[e]) + ": poor contact (" +
                    limits::plain((now ? contact_ohm_ : worst_ohm_)[e] / 1000, 1) + " kΩ)");
    }
    if (off_)
        say(Fault::stepped_off, {}, "the client stepped off");
    else if (leans())
        say(Fault::leaning, leant,
            "the platform shows " + limits::plain(leant_kg_, 1) + " kg more or less than before");
    else if (!leant.empty())
        say(Fault::leaning, leant, "somebody leaned on the platform");
    if (!moved.empty()) say(Fault::moved, moved, "moved or talked: " + names(moved));
    if (!rising.empty()) say(Fault::not_falling, rising, "does not fall with the frequency: " + names(rising));

    const auto& seg = out.segments;
    const bool whole = std::all_of(std::begin(all_segments), std::end(all_segments),
        [&](Segment s) { return out.has(s) && std::isfinite(at_50(seg[index(s)])); });
    if (whole && rising.empty()) {
        const auto z = [&](Segment s) { return at_50(seg[index(s)]); };
        const auto f = [&](Segment s) { return fall(seg[index(s)]); };
        using enum Segment;
        const double arms = (z(right_arm) + z(left_arm)) / 2, legs_z = (z(right_leg) + z(left_leg)) / 2;
        const double arms_fall = (f(right_arm) + f(left_arm)) / 2, legs_fall = (f(right_leg) + f(left_leg)) / 2;
        const bool bridged = z(trunk) / (arms + legs_z) > trunk_of_limbs;
        std::vector<Segment> touching;
        for (const auto& [one, other] : {std::pair{right_arm, left_arm}, {left_arm, right_arm}})
            if (f(one) < f(other) - fall_apart && z(one) < z(other)) touching = {one, trunk}; // alone
        if (touching.empty() && (bridged || arms / legs_z < arm_over_leg_low || arms_fall < legs_fall - fall_apart)) {
            if (arms_fall < legs_fall - fall_apart / 2 || arms / legs_z < arm_over_leg_low)
                touching = {right_arm, left_arm, trunk};
        }
        if (touching.empty() && (bridged || arms / legs_z > arm_over_leg_high || legs_fall < arms_fall - fall_apart))
            touching = {right_leg, left_leg, trunk};
        std::erase_if(strange, [&](Segment s) { return std::count(touching.begin(), touching.end(), s) > 0; });
        if (!touching.empty())
            say(Fault::limbs_touch, touching,
                touching.front() == right_leg ? "thighs touch, it seems"
                : touching.size() == 3        ? "arms touch trunk or each other, it seems"
                                       : std::string(row(touching.front()).title) + " touches the trunk, it seems");
        for (const Sides& s : pairs_of_sides) {
            const double right = z(s.right), left = z(s.left);
            if (touching.empty() && std::abs(right - left) > sides_apart * (right + left) / 2)
                say(Fault::sides_differ, {s.right, s.left},
                    std::string(s.title) + " differ by " + percent(std::abs(right - left) / ((right + left) / 2)));
        }
    }
    if (!strange.empty()) say(Fault::not_an_arc, strange, "no arc of a body: " + names(strange));
    const double legs_trend = 60 * line_through(legs).slope, arms_trend = 60 * line_through(arms_course).slope;
    if (legs.size() > 4 && std::abs(legs_trend) > settling_per_min && moved.empty())
        say(Fault::settling, {Segment::right_leg, Segment::left_leg},
            std::abs(arms_trend) > settling_per_min
                ? "arms and legs still change by " + percent(std::abs(legs_trend)) +
                      " a minute: has the analyser warmed up?"
                : "the legs still change by " + percent(std::abs(legs_trend)) + " a minute");
    return out;
}

} // namespace fusain::impedance

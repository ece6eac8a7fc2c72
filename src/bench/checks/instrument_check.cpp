// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/checks/instrument_check.h"

#include "core/base/limits.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <map>
#include <mutex>

namespace fusain::bench {
namespace {

using Kind = CheckStep::Kind;

/// "Not checked today. " within a sentence.
std::string lowered(std::string words)
{
    words.front() = static_cast<char>(std::tolower(static_cast<unsigned char>(words.front())));
    while (!words.empty() && words.back() == ' ') words.pop_back();
    return words;
}

Message not_now(const std::string& text) { return {"not_now", Level::error, "check", text}; }

} // namespace

const CheckWay* check_way(std::string_view id)
{
    if (id.empty()) return &check_ways[0];
    for (const CheckWay& w : check_ways)
        if (id == w.id) return &w;
    return nullptr;
}

bool check_fits(const InstrumentKind& kind, std::string_view way)
{
    if (!check_way(way)) return false;
    return check_way(way) == &check_ways[0] || std::find(kind.ways.begin(), kind.ways.end(), way) != kind.ways.end();
}

double unchecked_error(std::string_view way) { return way == "none" ? 1.0 : 0.0; }

const std::vector<CheckStep>& check_steps(const InstrumentKind& kind, std::string_view way)
{
    const std::vector<CheckStep>& usual = kind.steps;
    if (check_way(way) == &check_ways[0] || !check_fits(kind, way)) return usual;
    static std::map<std::pair<const InstrumentKind*, std::string>, std::vector<CheckStep>> made;
    static std::mutex making; // a lab is looked at from several threads
    const std::lock_guard lock(making);
    const auto [at, fresh] = made.try_emplace({&kind, std::string(way)});
    if (!fresh || way == "none") return at->second;
    for (const CheckStep& s : usual) // as far as no reference is needed
        if (s.kind < Kind::person && std::string_view(s.id) != "empty") at->second.push_back(s);
    if (way == "self_test") {
        at->second.push_back({Kind::confirm, "self_test", "Start its own self-test. Does it say that all is well?",
            "Confirm it only when the instrument says so. If it does not: give this check up, and stop using it."});
        return at->second;
    }
    at->second.push_back({Kind::person, "person", "Which of you stands on it?",
        "Prepared as a client would be, at the same hour. Two people, in turn, are better than one."});
    at->second.push_back({Kind::read, "percent", "Percent fat that it shows, %", "", 0, Channel::scale, "", true});
    at->second.push_back({Kind::read, "mass", "Body mass that it shows, kg", "", 0, Channel::scale, "", true, true});
    at->second.push_back(
        {Kind::read, "resistance", "Resistance at 50 kHz that it shows, Ω", "", 0, Channel::scale, "", true, true});
    return at->second;
}

std::string check_title(const InstrumentKind& kind, std::string_view way)
{
    return way == "person"      ? "Measure one of you on it"
           : way == "self_test" ? "Let it test itself, and note it"
           : way == "none"      ? ""
                                : kind.check_title;
}

ChartOf chart_of(const InstrumentKind& kind, std::string_view way, double reference)
{
    if (way == "person") return {"percent fat of whoever was measured, over what is usual for them", "%", 0, 1, 0.3};
    return {kind.reference_title, kind.unit, reference, kind.decimals, kind.least_sd};
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
    CheckRun copy = *this;
    return copy.apply(e);
}

std::optional<Message> CheckRun::refuse_step(const std::string& step) const
{
    if (all_done()) return not_now("Every step is done.");
    if (step == step_to_do().id) return std::nullopt;
    return not_now(std::string("First: ") + step_to_do().words + ".");
}

std::optional<Message> CheckRun::refuse_done(const checking::Done& done, const Stamp& stamp) const
{
    if (auto why = refuse_step(done.step)) return why;
    const CheckStep& step = step_to_do();
    if (step.kind == Kind::person && done.person.empty())
        return Message{"missing_field", Level::error, "person", "Write the name of who stands on it."};
    if (step.may_lack) return std::nullopt; // it does not show it
    const double left_s = seconds_left(seconds_of(stamp.at_utc));
    if (step.kind == Kind::wait && !(left_s <= 0))
        return not_now(std::string(step.words) + ": " + std::to_string(static_cast<int>(std::ceil(left_s / 60))) +
                       " min are left.");
    if (step.kind == Kind::read || step.kind == Kind::water || step.kind == Kind::zero)
        return not_now("This step needs a reading.");
    return std::nullopt;
}

std::optional<Message> CheckRun::refuse_reading(const checking::Reading& reading) const
{
    if (auto why = refuse_step(reading.step)) return why;
    const Kind of = step_to_do().kind;
    if (of != Kind::read && of != Kind::water && of != Kind::zero) return not_now("No reading belongs to this step.");
    if (!reading.value) return Message{"missing_field", Level::error, "value", "The reading is missing."};
    return std::nullopt;
}

void CheckRun::begin(const checking::Started& e, const Stamp& stamp)
{
    started_at = stamp.at_utc;
    who = stamp.who;
    reference_ = e.reference.value_or(reference_);
    reference_x_ = e.reference_x;
    way_ = e.check_by;
    usual_ = e.usual;
    step_since_s = seconds_of(stamp.at_utc);
}

void CheckRun::take(const checking::Reading& e, const Stamp& stamp)
{
    const CheckStep& step = step_to_do();
    if (step.kind == Kind::water) {
        water_c = e.value;
    } else if (step.kind == Kind::zero) {
        zero_kg = e.value;
    } else {
        readings_[step.id].push_back(*e.value);
        if (e.x) reactances_[step.id].push_back(*e.x);
        if (static_cast<int>(readings_[step.id].size()) < wanted(step)) return;
    }
    go_on(stamp);
}

void CheckRun::go_on(const Stamp& stamp)
{
    ++next_;
    step_since_s = seconds_of(stamp.at_utc);
}

std::optional<Message> CheckRun::apply(const Event& e)
{
    if (e.seq != last_seq + 1)
        return Message{"log_gap", Level::error, "seq",
            "Event " + std::to_string(e.seq) + " follows " + std::to_string(last_seq) + ": the log has a gap."};
    if (e.kind == checking::Started::kind) {
        if (e.seq != 1) return not_now("The check has begun already.");
        const auto said = read<checking::Started>(e.body);
        if (!said) return said.messages().front();
        begin(*said, e);
    } else if (e.seq == 1) {
        return not_now("A check begins with its start.");
    } else if (finished_) {
        return not_now("This check is finished.");
    } else if (e.kind == checking::Finished::kind) {
        finished_ = true;
    } else if (e.kind == checking::Done::kind) {
        const auto said = read<checking::Done>(e.body);
        if (!said) return said.messages().front();
        if (auto why = refuse_done(*said, e)) return why;
        if (step_to_do().kind == Kind::person) person_ = said->person;
        go_on(e);
    } else if (e.kind == checking::Reading::kind) {
        const auto said = read<checking::Reading>(e.body);
        if (!said) return said.messages().front();
        if (auto why = refuse_reading(*said)) return why;
        take(*said, e);
    } else {
        return Message{"unknown_event", Level::error, "kind",
            "The log holds an event \"" + e.kind + "\" that this version does not know."};
    }
    last_seq = e.seq;
    return std::nullopt;
}

double CheckRun::seconds_left(double now_s) const
{
    if (all_done()) return 0;
    return std::max(0.0, 60.0 * steps()[static_cast<std::size_t>(next_)].minutes - (now_s - step_since_s));
}

const std::vector<double>& CheckRun::readings(const std::string& step) const
{
    static const std::vector<double> none;
    const auto at = readings_.find(step);
    return at == readings_.end() ? none : at->second;
}

int CheckRun::wanted(const CheckStep& step) const { return step.by_hand ? 1 : kind_->tolerance(reference_).readings; }

Outcome<quality::CheckResult> CheckRun::beside_usual() const
{
    const auto shown = [&](const char* step) { return readings(step).empty() ? 0.0 : readings(step).front(); };
    const double percent = shown("percent"), mass = shown("mass"), resistance = shown("resistance");
    const auto at = usual_.find(person_);
    const Usual usual = at == usual_.end() ? Usual{} : at->second;
    quality::CheckResult out;
    out.passed = true;
    out.of = {1, usual.count ? percent - usual.percent : 0, 0, 0};
    out.words = person_ + ": " + limits::plain(percent, 1) + " % fat";
    if (usual.count < usual_least) {
        out.words += ". The first " + std::to_string(usual_least) +
                     " measurements of a person make what is usual; this is number " + std::to_string(usual.count + 1) +
                     '.';
        return out;
    }
    const struct {
        const char *what, *unit;
        double is, usual, apart;
        int decimals;
    } rows[] = {{"percent fat", "%", percent, usual.percent, percent_apart, 1},
        {"mass", "kg", mass, usual.mass_kg, mass_apart_kg, 1},
        {"resistance", "Ω", resistance, usual.resistance_ohm, resistance_apart_share * usual.resistance_ohm, 0}};
    for (const auto& r : rows) {
        if (!(r.is > 0) || !(r.usual > 0)) continue;
        const bool fits = std::abs(r.is - r.usual) <= r.apart;
        out.passed = out.passed && fits;
        out.words += std::string("; ") + r.what + ' ' + limits::plain(std::abs(r.is - r.usual), r.decimals) + ' ' +
                     r.unit + (r.is >= r.usual ? " over " : " under ") + "the usual " +
                     limits::plain(r.usual, r.decimals) +
                     (fits ? "" : " (allowed is " + limits::plain(r.apart, r.decimals) + ")");
    }
    out.words +=
        out.passed ? ". Passed." : ". Failed: measure the other one of you; did this body change, or the instrument?";
    return out;
}

Outcome<quality::CheckResult> CheckRun::result() const
{
    if (all_done() && !person_.empty()) return beside_usual();
    if (all_done() && way_ == "self_test") {
        quality::CheckResult noted;
        noted.passed = true;
        noted.words = "Its own self-test says that all is well, noted by " + who + '.';
        return noted;
    }
    if (!all_done()) return Outcome<quality::CheckResult>::refuse(not_now("The check is not finished."));
    std::optional<quality::CheckResult> worst;
    const quality::Tolerance tolerance = kind_->tolerance(reference_);
    for (const CheckStep& step : steps()) {
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
    if (kind_->concluded) return kind_->concluded(*this);
    quality::CheckResult confirmed;
    confirmed.passed = true;
    confirmed.words = "Every step is confirmed. Ready.";
    return confirmed;
}

Readiness readiness(
    const ToBeReady& of, const std::optional<LastCheck>& last, const quality::Chart& chart, const CheckRule& rule)
{
    const InstrumentKind& r = *of.kind;
    const std::string check = check_title(r, of.check_by);
    const CheckRule by = r.strict ? CheckRule{} : rule;
    if (!of.in_use) return {false, "It is out of use."};
    if (!of.calibration_due.empty() && of.calibration_due < of.today)
        return {false, "Its calibration was due on " + of.calibration_due +
                           ". Have it calibrated and write the new date into the register."};
    if (of.check_by == "none")
        return {true, "Not checked, by this lab's choice.",
            of.kind == &scale_kind() ? "The scale is not checked, by this lab's choice."
                                     : "The instrument is not checked, by this lab's choice."};
    if (!last || last->days_ago >= by.every_days) {
        const std::string when = !last                ? "Never checked. "
                                 : by.every_days == 1 ? "Not checked today. "
                                                      : "Not checked for " + std::to_string(last->days_ago) + " days. ";
        if (by.forbids) return {false, when + check + "."};
        return {true, when + check + "; a test may go on all the same.",
            std::string("The ") + r.title + " was not checked: " + lowered(when)};
    }
    if (!last->finished) return {false, "Its check of today is not finished. Go on with it."};
    if (!last->passed)
        return {
            false, "Its last check failed. Repeat it once; if it fails again, stop using it and say what was done."};
    // X-ray: inside its control limits and without drift, or nobody lies down on it (common laboratory practice)
    const bool wanders = chart.last_outside || chart.sign == quality::Sign::drift || chart.sign == quality::Sign::step;
    if (r.chart_forbids && wanders) return {false, chart.words};
    if (wanders) return {true, "Ready, but: " + chart.words};
    return {true, "Ready."};
}

} // namespace fusain::bench

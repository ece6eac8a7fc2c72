// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/analyser/analyser_take.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {
namespace {

using impedance::Segment;
constexpr double judge_every_s = 0.5, open_ohm = 50000;
constexpr Channel point_channels[] = {Channel::point_right_arm, Channel::point_left_arm, Channel::point_trunk,
    Channel::point_right_leg, Channel::point_left_leg};

std::optional<Segment> segment_of(Channel c)
{
    for (Segment s : impedance::all_segments)
        if (point_channels[impedance::index(s)] == c) return s;
    return std::nullopt;
}

} // namespace

const AnalyserShown& analyser_shown(const Live& live) { return live.of<AnalyserShown>(analyser_row().method); }

std::shared_ptr<const Shown> AnalyserShown::idle() const
{
    auto out = std::make_shared<AnalyserShown>(*this);
    out->what.clear();
    out->complete = out->lost = false;
    out->state = {};
    out->mass_end_kg = 0;
    return out;
}

bool AnalyserShown::measures(Segment s) const { return what == take::body || what == impedance::row(s).id; }

bool AnalyserTake::hears(Channel c) const { return segment_of(c) || c == Channel::platform || c == Channel::contact; }

void AnalyserTake::feed(const Reading& r)
{
    if (!hears(r.channel)) return;
    now_.connected = true;
    now_.lost = false;
    if (const auto segment = segment_of(r.channel)) return point(r, *segment);
    if (r.channel == Channel::platform) {
        now_.platform_kg = r.value;
        reader_.platform(r.value);
    } else {
        now_.speaks_contacts = true;
        const auto electrode = static_cast<std::size_t>(std::lround(r.more[0])) - 1;
        reader_.contact(electrode, r.value);
        now_.contact_ohm[electrode] = r.value;
        now_.hands = std::all_of(now_.contact_ohm.begin(), now_.contact_ohm.begin() + 4,
            [](double ohm) { return ohm > 0 && ohm < open_ohm; });
    }
    judge(r.t_s); // a client who stepped off sends no points
}

void AnalyserTake::point(const Reading& r, Segment segment)
{
    if (now_.what.empty() || now_.complete || !now_.measures(segment)) return;
    if (!begun_) start_s_ = r.t_s;
    begun_ = true;
    reader_.add(r.t_s, segment, {r.more[1], r.value, r.more[0]});
    rows_.add({r.t_s - start_s_, static_cast<double>(segment), r.more[1], r.value, r.more[0]});
    now_.mass_end_kg = now_.platform_kg.value_or(0);
    judge(r.t_s);
}

void AnalyserTake::judge(double t_s)
{
    if (!begun_ || now_.complete) return; // who steps off when it is over changes nothing any more
    if (t_s >= judged_s_ && t_s - judged_s_ < judge_every_s) return;
    judged_s_ = t_s;
    now_.state = reader_.state();
    const bool all = std::all_of(std::begin(impedance::all_segments), std::end(impedance::all_segments),
        [&](Segment s) { return !now_.measures(s) || now_.state.has(s); });
    now_.complete = all && now_.state.seconds >= now_.wanted_s;
}

void AnalyserTake::lost(Channel channel, Loss how)
{
    // without a client it has no points to tell: they alone may fall silent
    if (how != Loss::line && channel != Channel::platform) return;
    now_.platform_kg.reset();
    now_.connected = now_.hands = false;
    now_.lost = begun_ && !now_.complete;
}

void AnalyserTake::begin(const Visit& visit, const TakeRow& what)
{
    begin(what.word, visit.mass_source == "platform" ? visit.mass_kg : std::nullopt);
    const auto standing = analyser_of(visit).segments(visit);
    for (Segment s : impedance::all_segments)
        if (!now_.measures(s)) reader_.known(s, standing[impedance::index(s)].of.points);
    if (!now_.connected) broken_ = "there is no line to the analyser";
}

void AnalyserTake::begin(const std::string& what, std::optional<double> mass_kg)
{
    end();
    reader_ = {};
    reader_.stands(mass_kg);
    for (std::size_t e = 0; e < now_.contact_ohm.size(); ++e) reader_.contact(e, now_.contact_ohm[e]);
    rows_ = {analyser_columns, {}};
    judged_s_ = 0;
    broken_.clear();
    now_.what = what;
    now_.wanted_s = what == take::body ? spectrum_s : again_s;
}

void AnalyserTake::end()
{
    now_ = static_cast<const AnalyserShown&>(*now_.idle());
    begun_ = false;
}

Signal AnalyserTake::rows() { return std::exchange(rows_, {rows_.columns, {}}); }

std::vector<Segment> again(const AnalyserShown& shown)
{
    std::vector<Segment> out;
    for (Segment s : impedance::all_segments) {
        if (!shown.measures(s)) continue;
        const bool bad = !shown.state.has(s) || std::any_of(shown.state.findings.begin(), shown.state.findings.end(),
                                                    [&](const impedance::Finding& f) {
                                                        return impedance::row(f.fault).again != impedance::Again::no &&
                                                               std::count(f.segments.begin(), f.segments.end(), s) > 0;
                                                    });
        if (bad) out.push_back(s);
    }
    return out;
}

std::optional<Standing> analyser_standing(const Shown& shown, int number)
{
    const auto& a = dynamic_cast<const AnalyserShown&>(shown);
    if (a.what.empty()) return std::nullopt;
    event::SpectraTaken out;
    out.number = number;
    for (Segment s : impedance::all_segments) {
        const impedance::SegmentReading& r = a.state.segments[impedance::index(s)];
        if (a.measures(s) && r.sweeps >= 1)
            out.segments[impedance::index(s)] = {r.points, r.sweeps, r.noise_share, r.drift_per_min};
    }
    if (out.segments.empty()) return std::nullopt;
    for (const impedance::Finding& f : a.state.findings) {
        SpectrumFound& found = out.found.emplace_back();
        found.code = impedance::row(f.fault).code;
        found.words = f.words;
        for (Segment s : f.segments) found.segments.push_back(impedance::row(s).id);
    }
    out.seconds = a.state.seconds;
    out.platform_kg = a.mass_end_kg;
    if (a.speaks_contacts) out.contact_ohm.assign(a.state.contact_ohm.begin(), a.state.contact_ohm.end());
    return Standing{out};
}

} // namespace fusain::bench

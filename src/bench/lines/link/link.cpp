// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/link.h"

#include <cmath>

namespace fusain::bench {
namespace {
constexpr int tell_ms = 33, no_lines_after = 90; ///< three seconds without any line
constexpr double longest_gap_s = 0.5, recent_s = 2.0, steady_sd_kg = 0.015;
constexpr double chunk_s = 0.5, longest_trial_s = 60, longest_breathing_out_s = 180;
constexpr int health_tells = 150; // about five seconds
} // namespace

Link::Link(const QStringList& ports) : names_(ports) { now_.has_lines = !ports.isEmpty(); }

void Link::start()
{
    auto* timer = new QTimer(this);
    connect(timer, &QTimer::timeout, this, &Link::tell);
    timer->start(tell_ms);
    for (const QString& name : names_) {
        auto* port = ports_.emplace_back(new LinePort(name, this));
        connect(port, &LinePort::readings, this, [this](const std::vector<Reading>& readings) {
            for (const Reading& r : readings) take(r);
        });
        connect(port, &LinePort::lost, this, [this, port] { on_lost(port); });
        port->start();
    }
}

double longest_age_s(Channel channel)
{
    switch (channel) {
    case Channel::load_cell:
    case Channel::test_pressure:
    case Channel::reference_pressure: return 1;
    case Channel::scale: return 3;
    default: return 10;
    }
}

void Link::on_lost(LinePort* port)
{
    if (port->carries(Channel::test_pressure)) lose_chamber(QStringLiteral("the line was lost"));
    if (port->carries(Channel::load_cell)) lose_cell(QStringLiteral("the line was lost"));
    for (auto [channel, value] : slow_channels())
        if (port->carries(channel)) *value = std::nullopt;
    if (!now_.scale_kg) now_.scale_stable = false;
}

std::array<std::pair<Channel, std::optional<double>*>, 4> Link::slow_channels()
{
    return {{{Channel::scale, &now_.scale_kg}, {Channel::water_temp, &now_.water_temp_c},
        {Channel::gas_temp, &now_.gas_temp_c}, {Channel::barometer, &now_.barometric_mmhg}}};
}

void Link::lose_cell(const QString& why)
{
    now_.cell_kg = std::nullopt;
    now_.cell_steady = false;
    recent_.clear();
    last_cell_s_ = -1;
    if (now_.trial && !in_chamber()) break_trial(why);
}

void Link::lose_chamber(const QString& why)
{
    chamber_.forget(now_.chamber);
    if (now_.trial && in_chamber()) break_trial(why);
}

/// Counted in beats, of which a computer that stood still makes one: what waits in the line is read before the next.
void Link::grow_old()
{
    const auto old = [&](Channel c) {
        const auto& heard = now_.heard[static_cast<std::size_t>(c)];
        return heard && heard->age_s > longest_age_s(c);
    };
    for (auto& heard : now_.heard)
        if (heard) heard->age_s += tell_ms / 1000.0;
    for (auto [channel, value] : slow_channels())
        if (old(channel)) *value = std::nullopt;
    if (!now_.scale_kg) now_.scale_stable = false;
    if (now_.cell_kg && old(Channel::load_cell)) lose_cell(QStringLiteral("the load cell fell silent"));
    if (now_.chamber.connected && (old(Channel::test_pressure) || old(Channel::reference_pressure)))
        lose_chamber(QStringLiteral("a pressure sensor of the chamber fell silent"));
}

void Link::break_trial(const QString& reason)
{
    const int trial = now_.trial;
    end_trial();
    emit trial_broken(visit_, trial, reason);
}

void Link::take(const Reading& r)
{
    now_.heard[static_cast<std::size_t>(r.channel)] = Heard{r.value, 0};
    switch (r.channel) {
    case Channel::water_temp: now_.water_temp_c = r.value; return;
    case Channel::gas_temp: now_.gas_temp_c = r.value; return;
    case Channel::barometer: now_.barometric_mmhg = r.value; return;
    case Channel::scale:
        now_.scale_kg = r.value;
        now_.scale_stable = r.stable;
        return;
    case Channel::spirometer: emit blow(r.value); return;
    case Channel::load_cell: take_cell(r); return;
    case Channel::test_pressure:
    case Channel::reference_pressure:
    case Channel::door:
    case Channel::airway:
    case Channel::valve:
        now_.chamber.connected = true;
        chamber_.take(r, now_.chamber);
        if (now_.trial && in_chamber() && !chamber_.broken().empty())
            break_trial(QString::fromStdString(chamber_.broken()));
        return;
    default: emit reading(r.channel, r.value); return;
    }
}

void Link::take_cell(const Reading& r)
{
    const double gap = last_cell_s_ < 0 ? 0 : r.t_s - last_cell_s_;
    last_cell_s_ = r.t_s;
    now_.cell_kg = r.value;
    now_.cell_overload = r.overload;
    recent_.push_back({r.t_s, r.value});
    while (recent_.size() > 1 && (r.t_s - recent_.front().t_s > recent_s || recent_.front().t_s > r.t_s))
        recent_.pop_front();
    if (!now_.trial || in_chamber()) return;
    if (gap < 0 || gap > longest_gap_s || r.overload)
        return break_trial(
            r.overload ? QStringLiteral("the load cell was overloaded") : QStringLiteral("the signal had a gap"));
    const swing::Sample net{now_.let_go ? r.t_s - let_go_at_s_ : r.t_s, r.value - zero_kg_};
    now_.fresh.push_back(net);
    // nobody holds an empty chest for a minute
    const double runs_s = r.t_s - (now_.let_go ? let_go_at_s_ : begun_at_s_);
    if (runs_s > (now_.let_go ? longest_trial_s : longest_breathing_out_s))
        return break_trial(QStringLiteral("it ran for %1 s and was not taken").arg(runs_s, 0, 'f', 0));
    if (!now_.let_go) return;
    unsaved_.add({net.t_s, net.kg});
    reader_.add(net);
    if (unsaved_.last_s() - unsaved_.at(0, 0) >= chunk_s) flush_signal();
}

void Link::flush_signal()
{
    if (in_chamber()) unsaved_ = chamber_.take_rows();
    if (unsaved_.empty()) return;
    emit signal({visit_, now_.trial, chunk_++, unsaved_});
    unsaved_.values.clear();
}

void Link::begin_trial(long visit, int number, double zero_kg)
{
    visit_ = visit;
    chamber_.end(now_.chamber);
    now_.trial = number;
    now_.let_go = false;
    now_.fresh.clear();
    now_.swing = {};
    zero_kg_ = zero_kg;
    unsaved_ = {};
    chunk_ = 0;
    reader_ = swing::Reader();
    begun_at_s_ = last_cell_s_;
    if (!now_.cell_kg) break_trial(QStringLiteral("there is no line to the load cell"));
}

void Link::let_go()
{
    if (!now_.trial || now_.let_go || in_chamber()) return;
    now_.let_go = true;
    let_go_at_s_ = last_cell_s_;
    now_.fresh.clear();
}

void Link::begin_chamber(long visit, int number, ChamberWhat what, const chamber::Options& options)
{
    visit_ = visit;
    now_.trial = number;
    now_.let_go = false;
    chunk_ = 0;
    chamber_.begin(what, options, now_.chamber);
    if (!now_.chamber.connected)
        break_trial(QStringLiteral("there is no line to the chamber"));
    else if (now_.chamber.door_open)
        break_trial(QStringLiteral("the door was open"));
}

void Link::end_trial()
{
    flush_signal();
    chamber_.end(now_.chamber);
    now_.trial = 0;
    now_.let_go = false;
}

void Link::tell()
{
    grow_old();
    double sum = 0, squares = 0;
    for (const swing::Sample& s : recent_) sum += s.kg;
    const double n = static_cast<double>(recent_.size());
    now_.cell_mean_kg = n > 0 ? sum / n : 0;
    for (const swing::Sample& s : recent_) squares += std::pow(s.kg - now_.cell_mean_kg, 2);
    now_.cell_sd_kg = n > 1 ? std::sqrt(squares / (n - 1)) : 0;
    now_.connected = true;
    for (const LinePort* port : ports_) ever_heard_ |= port->connected();
    now_.has_lines = ever_heard_ || (!ports_.empty() && tells_ < no_lines_after);
    now_.trouble.clear();
    for (const LinePort* port : ports_) {
        if (!port->connected() && !port->trouble().isEmpty()) now_.trouble = port->trouble();
        if (!port->connected() && (!port->carries(Channel::test_pressure) || ports_.size() == 1))
            now_.connected = false;
    }
    now_.cell_steady = now_.cell_kg && n > 60 && recent_.back().t_s - recent_.front().t_s > 0.9 * recent_s &&
                       now_.cell_sd_kg < steady_sd_kg;
    if (++tells_ % health_tells == 0) {
        LineHealth h;
        for (const LinePort* port : ports_) {
            h.frames += port->health().frames;
            h.bad_frames += port->health().bad_frames;
            h.lost_frames += port->health().lost_frames;
        }
        const double bad =
            static_cast<double>(h.bad_frames + h.lost_frames - health_before_.bad_frames - health_before_.lost_frames);
        const double all = bad + static_cast<double>(h.frames - health_before_.frames);
        now_.lost_share = all > 0 ? bad / all : 0;
        health_before_ = h;
    }
    if (now_.let_go) now_.swing = reader_.state();
    if (in_chamber() && tells_ % 15 == 0) flush_signal();
    emit live(now_);
    now_.fresh.clear();
    now_.chamber.fresh.clear();
    now_.chamber.fresh_puffs.clear();
}

} // namespace fusain::bench

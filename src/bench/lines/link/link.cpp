// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/link.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {
namespace {
constexpr int tell_ms = 33, no_lines_after = 90; ///< three seconds without any line
constexpr double chunk_s = 0.5;
constexpr int flush_tells = 15, health_tells = 150; // about half a second, five seconds
} // namespace

Link::Link(std::vector<LineSetup> lines, Takes takes, const Ground& ground)
    : ground_(ground), first_(std::move(lines)), takes_(std::move(takes))
{
    now_.has_lines = !first_.empty();
}

void Link::start()
{
    auto* beat = new Beat(*ground_.clock, this);
    connect(beat, &Beat::due, this, &Link::tell);
    beat->start(tell_ms);
    for (const LineSetup& line : first_) add(line);
}

void Link::add(const LineSetup& line)
{
    auto* port = ports_.emplace_back(new LinePort(line, this, ground_));
    connect(port, &LinePort::readings, this, [this](const std::vector<Reading>& readings) {
        for (const Reading& r : readings) take(r);
    });
    connect(port, &LinePort::pictures, this, [this](const std::vector<PictureWord>& words) {
        for (const PictureWord& w : words) take(w);
    });
    connect(port, &LinePort::lost, this, [this, port] { on_lost(port); });
    port->start();
}

void Link::set_lines(const std::vector<LineSetup>& lines)
{
    const auto same = [](const LineSetup& a, const LineSetup& b) {
        return a.place == b.place && a.decoder == b.decoder && a.feeds == b.feeds && a.unit == b.unit &&
               a.serial == b.serial;
    };
    std::erase_if(ports_, [&](LinePort* port) {
        if (std::any_of(lines.begin(), lines.end(), [&](const LineSetup& l) { return same(l, port->line()); }))
            return false;
        on_lost(port);
        delete port; // its port is free for another program at once
        return true;
    });
    for (const LineSetup& line : lines)
        if (std::none_of(ports_.begin(), ports_.end(), [&](LinePort* p) { return same(line, p->line()); })) add(line);
    tells_ = 0; // a line that is new is given time to speak
    emit lines_are_set();
}

std::optional<double>* Link::room_value(Channel channel)
{
    switch (channel) {
    case Channel::scale: return &now_.scale_kg;
    case Channel::water_temp: return &now_.water_temp_c;
    case Channel::gas_temp: return &now_.gas_temp_c;
    case Channel::barometer: return &now_.barometric_mmhg;
    default: return nullptr;
    }
}

void Link::on_lost(LinePort* port)
{
    for (const ChannelRow& row : channels())
        if (port->carries(row.channel)) lose(row.channel, Loss::line);
    if (!port->carries_pictures()) return;
    for (const auto& [method, take] : takes_)
        if (take->hears_pictures()) take->picture_lost();
    flush();
    break_if_broken();
}

void Link::lose(Channel channel, Loss how)
{
    if (auto* value = room_value(channel)) value->reset();
    if (channel == Channel::scale) now_.scale_stable = false;
    for (const auto& [method, take] : takes_)
        if (take->hears(channel)) take->lost(channel, how);
    break_if_broken();
}

/// Counted in beats, of which a computer that stood still makes one: what waits in the line is read before the next.
void Link::grow_old()
{
    for (const ChannelRow& row : channels()) {
        auto& heard = now_.heard[static_cast<std::size_t>(row.channel)];
        if (!heard) continue;
        heard->age_s += tell_ms / 1000.0;
        if (heard->age_s > longest_age_s(row.channel)) lose(row.channel, Loss::silent);
    }
}

void Link::break_if_broken()
{
    if (!running_ || running_->broken().empty()) return;
    const int trial = now_.trial;
    const QString why = QString::fromStdString(running_->broken());
    end();
    emit trial_broken(visit_, trial, why);
}

void Link::take(const Reading& r)
{
    now_.heard[static_cast<std::size_t>(r.channel)] = Heard{r.value, 0, r.stable};
    bool is_for_somebody = false;
    if (auto* value = room_value(r.channel)) {
        if (r.overload)
            value->reset(); // at its end it says nothing of what stands on it
        else
            *value = r.value;
        is_for_somebody = true;
    }
    if (r.channel == Channel::scale) now_.scale_stable = r.stable;
    for (const auto& [method, take] : takes_)
        if (take->hears(r.channel)) {
            take->feed(r);
            is_for_somebody = true;
        }
    if (running_ && running_->hears(r.channel) && std::abs(r.t_s - flushed_s_) >= chunk_s) {
        flush(); // by the instrument's clock: a second lost is a second of its signal
        flushed_s_ = r.t_s;
    }
    break_if_broken();
    if (!is_for_somebody) emit reading(r);
}

void Link::take(const PictureWord& word)
{
    for (const auto& [method, take] : takes_)
        if (take->hears_pictures()) take->feed(word);
    if (running_ && running_->hears_pictures() && word.kind != PictureWord::Kind::alive) flush();
    break_if_broken();
}

/// What a take has to say goes to every line on which somebody listens.
void Link::hand_on()
{
    for (const auto& [method, take] : takes_)
        if (const std::string words = take->to_say(); !words.empty())
            for (LinePort* port : ports_)
                if (port->carries_pictures()) port->say(words);
}

void Link::flush()
{
    const Signal rows = running_ ? running_->rows() : Signal{};
    if (!rows.empty()) emit signal({visit_, now_.trial, chunk_++, rows});
}

void Link::begin(long visit_id, int number, const Visit& visit, const TakeRow* what)
{
    end();
    visit_ = visit_id;
    now_.trial = number;
    chunk_ = 0;
    running_ = takes_.at(visit.method).get();
    running_->begin(visit, *what);
    hand_on();
    break_if_broken();
}

void Link::mark()
{
    if (running_) running_->mark();
}

void Link::end()
{
    flush();
    if (running_) running_->end();
    hand_on();
    running_ = nullptr;
    now_.trial = 0;
}

/// A line that carries one instrument alone concerns only those who measure with it.
bool Link::is_of_the_room(const LinePort& port) const
{
    return ports_.size() == 1 ||
           (!port.carries_pictures() && std::none_of(takes_.begin(), takes_.end(), [&](const auto& take) {
               bool carries = false, others = false;
               for (const ChannelRow& row : channels())
                   if (port.carries(row.channel)) (take.second->hears(row.channel) ? carries : others) = true;
               return carries && !others;
           }));
}

void Link::tell()
{
    grow_old();
    hand_on();
    now_.connected = true;
    now_.trouble.clear();
    now_.lines.clear();
    for (const LinePort* port : ports_) {
        now_.lines.push_back({port->line().place, port->trouble().toStdString(), port->connected(),
            port->line().title(), port->silent_s(), port->strange()});
        if (port->connected()) continue;
        if (!port->trouble().isEmpty()) now_.trouble = port->trouble().toStdString();
        if (is_of_the_room(*port)) now_.connected = false;
    }
    // a bench line that was not heard yet may speak for anybody
    const bool maybe = tells_ < no_lines_after && std::any_of(ports_.begin(), ports_.end(), [](const LinePort* p) {
        return !p->line().decoder && !p->connected();
    });
    now_.has_lines = !ports_.empty();
    const auto spoken = [&](Channel channel) {
        return maybe ||
               std::any_of(ports_.begin(), ports_.end(), [&](const LinePort* p) { return p->is_for(channel); });
    };
    for (const ChannelRow& row : channels()) now_.spoken[static_cast<std::size_t>(row.channel)] = spoken(row.channel);
    for (const auto& [method, take] : takes_)
        now_.on_a_line[method] =
            (take->hears_pictures() &&
                (maybe || std::any_of(ports_.begin(), ports_.end(), [](auto* p) { return p->carries_pictures(); }))) ||
            std::any_of(channels().begin(), channels().end(),
                [&, &t = take](const ChannelRow& row) { return t->hears(row.channel) && now_.speaks(row.channel); });
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
    if (tells_ % flush_tells == 0) flush();
    for (const auto& [method, take] : takes_) now_.shown[method] = take->state();
    emit live(now_);
}

} // namespace fusain::bench

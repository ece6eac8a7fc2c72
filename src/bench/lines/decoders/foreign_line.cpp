// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/decoders/foreign_line.h"

#include <re2/re2.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <utility>

namespace fusain::bench {
namespace {

constexpr std::size_t longest_frame = 256;
constexpr double longest_pause_s = 1.0, follow = 0.05, settle_s = 1.0;
constexpr std::size_t remembered = 100, first_guess = 10, most_recent = 512;
constexpr std::int64_t numbers_wrap_at = 1000000;

/// What an indicator prints as a number: blanks inside, a sign before it, a decimal comma where the decoder says so.
std::optional<double> number_in(std::string text, char decimal)
{
    std::erase(text, ' ');
    std::replace(text.begin(), text.end(), decimal, '.');
    if (!text.empty() && text.front() == '+') text.erase(0, 1);
    double value = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value, std::chars_format::fixed);
    if (text.empty() || code != std::errc() || end != text.data() + text.size() || !std::isfinite(value))
        return std::nullopt;
    return value;
}

/// How far a value may still move by itself while what is measured is at rest, in the channel's unit.
double at_rest(Channel channel)
{
    switch (channel) {
    case Channel::scale:
    case Channel::platform: return 0.05;
    case Channel::load_cell: return 0.02;
    case Channel::water_temp:
    case Channel::gas_temp: return 0.05;
    default: return 0;
    }
}

/// The size of the last digit that is printed.
double step_of(const std::string& text, char decimal)
{
    const std::size_t point = text.rfind(decimal);
    return point == std::string::npos ? 1 : std::pow(10.0, -static_cast<double>(text.size() - point - 1));
}

} // namespace

double ArrivalClock::stamp(double heard_s)
{
    if (!begun_ || heard_s - heard_.back() > longest_pause_s || heard_s < heard_.back()) {
        restart();
        begun_ = true;
        heard_ = {heard_s};
        return last_s_ = heard_s;
    }
    heard_.push_back(heard_s);
    if (heard_.size() > remembered) heard_.pop_front();
    if (heard_.size() >= first_guess)
        period_s_ = (heard_.back() - heard_.front()) / static_cast<double>(heard_.size() - 1);
    const double expected = last_s_ + period_s_, off = heard_s - expected;
    // what was lost on the way, or an instrument that changed its pace: from here on anew
    const bool follows = period_s_ > 0 && std::abs(off) < std::max(0.25, 5 * period_s_);
    const double next = follows ? expected + follow * off : heard_s;
    return last_s_ = std::max(next, last_s_ + 1e-4);
}

void ArrivalClock::restart() { *this = ArrivalClock(); }

struct ForeignLine::Groups {
    const std::map<std::string, int>& names;
    std::vector<std::string> found; ///< by group number − 1
    std::vector<const char*> where; ///< in the frame; null: the group took no part
    bool took_part(const std::string& name) const
    {
        const auto at = names.find(name);
        return at != names.end() && where[static_cast<std::size_t>(at->second) - 1];
    }
    bool has(const std::string& name) const { return !name.empty() && names.count(name); }
    std::string operator[](const std::string& name) const
    {
        const auto at = names.find(name);
        return at == names.end() ? std::string() : found[static_cast<std::size_t>(at->second) - 1];
    }
};

ForeignLine::ForeignLine(std::shared_ptr<const Decoder> decoder, std::optional<Channel> feeds, std::string unit)
    : decoder_(std::move(decoder)), feeds_(feeds), unit_(std::move(unit))
{
    RE2::Options plain(RE2::Latin1); // bytes, whatever they mean
    plain.set_log_errors(false);
    pattern_ = std::make_unique<re2::RE2>(decoder_->pattern, plain);
    groups_ = pattern_->NamedCapturingGroups();
    restart();
}

ForeignLine::~ForeignLine() = default;

void ForeignLine::restart()
{
    pending_.clear();
    clock_.restart();
    recent_.clear();
    seq_ = {};
    // opened in the middle of a frame: "2.5" may be the end of "72.5"
    cut_ = decoder_->when == Decoder::When::always && decoder_->frame.start.empty();
}

void ForeignLine::feed(std::string_view bytes, double heard_s, std::vector<Reading>& out)
{
    const Decoder::Frame& f = decoder_->frame;
    pending_ += bytes;
    while (true) {
        if (!f.start.empty()) { // what stands before a frame is no part of it
            const std::size_t begin = pending_.find(f.start);
            if (begin == std::string::npos) {
                const std::size_t keep = std::min(pending_.size(), f.start.size() - 1);
                pending_.erase(0, pending_.size() - keep);
                return;
            }
            pending_.erase(0, begin);
        }
        const std::size_t from = f.start.size();
        const std::size_t end = f.end.empty() ? (pending_.size() >= from + static_cast<std::size_t>(f.length)
                                                        ? from + static_cast<std::size_t>(f.length)
                                                        : std::string::npos)
                                              : pending_.find(f.end, from);
        // a start inside a frame: the frame before it was cut short
        if (!f.start.empty() && !f.end.empty()) {
            const std::size_t again = pending_.find(f.start, from);
            if (again != std::string::npos && (end == std::string::npos || again < end)) {
                ++health_.bad_frames;
                pending_.erase(0, again);
                continue;
            }
        }
        if (end == std::string::npos) {
            if (pending_.size() > longest_frame) {
                ++health_.bad_frames;
                pending_.erase(0, pending_.size() - f.end.size());
                cut_ = f.start.empty(); // what follows is its end
            }
            return;
        }
        const std::size_t whole = end + f.end.size() + static_cast<std::size_t>(f.after_end);
        if (pending_.size() < whole) return;
        std::string text = pending_.substr(from, end - from);
        if (f.end == "\n" && !text.empty() && text.back() == '\r') text.pop_back();
        const std::string after = pending_.substr(end + f.end.size(), static_cast<std::size_t>(f.after_end));
        const LineHealth before = health_;
        if (std::exchange(cut_, false)) {
            pending_.erase(0, whole);
            continue;
        }
        if (text.size() > longest_frame)
            ++health_.bad_frames;
        else if (!text.empty())
            take_frame(text, after, heard_s, out);
        // what only looked like a start may hide one
        const bool bad = health_.bad_frames != before.bad_frames;
        pending_.erase(0, bad && !f.start.empty() && f.end.empty() ? from : whole);
    }
}

void ForeignLine::take_frame(
    const std::string& text, const std::string& after, double heard_s, std::vector<Reading>& out)
{
    const int count = pattern_->NumberOfCapturingGroups();
    std::vector<re2::StringPiece> found(static_cast<std::size_t>(count) + 1);
    Groups groups{groups_, {}, {}};
    if (!pattern_->Match(text, 0, text.size(), RE2::ANCHOR_BOTH, found.data(), count + 1)) {
        ++health_.bad_frames;
        return;
    }
    for (int i = 1; i <= count; ++i) {
        const auto& piece = found[static_cast<std::size_t>(i)];
        groups.found.emplace_back(piece.data() ? std::string(piece.data(), piece.size()) : std::string());
        groups.where.push_back(piece.data());
    }
    if (!sum_fits(text, after, groups) || !say(groups, heard_s, out)) {
        ++health_.bad_frames;
        return;
    }
    ++health_.frames;
}

bool ForeignLine::sum_fits(const std::string& text, const std::string& after, const Groups& groups) const
{
    const Decoder::Sum& s = decoder_->sum;
    if (s.kind == ChecksumKind::none) return true;
    const bool in_text = groups.took_part("sum");
    const std::string given = in_text ? groups["sum"] : after;
    std::string covered = text;
    if (groups.took_part("body"))
        covered = groups["body"];
    else if (in_text)
        covered.resize(
            static_cast<std::size_t>(groups.where[static_cast<std::size_t>(groups_.at("sum")) - 1] - text.data()));
    else if (s.with_end)
        covered += decoder_->frame.end;
    if (s.with_start) covered = decoder_->frame.start + covered;
    unsigned said = 0;
    if (s.binary) {
        for (std::size_t i = 0; i < given.size(); ++i)
            said = (said << 8) | static_cast<unsigned char>(s.low_first ? given[given.size() - 1 - i] : given[i]);
    } else {
        const auto [end, code] = std::from_chars(given.data(), given.data() + given.size(), said, 16);
        if (given.empty() || code != std::errc() || end != given.data() + given.size()) return false;
    }
    return !given.empty() && said == checksum(s.kind, covered);
}

/// Where the instrument does not say whether a value is settled: it is when it moves by no more than two of its last
/// digits, or by what such an instrument moves at rest, for a second.
bool ForeignLine::settled(Channel channel, double t_s, double value, double step)
{
    auto& recent = recent_[channel].values;
    recent.emplace_back(t_s, value);
    // a clock that stands still must not let it grow
    while (recent.size() > 1 &&
           (t_s - recent.front().first > settle_s || recent.front().first > t_s || recent.size() > most_recent))
        recent.pop_front();
    const auto [low, high] = std::minmax_element(
        recent.begin(), recent.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
    return recent.size() >= 3 && t_s - recent.front().first > 0.8 * settle_s &&
           high->second - low->second <= std::max(2.001 * step, at_rest(channel));
}

/// False: the frame says what cannot be.
bool ForeignLine::say(const Groups& groups, double heard_s, std::vector<Reading>& out)
{
    const Decoder& d = *decoder_;
    Said said = Said::settled;
    if (groups.has("state")) {
        std::string state = groups["state"];
        state.erase(0, state.find_first_not_of(' ') == std::string::npos ? state.size() : state.find_first_not_of(' '));
        while (!state.empty() && state.back() == ' ') state.pop_back();
        const auto at = d.states.find(state);
        if (at == d.states.end()) return false;
        said = at->second;
    }
    if (said == Said::ignored) return true;
    std::optional<Channel> named;
    if (groups.has("channel")) {
        const auto at = d.channels.find(groups["channel"]);
        if (at == d.channels.end()) return false;
        named = at->second;
    }
    double t_s = 0;
    if (groups.has("time")) {
        const auto t = number_in(groups["time"], d.decimal);
        if (!t) return false;
        t_s = *t * d.time_factor;
    }
    struct Printed {
        Reading reading;
        double step; ///< of its last digit, in the channel's unit
    };
    std::vector<Printed> all;
    for (const Decoder::ValueRow& row : d.values) {
        const auto channel = row.channel ? row.channel : named ? named : feeds_;
        if (!channel) continue;                     // nobody has said yet what it feeds
        if (!groups.took_part(row.group)) continue; // a line of words
        Recent& recent = recent_[*channel];
        Reading r;
        r.channel = *channel;
        const std::string text = groups[row.group];
        std::string unit = row.channel || named || unit_.empty() ? row.unit : unit_;
        if (groups.has(row.unit_group) && !groups[row.unit_group].empty()) {
            unit = groups[row.unit_group];
            if (const auto at = d.units.find(unit); at != d.units.end()) unit = at->second;
        }
        const bool empty = text.find_first_of("0123456789") == std::string::npos;
        if (empty && said == Said::overload && recent.any) {
            r.value = recent.last; // it shows no number while it is at its end
        } else if (empty && said == Said::overload) {
            continue;
        } else {
            const auto number = number_in(text, d.decimal);
            if (!number) return false;
            const bool minus = groups.has(row.sign) && groups[row.sign] == d.negative;
            const double printed = (minus ? -1 : 1) * *number * row.factor;
            const auto value = in_unit_of(*channel, printed, unit);
            const auto& limits = bench::row(*channel);
            if (!value || !(*value >= limits.low && *value <= limits.high)) return false;
            r.value = recent.last = *value;
            recent.any = true;
        }
        for (const std::string& group : d.more) {
            if (!groups.has(group) || groups[group].empty()) continue;
            const auto number = number_in(groups[group], d.decimal);
            const auto& rows = bench::row(*channel).more;
            if (!number || r.more_count >= rows.size()) return false;
            const MoreRow& limits = rows[r.more_count];
            if (!(*number >= limits.low && *number <= limits.high)) return false;
            r.more[r.more_count++] = *number;
        }
        if (r.more_count < bench::row(*channel).fewest_more) return false;
        r.overload = said == Said::overload;
        r.stable = said == Said::settled;
        const auto per = in_unit_of(*channel, row.factor, unit), none = in_unit_of(*channel, 0, unit);
        all.push_back({r, step_of(text, d.decimal) * (per && none ? std::abs(*per - *none) : 1)});
    }
    if (!groups.has("time")) t_s = clock_.stamp(heard_s);
    std::optional<std::int64_t> count;
    if (groups.has("seq")) {
        const auto number = number_in(groups["seq"], d.decimal);
        if (!number || !(*number >= 0)) return false;
        count = static_cast<std::int64_t>(*number) % numbers_wrap_at;
    }
    for (auto& [r, step] : all) {
        if (!groups.has("state")) r.stable = settled(r.channel, t_s, r.value, step);
        r.t_s = t_s;
        auto& last = seq_[static_cast<std::size_t>(r.channel)];
        if (count && last > 0) { // counted from one here, so that nought is "none yet"
            const std::int64_t ahead =
                (*count + 1 - static_cast<std::int64_t>(last) + numbers_wrap_at) % numbers_wrap_at;
            if (ahead == 0) {
                ++health_.repeated_frames;
                continue;
            }
            if (ahead > 1 && ahead < numbers_wrap_at / 2) health_.lost_frames += static_cast<std::uint64_t>(ahead - 1);
        }
        last = count ? static_cast<std::uint32_t>(*count + 1) : last + 1;
        r.seq = last - 1;
        out.push_back(r);
    }
    return true;
}

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/foreign/interpreter.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <stdexcept>

namespace fusain::virt {

using bench::Channel, bench::Decoder, bench::Said;

Interpreter::Interpreter(std::shared_ptr<const Decoder> decoder, std::optional<Channel> channel)
    : decoder_(std::move(decoder)), channel_(channel)
{
    if (decoder_->says.text.empty())
        throw std::runtime_error("decoder " + decoder_->id + " does not say how a stand-in speaks (\"says\")");
    if (decoder_->is_open() && !channel_)
        throw std::runtime_error("decoder " + decoder_->id + " needs a channel, as in LC=" + decoder_->id + "@LINE");
}

bool Interpreter::takes(Channel channel) const
{
    if (decoder_->is_open() && channel == channel_) return true;
    return std::any_of(decoder_->values.begin(), decoder_->values.end(),
               [&](const Decoder::ValueRow& v) { return v.channel == channel; }) ||
           std::any_of(decoder_->channels.begin(), decoder_->channels.end(),
               [&](const auto& row) { return row.second == channel; });
}

std::string Interpreter::say(const bench::Reading& r)
{
    newest_[r.channel] = now_ = r;
    const bool came_to_rest = r.stable && !was_stable_ && std::abs(r.value) > 1;
    was_stable_ = r.stable;
    if (decoder_->when == Decoder::When::asked) return {};
    if (decoder_->when == Decoder::When::key) return came_to_rest ? frame() : std::string();
    // a frame of several channels goes out with its first
    if (const auto first = decoder_->values.front().channel; first && r.channel != *first) return {};
    const auto last = said_at_s_.find(r.channel);
    // an instrument that sends points sends every one
    if (decoder_->channels.empty() && last != said_at_s_.end() && r.t_s >= last->second &&
        r.t_s - last->second < 0.999 / decoder_->says.hz)
        return {};
    said_at_s_[r.channel] = r.t_s;
    return frame();
}

std::string Interpreter::hear(std::string_view bytes)
{
    if (decoder_->when != Decoder::When::asked) return {};
    heard_ += bytes;
    std::string out;
    for (std::size_t at; (at = heard_.find(decoder_->ask)) != std::string::npos;) {
        heard_.erase(0, at + decoder_->ask.size());
        if (!newest_.empty()) out = frame(); // the newest question is answered
    }
    if (heard_.size() > 256) heard_.clear();
    return out;
}

/// One `{name:format}`; `so_far`: what stands before it, for the check sum.
std::string Interpreter::filled(const std::string& name, const std::string& format, const std::string& so_far) const
{
    const Decoder& d = *decoder_;
    const auto number = [&](double value) {
        const std::size_t point = format.find_first_of(".,");
        const std::string width = format.substr(0, point);
        const int decimals = point == std::string::npos ? 3 : std::atoi(format.c_str() + point + 1);
        char out[64];
        std::snprintf(
            out, sizeof out, width.starts_with('0') ? "%0*.*f" : "%*.*f", std::atoi(width.c_str()), decimals, value);
        std::string text = out;
        std::replace(text.begin(), text.end(), '.', d.decimal);
        return text;
    };
    const auto printed = [&](const bench::Reading& r, const Decoder::ValueRow& row) {
        const auto value = bench::as_printed(r.channel, r.value, row.unit);
        if (!value) throw std::runtime_error("decoder " + d.id + " cannot print that channel");
        return *value / row.factor;
    };
    const Decoder::ValueRow& first = d.values.front();
    const double value = printed(now_, first);
    if (name == "value") return number(d.says.text.find("{sign") == std::string::npos ? value : std::abs(value));
    if (name == "sign") return value < 0 ? "-" : "+";
    if (name == "sign_after") return value < 0 ? "-" : " ";
    if (name == "unit") return first.unit;
    if (name == "time") return std::to_string(std::llround(now_.t_s / d.time_factor));
    if (name == "more_1") return number(now_.more[0]);
    if (name == "more_2") return number(now_.more[1]);
    if (name == "state" || name == "channel") {
        const Said wanted = now_.overload ? Said::overload : now_.stable ? Said::settled : Said::moving;
        if (name == "state")
            for (const auto& [word, said] : d.states)
                if (said == wanted) return (word == "*" ? " " : "") + word;
        for (const auto& [word, channel] : d.channels)
            if (channel == now_.channel) return word;
    }
    if (name == "sum") {
        const Decoder::Sum& s = d.sum;
        const std::size_t begin = s.with_start ? 0 : d.frame.start.size();
        std::string covered = so_far.substr(begin);
        if (!s.with_end && d.frame.after_end && covered.ends_with(d.frame.end))
            covered.resize(covered.size() - d.frame.end.size());
        const unsigned sum = bench::checksum(s.kind, covered);
        const bool wide = s.kind >= bench::ChecksumKind::crc16_ccitt_false;
        if (!s.binary) {
            char out[8];
            std::snprintf(out, sizeof out, "%0*X", wide ? 4 : 2, sum);
            return out;
        }
        std::string bytes;
        for (int i = wide ? 1 : 0; i >= 0; --i) bytes += static_cast<char>((sum >> (8 * i)) & 0xFF);
        if (s.low_first) std::reverse(bytes.begin(), bytes.end());
        return bytes;
    }
    for (const Decoder::ValueRow& row : d.values) {
        if (!row.channel || name != bench::row(*row.channel).word) continue;
        const auto at = newest_.find(*row.channel);
        return number(at == newest_.end() ? 0 : printed(at->second, row)); // nought: not measured yet
    }
    throw std::runtime_error("decoder " + d.id + ": \"says.text\" holds {" + name + "}, which stands for nothing");
}

std::string Interpreter::frame() const
{
    std::string out;
    const std::string& text = decoder_->says.text;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const std::size_t close = text[i] == '{' ? text.find('}', i) : std::string::npos;
        if (close == std::string::npos) {
            out += text[i];
            continue;
        }
        const std::string inside = text.substr(i + 1, close - i - 1);
        const std::size_t colon = inside.find(':');
        out += filled(inside.substr(0, colon), colon == std::string::npos ? "" : inside.substr(colon + 1), out);
        i = close;
    }
    return out;
}

} // namespace fusain::virt

// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/decoders/decoder.h"

#include "bench/files/object_reader.h"
#include "core/base/limits.h"
#include "shipped_profiles.h"

#include "bench/base/json.h"
#include <re2/re2.h>

#include <algorithm>
#include <set>
#include <stdexcept>

namespace fusain::bench {
namespace {

using file::InOrder;
constexpr const char* kind = "fusain line decoder";

using file::At, file::Trouble;

Channel channel_of(const std::string& word, const std::string& where)
{
    std::string list;
    for (const ChannelRow& row : channels()) {
        if (word == row.word) return row.channel;
        list += (list.empty() ? "" : ", ") + std::string(row.word);
    }
    throw Trouble{where + " is \"" + word + "\"; allowed is one of " + list + "."};
}

std::string unit_of(const std::string& word, const std::string& where)
{
    if (word.empty() || line_unit(word)) return word;
    std::string list;
    for (const LineUnit& u : line_units())
        if (*u.word) list += (list.empty() ? "" : ", ") + std::string(u.word);
    throw Trouble{where + " is \"" + word + "\"; allowed is one of " + list + "."};
}

Decoder::ValueRow value_row(const At& at, const std::string& unit, const std::map<std::string, int>& groups)
{
    at.only({"group", "sign", "unit", "unit_group", "channel", "factor"});
    Decoder::ValueRow out;
    const auto group = [&](const char* key, const char* usual) {
        const std::string name = at.text(key, groups.count(usual) ? usual : "");
        if (!name.empty() && !groups.count(name))
            throw Trouble{at.name(key) + " is \"" + name + "\"; allowed is a group that the pattern names."};
        return name;
    };
    out.group = group("group", "value");
    if (out.group.empty()) throw Trouble{at.name("group") + " is missing; allowed is a group that the pattern names."};
    out.sign = group("sign", "sign");
    out.unit_group = group("unit_group", "unit");
    out.unit = unit_of(at.text("unit", unit), at.name("unit"));
    if (at.has("channel")) out.channel = channel_of(at.text("channel"), at.name("channel"));
    out.factor = at.number("factor", 1, 1e-9, 1e9);
    return out;
}

void frame_of(const At& at, Decoder& d)
{
    at.only({"start", "end", "length", "after_end"});
    d.frame.start = at.text("start", "");
    d.frame.end = at.text("end", at.has("length") ? "" : "\n");
    d.frame.length = static_cast<int>(at.number("length", 0, 1, 256));
    d.frame.after_end = static_cast<int>(at.number("after_end", 0, 0, 4));
    if (d.frame.end.empty() && (d.frame.start.empty() || d.frame.length == 0))
        throw Trouble{at.name("end") + " is missing; allowed is an end, or a start together with a length."};
    if (!d.frame.end.empty() && d.frame.length)
        throw Trouble{at.name("length") + " is not known beside an end; allowed is one of the two."};
}

void sum_of(const At& at, Decoder& d, bool in_pattern)
{
    at.only({"kind", "as", "covers"});
    static constexpr const char* kinds[] = {
        "none", "sum8", "xor8", "crc16_ccitt_false", "crc16_xmodem", "crc16_modbus", "crc16_arc"};
    static constexpr const char* as[] = {"hex", "bytes_high_first", "bytes_low_first"};
    static constexpr const char* covers[] = {"text", "text_and_end", "start_to_text", "start_to_end"};
    d.sum.kind = static_cast<ChecksumKind>(at.word("kind", kinds, 0));
    const std::size_t how = at.word("as", as, 0), what = at.word("covers", covers, 0);
    d.sum.binary = how > 0;
    d.sum.low_first = how == 2;
    d.sum.with_end = what == 1 || what == 3;
    d.sum.with_start = what >= 2;
    if (d.sum.kind != ChecksumKind::none && !in_pattern && d.frame.after_end == 0)
        throw Trouble{at.name("kind") + " needs a place; allowed is a group \"sum\" in the pattern, or bytes after "
                                        "the frame's end (\"after_end\")."};
}

Decoder decoder_of(const InOrder& json)
{
    const At at{json, ""};
    at.only({"kind", "version", "id", "title", "covers", "when", "frame", "pattern", "unit", "values", "channels",
        "more", "time_factor", "units", "states", "negative", "decimal", "checksum", "ask", "serial", "says"});
    at.number("version", 1, 1, 1);
    Decoder d;
    d.id = at.text("id");
    if (d.id.empty() || d.id.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789_") != std::string::npos)
        throw Trouble{"\"id\" is \"" + d.id + "\"; allowed are small letters, digits and _."};
    d.title = at.text("title");
    d.covers = at.text("covers", "");
    static constexpr const char* whens[] = {"always", "asked", "key"};
    d.when = static_cast<Decoder::When>(at.word("when", whens, 0));
    frame_of(at.inside("frame"), d);

    d.pattern = at.text("pattern");
    RE2::Options plain(RE2::Latin1);
    plain.set_log_errors(false);
    const RE2 pattern(d.pattern, plain);
    if (!pattern.ok())
        throw Trouble{"\"pattern\" is \"" + d.pattern + "\": " + pattern.error() +
                      "; allowed is a regular expression without back references, its groups named (?P<value>…)."};
    static const std::set<std::string> known = {
        "value", "sign", "unit", "state", "channel", "time", "seq", "sum", "body"};
    const auto& groups = pattern.NamedCapturingGroups();

    const std::string unit = at.text("unit", "");
    unit_of(unit, "\"unit\"");
    if (!at.has("values")) {
        const InOrder nothing = InOrder::object();
        d.values.push_back(value_row({nothing, "values"}, unit, groups));
    } else {
        if (!json["values"].is_array() || json["values"].empty() || json["values"].size() > 8)
            throw Trouble{"\"values\" is " + json["values"].dump() + "; allowed is a list of one to eight."};
        int n = 0;
        for (const InOrder& row : json["values"])
            d.values.push_back(value_row({row, "values." + std::to_string(++n)}, unit, groups));
    }
    if (at.has("more"))
        for (const InOrder& group : json["more"]) {
            if (!group.is_string() || !groups.count(group.get<std::string>()))
                throw Trouble{"\"more\" holds " + group.dump() + "; allowed are groups that the pattern names."};
            d.more.push_back(group);
        }
    for (const auto& [name, number] : groups)
        if (!known.count(name) && std::find(d.more.begin(), d.more.end(), name) == d.more.end() &&
            std::none_of(d.values.begin(), d.values.end(),
                [&n = name](const Decoder::ValueRow& v) { return v.group == n || v.sign == n || v.unit_group == n; }))
            throw Trouble{
                "\"pattern\" names a group \"" + name +
                "\" that nothing uses; allowed are value, sign, unit, state, channel, time, seq, sum, body and "
                "those of \"values\" and \"more\"."};
    const At words = at.inside("channels");
    for (const auto& [word, channel] : words.json.items())
        d.channels[word] = channel_of(words.text(word.c_str()), words.name(word));
    if (groups.count("channel") != !d.channels.empty())
        throw Trouble{"\"channels\" and a group \"channel\" in the pattern belong together; one is missing."};
    d.time_factor = at.number("time_factor", 0.001, 1e-9, 1000);
    const At units = at.inside("units");
    for (const auto& [word, to] : units.json.items())
        d.units[word] = unit_of(units.text(word.c_str()), units.name(word));
    static constexpr const char* said[] = {"settled", "moving", "overload", "ignored"};
    const At states = at.inside("states");
    for (const auto& [word, to] : states.json.items())
        d.states[word] = static_cast<Said>(states.word(word.c_str(), said, 0));
    if (groups.count("state") != !d.states.empty())
        throw Trouble{"\"states\" and a group \"state\" in the pattern belong together; one is missing."};
    d.negative = at.text("negative", "-");
    const std::string decimal = at.text("decimal", ".");
    if (decimal != "." && decimal != ",") throw Trouble{"\"decimal\" is \"" + decimal + "\"; allowed is . or ,"};
    d.decimal = decimal[0];
    sum_of(at.inside("checksum"), d, groups.count("sum") > 0);

    const At ask = at.inside("ask");
    ask.only({"text", "every_ms"});
    d.ask = ask.text("text", "");
    d.ask_every_ms = static_cast<int>(ask.number("every_ms", 250, 20, 60000));
    if ((d.when == Decoder::When::asked) != !d.ask.empty())
        throw Trouble{"\"ask.text\" and \"when\": \"asked\" belong together; one is missing."};
    const At serial = at.inside("serial");
    serial.only({"baud", "data_bits", "parity", "stop_bits", "flow"});
    d.serial.baud = static_cast<int>(serial.number("baud", 9600, 1, 1e7));
    d.serial.data_bits = static_cast<int>(serial.number("data_bits", 8, 1, 9));
    d.serial.stop_bits = static_cast<int>(serial.number("stop_bits", 1, 1, 3));
    d.serial.parity = serial.text("parity", "none");
    d.serial.flow = serial.text("flow", "none");
    if (const auto wrong = check(d.serial)) throw Trouble{"\"serial." + wrong->field + "\": " + wrong->text};
    const At says = at.inside("says");
    says.only({"text", "hz"});
    d.says.text = says.text("text", "");
    d.says.hz = says.number("hz", 10, 0.1, 1000);

    const auto may = d.is_open() ? d.may_feed() : std::vector<Channel>{};
    if (d.is_open() && may.empty()) throw Trouble{"\"unit\" is \"" + unit + "\", which no channel of a bench has."};
    return d;
}

} // namespace

bool Decoder::is_open() const
{
    return channels.empty() && std::any_of(values.begin(), values.end(), [](const ValueRow& v) { return !v.channel; });
}

std::vector<Channel> Decoder::feeds(std::optional<Channel> chosen) const
{
    std::vector<Channel> out;
    for (const auto& [word, channel] : channels) out.push_back(channel);
    if (!channels.empty()) return out;
    for (const ValueRow& v : values)
        if (const auto channel = v.channel ? v.channel : chosen) out.push_back(*channel);
    return out;
}

std::vector<Channel> Decoder::may_feed() const
{
    std::vector<Channel> out;
    const auto open = std::find_if(values.begin(), values.end(), [](const ValueRow& v) { return !v.channel; });
    if (open != values.end())
        for (const ChannelRow& row : bench::channels())
            if (row.fewest_more == 0 && *row.unit && in_unit_of(row.channel, 1, open->unit)) out.push_back(row.channel);
    return out;
}

Outcome<Decoder> read_decoder(const std::string& text, const std::string& file)
{
    return file::read<Decoder>(text, file, kind, "bad_file", " The decoder is not used.", decoder_of);
}

const std::vector<std::shared_ptr<const Decoder>>& shipped_decoders()
{
    static const auto all = [] {
        std::vector<std::shared_ptr<const Decoder>> out;
        for (const auto& [file, text] : shipped_decoder_texts) {
            auto read = read_decoder(text, file);
            if (!read) throw std::runtime_error(read.messages().front().text);
            Decoder d = std::move(read).take();
            d.shipped = true;
            out.push_back(std::make_shared<const Decoder>(std::move(d)));
        }
        return out;
    }();
    return all;
}

std::shared_ptr<const Decoder> shipped_decoder(std::string_view id)
{
    for (const auto& d : shipped_decoders())
        if (d->id == id) return d;
    return nullptr;
}

} // namespace fusain::bench

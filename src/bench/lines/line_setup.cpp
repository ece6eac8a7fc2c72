// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/line_setup.h"

#include "bench/base/fields.h"

#include <algorithm>
#include <charconv>

namespace fusain::bench {

LineSetup bench_line(std::string place)
{
    LineSetup out;
    out.place = std::move(place);
    return out;
}

std::optional<Message> check(const LineSetup& line)
{
    const auto refuse = [&](const char* code, const char* field, const std::string& text) {
        return Message{code, Level::error, field, text};
    };
    if (line.place.empty())
        return refuse("missing_field", "place", "Where is the line? Choose a port, or write host and port.");
    if (line.place.starts_with("tcp:")) {
        const std::size_t colon = line.place.rfind(':');
        int port = 0;
        const char *from = line.place.data() + colon + 1, *to = line.place.data() + line.place.size();
        const auto [end, code] = std::from_chars(from, to, port);
        if (colon <= 4 || code != std::errc() || end != to || port < 1 || port > 65535)
            return refuse("bad_place", "place",
                "The network line is \"" + line.place.substr(4) +
                    "\"; allowed is a host, a colon and a port from 1 to 65535, as in 192.0.2.7:4001.");
    }
    if (line.is_serial())
        if (auto m = check(line.serial)) return m;
    if (!line.decoder) return std::nullopt;
    const auto may = line.decoder->may_feed();
    if (line.decoder->is_open() && !line.feeds)
        return refuse("missing_field", "feeds",
            "What does it measure? \"" + line.decoder->title + "\" gives a value in " +
                line.decoder->values.front().unit + ".");
    if (line.feeds && !line.unit.empty() && !in_unit_of(*line.feeds, 1, line.unit))
        return refuse("unknown_choice", "unit",
            std::string("The ") + row(*line.feeds).title + " is not measured in \"" + line.unit + "\".");
    if (line.feeds && line.decoder->is_open() && std::find(may.begin(), may.end(), *line.feeds) == may.end())
        return refuse("unknown_choice", "feeds",
            std::string("\"") + line.decoder->title + "\" cannot feed the " + row(*line.feeds).title +
                ": it gives a value in " + line.decoder->values.front().unit + ".");
    return std::nullopt;
}

FUSAIN_FIELDS(SerialSettings, always("baud", &E::baud)
                                  .always("data_bits", &E::data_bits)
                                  .always("parity", &E::parity)
                                  .always("stop_bits", &E::stop_bits)
                                  .always("flow", &E::flow))
FUSAIN_LOGGED(KeptLine, field("machine", &E::machine)
                            .always("place", &E::place)
                            .always("name", &E::name)
                            .always("decoder", &E::decoder)
                            .field("feeds", &E::feeds)
                            .field("unit", &E::unit)
                            .field("serial", &E::serial))

KeptLine kept(const LineSetup& l)
{
    KeptLine out;
    out.place = l.place;
    out.name = l.name;
    if (l.decoder) out.decoder = l.decoder->id;
    if (l.feeds) out.feeds = row(*l.feeds).word;
    out.unit = l.unit;
    if (l.is_serial()) out.serial = l.serial;
    return out;
}

Outcome<LineSetup> line_from(const KeptLine& kept, const std::vector<std::shared_ptr<const Decoder>>& decoders)
{
    using Read = Outcome<LineSetup>;
    LineSetup l;
    l.place = kept.place;
    l.name = kept.name;
    if (const std::string& id = kept.decoder; id != bench_line_id) {
        const auto at = std::find_if(decoders.begin(), decoders.end(), [&](const auto& d) { return d->id == id; });
        if (at == decoders.end())
            return Read::refuse({"unknown_decoder", Level::error, "decoder",
                "The line of " + l.title() + " is spoken as \"" + id +
                    "\", and no decoder of that name is here. Put its file back, or connect it anew."});
        l.decoder = *at;
    }
    l.unit = kept.unit;
    for (const ChannelRow& channel : channels())
        if (kept.feeds == channel.word) l.feeds = channel.channel;
    if (kept.serial) l.serial = *kept.serial;
    if (auto m = check(l)) return Read::refuse(*m);
    return l;
}

} // namespace fusain::bench

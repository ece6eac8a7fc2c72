// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/foreign/indicators.h"

#include <fstream>
#include <sstream>

namespace fusain::virt {
namespace {

Interpreter interpreter_of(const std::string& words)
{
    const std::size_t at = words.rfind('@'), equals = words.find('=');
    if (at == std::string::npos) throw std::runtime_error("--foreign " + words + ": DECODER@LINE is needed");
    const bool named = equals != std::string::npos && equals < at;
    const std::string id = words.substr(named ? equals + 1 : 0, at - (named ? equals + 1 : 0));
    std::optional<bench::Channel> channel;
    for (const bench::ChannelRow& row : bench::channels())
        if (named && words.substr(0, equals) == row.word) channel = row.channel;
    if (named && !channel) throw std::runtime_error("--foreign " + words + ": there is no such channel");
    auto decoder = bench::shipped_decoder(id);
    if (!decoder) {
        std::ifstream file(id);
        std::stringstream text;
        text << file.rdbuf();
        const auto own = bench::read_decoder(text.str(), id);
        if (!own) throw std::runtime_error(own.messages().front().text);
        decoder = std::make_shared<const bench::Decoder>(*own);
    }
    return {decoder, channel};
}

} // namespace

std::unique_ptr<End> make_end(const std::string& line, int baud)
{
    if (line.starts_with("tcp:")) return std::make_unique<TcpEnd>(std::stoi(line.substr(4)));
    auto serial = std::make_unique<SerialEnd>(line);
    serial->set_speed(baud);
    return serial;
}

Indicator::Indicator(const std::string& words, const EndMaker& make)
    : interpreter_(interpreter_of(words)),
      end_(make(words.substr(words.rfind('@') + 1), interpreter_.decoder().serial.baud))
{
}

Indicators::Indicators(const std::vector<std::string>& words, const EndMaker& make)
{
    for (const std::string& each : words) all_.push_back(std::make_unique<Indicator>(each, make));
}

std::string Indicators::rest_of(const std::string& bytes)
{
    if (all_.empty()) return bytes;
    pending_ += bytes;
    std::string rest;
    std::size_t from = 0;
    for (std::size_t end; (end = pending_.find('\n', from)) != std::string::npos; from = end + 1) {
        const std::string line = pending_.substr(from, end + 1 - from);
        std::vector<bench::Reading> heard;
        bench::LineDecoder().feed(line, heard);
        bool shown = false;
        for (const bench::Reading& r : heard)
            for (const auto& one : all_)
                if (one->takes(r.channel)) {
                    one->say(r);
                    shown = true;
                }
        if (!shown) rest += line;
    }
    pending_.erase(0, from);
    for (const auto& one : all_) one->speak();
    return rest;
}

void Indicators::plug(bool in)
{
    for (const auto& one : all_) one->plug(in);
}

} // namespace fusain::virt

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/decoders/decoder.h"

#include <map>

namespace fusain::virt {

/// Says in a decoder's words what a stand-in measured: an indicator that speaks otherwise, at its own pace, by itself,
/// when asked, or when somebody presses its print key as the value has come to rest.
class Interpreter {
public:
    /// `channel`: what it shows, where the decoder leaves it open. Throws std::runtime_error when it cannot be.
    Interpreter(std::shared_ptr<const bench::Decoder> decoder, std::optional<bench::Channel> channel);

    bool takes(bench::Channel channel) const;
    /// What it says because of this reading; empty: nothing now.
    std::string say(const bench::Reading& reading);
    /// What it answers to what came over its line.
    std::string hear(std::string_view bytes);
    const bench::Decoder& decoder() const { return *decoder_; }

private:
    std::string frame() const;
    std::string filled(const std::string& name, const std::string& format, const std::string& so_far) const;

    std::shared_ptr<const bench::Decoder> decoder_;
    std::optional<bench::Channel> channel_;
    std::map<bench::Channel, bench::Reading> newest_;
    bench::Reading now_;
    std::map<bench::Channel, double> said_at_s_;
    bool was_stable_ = false;
    std::string heard_;
};

} // namespace fusain::virt

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "virtual/foreign/ends.h"
#include "virtual/foreign/interpreter.h"

#include <functional>
#include <memory>
#include <vector>

namespace fusain::virt {

/// Makes the instrument's end of a line, by its name (or `tcp:PORT`), which is set to that speed.
using EndMaker = std::function<std::unique_ptr<End>(const std::string& line, int baud)>;
/// A pseudo-terminal, or a network socket.
std::unique_ptr<End> make_end(const std::string& line, int baud);

/// An indicator beside the stand-in's own line that shows one of its channels, and speaks otherwise.
class Indicator {
public:
    /// `[CHANNEL=]DECODER@LINE`: the decoder by its id or its file; the line a name, or `tcp:PORT`. Throws
    /// std::runtime_error.
    Indicator(const std::string& words, const EndMaker& make);
    bool takes(bench::Channel channel) const { return interpreter_.takes(channel); }
    void say(const bench::Reading& reading) { waiting_ += interpreter_.say(reading); }
    /// What there is to say goes out; what came is answered.
    void speak() { waiting_ = interpreter_.hear(end_->write(std::exchange(waiting_, std::string()))); }
    void plug(bool in) { in ? end_->plug_in() : end_->unplug(); }

private:
    Interpreter interpreter_;
    std::unique_ptr<End> end_;
    std::string waiting_;
};

/// Takes from what a stand-in says what is shown by indicators; the rest goes over its own line as it is.
class Indicators {
public:
    explicit Indicators(const std::vector<std::string>& words, const EndMaker& make = make_end);
    std::string rest_of(const std::string& bytes);
    void plug(bool in);

private:
    std::vector<std::unique_ptr<Indicator>> all_;
    std::string pending_;
};

} // namespace fusain::virt

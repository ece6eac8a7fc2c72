// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/line.h"
#include "bench/channels/picture.h"
#include "bench/channels/signal.h"

#include <memory>
#include <string>

namespace fusain::bench {

class Visit;
struct TakeRow;

/// What a method's instrument shows now, recording or not. Only the method's own rooms know more than this.
struct Shown {
    virtual ~Shown() = default;
    /// The same as it is when nothing is recorded.
    virtual std::shared_ptr<const Shown> idle() const = 0;
    bool connected = false; ///< its line is open and speaks
    bool complete = false;  ///< the recording is long enough: nothing more will come
};

/// How a channel was lost: it alone says nothing any more, or its whole line is gone.
enum class Loss { silent, line };

/// A method's instrument as it speaks, and the recording of it that is in progress: of a signal, or of a picture that
/// arrives in rows. One a method. No line, no clock, no Qt; the link's thread feeds it.
class Take {
public:
    virtual ~Take() = default;
    /// The channel is one of its instrument's.
    virtual bool hears(Channel channel) const = 0;
    /// Everything its instrument says, recording or not.
    virtual void feed(const Reading& reading) = 0;
    /// Comes again while it stays so.
    virtual void lost(Channel channel, Loss how) = 0;
    /// Of an instrument that sends a picture: what came of it, and that its line is gone.
    virtual bool hears_pictures() const { return false; }
    virtual void feed(const PictureWord&) {}
    virtual void picture_lost() {}
    /// What the program has to say to such an instrument since it was asked last; empty: nothing.
    virtual std::string to_say() { return {}; }

    /// Begins a recording for the visit, from what stands in it (a zero, a calibration).
    virtual void begin(const Visit& visit, const TakeRow& what) = 0;
    /// The technician's sign in the middle of it, where there is one: the chair was let go.
    virtual void mark() {}
    virtual void end() = 0;
    virtual std::shared_ptr<const Shown> state() = 0;
    /// Rows that were not handed over yet. Their columns stay the same through a recording.
    virtual Signal rows() = 0;
    /// Why the recording cannot go on; empty: it can.
    virtual const std::string& broken() const = 0;
};

} // namespace fusain::bench

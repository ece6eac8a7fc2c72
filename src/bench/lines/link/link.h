// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/link/line_port.h"
#include "bench/lines/live.h"
#include "bench/visit/visit.h"

namespace fusain::bench {

/// Talks to the instruments over their serial lines: decodes, watches, feeds the takes of the methods, hands on what
/// they record. Lives in a thread of its own; the window only gets Live.
class Link : public QObject {
    Q_OBJECT
public:
    using Takes = std::map<Method, std::unique_ptr<Take>>;
    Link(std::vector<LineSetup> lines, Takes takes, const Ground& ground = {});

public slots:
    void start();
    /// From now on these are the lines; those that stay as they are go on without a break. A recording goes on.
    void set_lines(const std::vector<fusain::bench::LineSetup>& lines);
    /// Begins a recording of the visit's method, from what stands in the visit.
    void begin(long visit_id, int number, const fusain::bench::Visit& visit, const fusain::bench::TakeRow* what);
    void mark();
    void end();

signals:
    void live(const fusain::bench::Live& live);
    /// Something that an instrument says once: a blow, a cylinder, a resistor.
    void reading(const fusain::bench::Reading& reading);
    /// Of the running recording, at least every half second.
    void signal(const fusain::bench::SignalChunk& chunk);
    void trial_broken(long visit, int trial, const QString& reason);
    /// What `set_lines` asked for is so: a line that is not among them any more is free.
    void lines_are_set();

private:
    void on_lost(LinePort* port);
    void lose(Channel channel, Loss how);
    void grow_old();
    std::optional<double>* room_value(Channel channel);
    void take(const Reading& reading);
    void take(const PictureWord& word);
    void hand_on();
    void break_if_broken();
    void tell();
    void flush();
    bool is_of_the_room(const LinePort& port) const;

    void add(const LineSetup& line);
    Ground ground_;
    std::vector<LineSetup> first_; ///< to be opened at the start
    std::vector<LinePort*> ports_;
    LineHealth health_before_;
    int tells_ = 0;
    Live now_;
    Takes takes_;
    Take* running_ = nullptr;
    long visit_ = 0; ///< that the running recording belongs to
    int chunk_ = 0;
    double flushed_s_ = 0; ///< by the instrument's clock
};

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/chamber/chamber_take.h"
#include "bench/lines/link/line_port.h"
#include "core/signal/swing.h"

#include <QStringList>

#include <array>
#include <deque>
#include <optional>

namespace fusain::bench {

/// The newest reading of a channel, however old it is.
struct Heard {
    double value = 0, age_s = 0;
};
/// How old a reading may be to count as what the instrument says now. Slow sensors speak every few seconds.
double longest_age_s(Channel channel);

/// What the screen needs to know of the lines, at most 30 times a second. A value that is there is fresh.
struct Live {
    bool has_lines = true;                                 ///< false: no instrument has spoken since the program began
    bool connected = false;                                ///< every line but the chamber's is open and speaks
    QString trouble;                                       ///< a sentence when something is wrong with a line
    double lost_share = 0;                                 ///< of the frames of the last five seconds, lost or spoilt
    std::array<std::optional<Heard>, channel_count> heard; ///< to be shown as old; never to be taken
    std::optional<double> cell_kg, water_temp_c, gas_temp_c, barometric_mmhg, scale_kg;
    bool scale_stable = false, cell_overload = false;
    double cell_mean_kg = 0, cell_sd_kg = 0; ///< of the last 2 s
    bool cell_steady = false;                ///< 2 s of samples with a spread that a zero may be taken from
    int trial = 0;                           ///< the recording that runs; 0: none
    bool let_go = false;
    std::vector<swing::Sample> fresh; ///< net samples since the last Live; t < 0 before letting go
    swing::State swing;
    ChamberLive chamber;
};

/// Talks to the instruments over their serial lines: decodes, watches, runs the readers of swing and chamber, hands on
/// raw signals. Lives in a thread of its own; the window only gets Live.
class Link : public QObject {
    Q_OBJECT
public:
    explicit Link(const QStringList& ports);

public slots:
    void start();
    void begin_trial(long visit, int number, double zero_kg);
    void let_go();
    void begin_chamber(
        long visit, int number, fusain::bench::ChamberWhat what, const fusain::chamber::Options& options);
    void end_trial();

signals:
    void live(const fusain::bench::Live& live);
    void blow(double volume_l);
    /// An instrument that is being checked has read its reference.
    void reading(fusain::bench::Channel channel, double value);
    /// Raw signal of the running recording, at least every half second. t = 0 at letting go, or at its first sample.
    void signal(const fusain::bench::SignalChunk& chunk);
    void trial_broken(long visit, int trial, const QString& reason);

private:
    void on_lost(LinePort* port);
    void lose_cell(const QString& why);
    void lose_chamber(const QString& why);
    void grow_old();
    std::array<std::pair<Channel, std::optional<double>*>, 4> slow_channels();
    void take(const Reading& reading);
    void take_cell(const Reading& reading);
    void break_trial(const QString& reason);
    void tell();
    void flush_signal();
    bool in_chamber() const { return now_.chamber.what.has_value(); }

    QStringList names_;
    std::vector<LinePort*> ports_;
    LineHealth health_before_;
    int tells_ = 0;
    bool ever_heard_ = false;
    Live now_;
    std::deque<swing::Sample> recent_; ///< load cell, last 2 s
    double zero_kg_ = 0;
    double last_cell_s_ = -1;
    double let_go_at_s_ = 0, begun_at_s_ = 0;
    swing::Reader reader_;
    ChamberTake chamber_;
    Signal unsaved_;
    long visit_ = 0; ///< that the running recording belongs to
    int chunk_ = 0;
};

} // namespace fusain::bench

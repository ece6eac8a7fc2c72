// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/line.h"
#include "core/swing.h"

#include <QElapsedTimer>
#include <QObject>
#include <QSerialPort>
#include <QTimer>

#include <deque>
#include <optional>

namespace fusain::bench {

/// What the screen needs to know of the line, at most 30 times a second.
struct Live {
    bool connected = false;
    QString trouble;  ///< a sentence when something is wrong with the line
    double lost_share = 0; ///< of the frames of the last five seconds, lost or spoilt
    std::optional<double> cell_kg, water_temp_c, gas_temp_c, barometric_mmhg, scale_kg;
    bool scale_stable = false, cell_overload = false;
    double cell_mean_kg = 0, cell_sd_kg = 0; ///< of the last 2 s
    bool cell_steady = false;                ///< 2 s of samples with a spread that a zero may be taken from
    int trial = 0;                           ///< 0: none is running
    bool let_go = false;
    std::vector<swing::Sample> fresh;        ///< net samples since the last Live; t < 0 before letting go
    swing::State swing;
};

/// Talks to the tank room over a serial port: decodes, watches the line, runs the swing reader, hands on raw signals.
/// Lives in a thread of its own; the window only gets Live. A line that is lost is opened again by itself.
class TankLink : public QObject {
    Q_OBJECT
public:
    explicit TankLink(QString port);

public slots:
    void start();
    void begin_trial(int number, double zero_kg);
    void let_go();
    void end_trial();

signals:
    void live(const fusain::bench::Live& live);
    void blow(double volume_l);
    /// An instrument that is being checked has read its reference.
    void reading(fusain::bench::Channel channel, double value);
    /// Raw signal of the running trial, at least every half second. t = 0 at letting go.
    void signal(int trial, int seq, const std::vector<fusain::swing::Sample>& samples);
    void trial_broken(int trial, const QString& reason);

private:
    void open();
    void lose(const QString& why);
    void on_bytes();
    void take(const Reading& reading);
    void tell();
    void flush_signal();

    QString port_name_;
    QSerialPort* port_ = nullptr;
    QTimer *tell_timer_ = nullptr, *watch_timer_ = nullptr;
    QElapsedTimer since_bytes_;
    LineDecoder decoder_;
    LineHealth health_before_;
    int tells_ = 0;
    Live now_;
    std::deque<swing::Sample> recent_; ///< load cell, last 2 s
    double zero_kg_ = 0;
    double last_cell_s_ = -1;
    double let_go_at_s_ = 0;
    swing::Reader reader_;
    std::vector<swing::Sample> unsaved_;
    int chunk_ = 0;
};

} // namespace fusain::bench

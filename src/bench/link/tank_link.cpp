// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/link/tank_link.h"

#include <cmath>

namespace fusain::bench {
namespace {
constexpr int tell_ms = 33, watch_ms = 400, silent_ms = 1000;
constexpr double longest_gap_s = 0.5, recent_s = 2.0, steady_sd_kg = 0.015;
constexpr double chunk_s = 0.5;
constexpr int health_tells = 150; // about five seconds
} // namespace

TankLink::TankLink(QString port) : port_name_(std::move(port)) {}

void TankLink::start()
{
    tell_timer_ = new QTimer(this);
    watch_timer_ = new QTimer(this);
    connect(tell_timer_, &QTimer::timeout, this, &TankLink::tell);
    connect(watch_timer_, &QTimer::timeout, this, [this] {
        if (!port_) open();
        else if (since_bytes_.elapsed() > silent_ms) lose(QStringLiteral("The line is silent. Check the cable; it is opened again by itself."));
    });
    tell_timer_->start(tell_ms);
    watch_timer_->start(watch_ms);
    open();
}

void TankLink::open()
{
    port_ = new QSerialPort(port_name_, this);
    port_->setBaudRate(QSerialPort::Baud115200);
    if (!port_->open(QIODevice::ReadOnly)) {
        delete port_;
        port_ = nullptr;
        now_.connected = false;
        now_.trouble = QStringLiteral("No instrument on %1. It is tried again by itself.").arg(port_name_);
        return;
    }
    decoder_.restart();
    last_cell_s_ = -1;
    recent_.clear();
    since_bytes_.start();
    connect(port_, &QSerialPort::readyRead, this, &TankLink::on_bytes);
    connect(port_, &QSerialPort::errorOccurred, this, [this](QSerialPort::SerialPortError e) {
        if (e == QSerialPort::NoError || e == QSerialPort::TimeoutError) return;
        QMetaObject::invokeMethod(this, [this] { if (port_) lose(QStringLiteral("The line was unplugged. Plug it in again; it is opened again by itself.")); }, Qt::QueuedConnection);
    });
}

void TankLink::lose(const QString& why)
{
    port_->disconnect(this);
    port_->deleteLater();
    port_ = nullptr;
    now_.connected = false;
    now_.trouble = why;
    now_.cell_kg = now_.scale_kg = now_.water_temp_c = now_.gas_temp_c = now_.barometric_mmhg = std::nullopt;
    now_.scale_stable = now_.cell_steady = false;
    if (now_.trial) {
        const int trial = now_.trial;
        end_trial();
        emit trial_broken(trial, QStringLiteral("the line was lost"));
    }
}

void TankLink::on_bytes()
{
    since_bytes_.restart();
    const QByteArray bytes = port_->readAll();
    std::vector<Reading> readings;
    decoder_.feed({bytes.constData(), static_cast<std::size_t>(bytes.size())}, readings);
    if (!readings.empty()) {
        now_.connected = true;
        now_.trouble.clear();
    }
    for (const Reading& r : readings) take(r);
}

void TankLink::take(const Reading& r)
{
    switch (r.channel) {
    case Channel::water_temp: now_.water_temp_c = r.value; return;
    case Channel::gas_temp: now_.gas_temp_c = r.value; return;
    case Channel::barometer: now_.barometric_mmhg = r.value; return;
    case Channel::scale:
        now_.scale_kg = r.value;
        now_.scale_stable = r.stable;
        return;
    case Channel::spirometer: emit blow(r.value); return;
    case Channel::load_cell: break;
    default: emit reading(r.channel, r.value); return;
    }
    const double gap = last_cell_s_ < 0 ? 0 : r.t_s - last_cell_s_;
    last_cell_s_ = r.t_s;
    now_.cell_kg = r.value;
    now_.cell_overload = r.overload;
    recent_.push_back({r.t_s, r.value});
    while (recent_.size() > 1 && (r.t_s - recent_.front().t_s > recent_s || recent_.front().t_s > r.t_s)) recent_.pop_front();
    if (!now_.trial) return;
    if (gap < 0 || gap > longest_gap_s || r.overload) {
        const int trial = now_.trial;
        end_trial();
        emit trial_broken(trial, r.overload ? QStringLiteral("the load cell was overloaded") : QStringLiteral("the signal had a gap"));
        return;
    }
    const swing::Sample net{now_.let_go ? r.t_s - let_go_at_s_ : r.t_s, r.value - zero_kg_};
    now_.fresh.push_back(net);
    if (!now_.let_go) return;
    unsaved_.push_back(net);
    reader_.add(net);
    if (unsaved_.back().t_s - unsaved_.front().t_s >= chunk_s) flush_signal();
}

void TankLink::flush_signal()
{
    if (unsaved_.empty()) return;
    emit signal(now_.trial, chunk_++, unsaved_);
    unsaved_.clear();
}

void TankLink::begin_trial(int number, double zero_kg)
{
    now_.trial = number;
    now_.let_go = false;
    now_.fresh.clear();
    now_.swing = {};
    zero_kg_ = zero_kg;
    unsaved_.clear();
    chunk_ = 0;
    reader_ = swing::Reader();
    if (port_) return;
    end_trial();
    emit trial_broken(number, QStringLiteral("there is no line to the load cell"));
}

void TankLink::let_go()
{
    if (!now_.trial || now_.let_go) return;
    now_.let_go = true;
    let_go_at_s_ = last_cell_s_;
    now_.fresh.clear();
}

void TankLink::end_trial()
{
    flush_signal();
    now_.trial = 0;
    now_.let_go = false;
}

void TankLink::tell()
{
    double sum = 0, squares = 0;
    for (const swing::Sample& s : recent_) sum += s.kg;
    const double n = static_cast<double>(recent_.size());
    now_.cell_mean_kg = n > 0 ? sum / n : 0;
    for (const swing::Sample& s : recent_) squares += std::pow(s.kg - now_.cell_mean_kg, 2);
    now_.cell_sd_kg = n > 1 ? std::sqrt(squares / (n - 1)) : 0;
    now_.cell_steady = now_.connected && n > 60 && recent_.back().t_s - recent_.front().t_s > 0.9 * recent_s && now_.cell_sd_kg < steady_sd_kg;
    if (++tells_ % health_tells == 0) {
        const LineHealth& h = decoder_.health();
        const double bad = static_cast<double>(h.bad_frames + h.lost_frames - health_before_.bad_frames - health_before_.lost_frames);
        const double all = bad + static_cast<double>(h.frames - health_before_.frames);
        now_.lost_share = all > 0 ? bad / all : 0;
        health_before_ = h;
    }
    if (now_.let_go) now_.swing = reader_.state();
    emit live(now_);
    now_.fresh.clear();
}

} // namespace fusain::bench

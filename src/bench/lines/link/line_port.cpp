// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/line_port.h"

namespace fusain::bench {
namespace {
constexpr int watch_ms = 250, longest_silence_ms = 1000;
}

LinePort::LinePort(QString port, QObject* parent) : QObject(parent), name_(std::move(port)) {}

void LinePort::start()
{
    watch_ = new QTimer(this);
    connect(watch_, &QTimer::timeout, this, &LinePort::watch);
    watch_->start(watch_ms);
    open();
}

void LinePort::open()
{
    port_ = new QSerialPort(name_, this);
    port_->setBaudRate(QSerialPort::Baud115200);
    if (!port_->open(QIODevice::ReadOnly)) {
        delete port_;
        port_ = nullptr;
        connected_ = false;
        trouble_ = QStringLiteral("No instrument on %1. It is tried again by itself.").arg(name_);
        return;
    }
    decoder_.restart();
    silent_ms_ = 0;
    connect(port_, &QSerialPort::readyRead, this, &LinePort::on_bytes);
    connect(port_, &QSerialPort::errorOccurred, this, [this](QSerialPort::SerialPortError e) {
        if (e == QSerialPort::NoError || e == QSerialPort::TimeoutError) return;
        QMetaObject::invokeMethod(
            this,
            [this] {
                if (port_)
                    lose(QStringLiteral("The line was unplugged. Plug it in again; it is opened again by itself."));
            },
            Qt::QueuedConnection);
    });
}

void LinePort::watch()
{
    if (!port_) return open();
    // counted in beats, of which a computer that stood still for a moment makes one: that is no silent line
    silent_ms_ += watch_ms;
    if (silent_ms_ > longest_silence_ms)
        lose(QStringLiteral("The line is silent. Check the cable; it is opened again by itself."));
}

void LinePort::lose(const QString& why)
{
    port_->disconnect(this);
    port_->deleteLater();
    port_ = nullptr;
    connected_ = false;
    trouble_ = why;
    emit lost();
}

void LinePort::on_bytes()
{
    silent_ms_ = 0;
    const QByteArray bytes = port_->readAll();
    std::vector<Reading> heard;
    decoder_.feed({bytes.constData(), static_cast<std::size_t>(bytes.size())}, heard);
    if (heard.empty()) return;
    connected_ = true;
    trouble_.clear();
    for (const Reading& r : heard) carries_[static_cast<std::size_t>(r.channel)] = true;
    emit readings(heard);
}

} // namespace fusain::bench

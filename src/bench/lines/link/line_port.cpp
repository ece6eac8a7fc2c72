// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/line_port.h"

#include <QLocalSocket>
#include <QSerialPort>

namespace fusain::bench {
namespace {
constexpr int watch_ms = 250, longest_silence_ms = 1000, open_socket_ms = 100;
const QString socket_prefix = QStringLiteral("socket:");
} // namespace

LinePort::LinePort(QString port, QObject* parent) : QObject(parent), name_(std::move(port)) {}

void LinePort::start()
{
    watch_ = new QTimer(this);
    connect(watch_, &QTimer::timeout, this, &LinePort::watch);
    watch_->start(watch_ms);
    open();
}

QIODevice* LinePort::open_serial()
{
    auto* serial = new QSerialPort(name_, this);
    serial->setBaudRate(QSerialPort::Baud115200);
    if (!serial->open(QIODevice::ReadOnly)) {
        delete serial;
        return nullptr;
    }
    connect(serial, &QSerialPort::errorOccurred, this, [this](QSerialPort::SerialPortError e) {
        if (e != QSerialPort::NoError && e != QSerialPort::TimeoutError) unplugged();
    });
    return serial;
}

QIODevice* LinePort::open_socket()
{
    auto* socket = new QLocalSocket(this);
    socket->connectToServer(name_.mid(socket_prefix.size()));
    if (!socket->waitForConnected(open_socket_ms)) {
        delete socket;
        return nullptr;
    }
    connect(socket, &QLocalSocket::disconnected, this, &LinePort::unplugged);
    return socket;
}

void LinePort::unplugged()
{
    QMetaObject::invokeMethod(
        this,
        [this] {
            if (port_) lose(QStringLiteral("The line was unplugged. Plug it in again; it is opened again by itself."));
        },
        Qt::QueuedConnection);
}

void LinePort::open()
{
    port_ = name_.startsWith(socket_prefix) ? open_socket() : open_serial();
    if (!port_) {
        connected_ = false;
        trouble_ = QStringLiteral("No instrument on %1. It is tried again by itself.").arg(name_);
        return;
    }
    decoder_.restart();
    pictures_.restart();
    silent_ms_ = 0;
    connect(port_, &QIODevice::readyRead, this, &LinePort::on_bytes);
}

void LinePort::say(const std::string& words)
{
    if (port_ && port_->isWritable()) port_->write(words.data(), static_cast<qint64>(words.size()));
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
    std::vector<PictureWord> words;
    std::string rest;
    pictures_.feed({bytes.constData(), static_cast<std::size_t>(bytes.size())}, words, rest);
    decoder_.feed(rest, heard);
    if (heard.empty() && words.empty()) return;
    connected_ = true;
    trouble_.clear();
    for (const Reading& r : heard) carries_[static_cast<std::size_t>(r.channel)] = true;
    carries_pictures_ = carries_pictures_ || !words.empty();
    if (!heard.empty()) emit readings(heard);
    if (!words.empty()) emit pictures(words);
}

} // namespace fusain::bench

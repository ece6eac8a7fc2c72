// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/line_setup.h"
#include "bench/lines/link/clock.h"

#include <QIODevice>
#include <QObject>

#include <functional>

namespace fusain::bench {

inline QString q(const std::string& s) { return QString::fromStdString(s); }

/// A connection to an instrument, whatever it runs over. Bytes come and go; what they mean is somebody else's.
class Wire : public QObject {
    Q_OBJECT
public:
    explicit Wire(QObject* parent) : QObject(parent) {}
    /// Begins to open; `opened` or `failed` follows, at once or after a moment.
    virtual void open(const LineSetup& line) = 0;
    virtual void close() = 0;
    virtual bool is_open() const = 0;
    virtual bool is_opening() const = 0;
    virtual void write(const QByteArray& bytes) = 0;

signals:
    void opened();
    void failed(const QString& why); ///< it could not be opened; in words, with what to do
    void gone();                     ///< it was open, and the other end is gone
    void arrived(const QByteArray& bytes);
};

/// A serial port (or pseudo-terminal), a local socket, a network socket.
class DeviceWire : public Wire {
    Q_OBJECT
public:
    using Wire::Wire;
    void open(const LineSetup& line) override;
    void close() override;
    bool is_open() const override { return device_ && ready_; }
    bool is_opening() const override { return device_ && !ready_; }
    void write(const QByteArray& bytes) override;

private:
    void open_serial(const LineSetup& line);
    void open_local(const LineSetup& line);
    void open_network(const LineSetup& line);
    void take(QIODevice* device);
    void give_up(const QString& why);
    void leave();
    QIODevice* device_ = nullptr;
    bool ready_ = false;
};

/// Whether the user who listens on a local socket may be an instrument of this user: the same, or the system's own.
bool may_speak(unsigned listener, unsigned user);

/// What the lines stand on. In life: devices, and the computer's clock.
struct Ground {
    std::function<Wire*(QObject* parent)> wire = [](QObject* parent) { return new DeviceWire(parent); };
    Clock* clock = &Clock::life();
};

} // namespace fusain::bench

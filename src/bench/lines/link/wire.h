// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/line_setup.h"

#include <QIODevice>
#include <QObject>

namespace fusain::bench {

/// A connection to an instrument, whatever it runs over: a serial port (or pseudo-terminal), a local socket, a network
/// socket. Bytes come and go; what they mean is somebody else's.
class Wire : public QObject {
    Q_OBJECT
public:
    explicit Wire(QObject* parent) : QObject(parent) {}
    /// Begins to open; `opened` or `failed` follows, at once or after a moment.
    void open(const LineSetup& line);
    void close();
    bool is_open() const { return device_ && ready_; }
    bool is_opening() const { return device_ && !ready_; }
    void write(const QByteArray& bytes);

signals:
    void opened();
    void failed(const QString& why); ///< it could not be opened; in words, with what to do
    void gone();                     ///< it was open, and the other end is gone
    void arrived(const QByteArray& bytes);

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

} // namespace fusain::bench

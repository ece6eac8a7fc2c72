// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/line.h"

#include <QObject>
#include <QSerialPort>
#include <QTimer>

#include <array>

namespace fusain::bench {

/// One serial line: opened, decoded, watched; opened again by itself when it was lost.
class LinePort : public QObject {
    Q_OBJECT
public:
    LinePort(QString port, QObject* parent);
    void start();

    bool connected() const { return connected_; }
    const QString& trouble() const { return trouble_; } ///< a sentence when something is wrong
    const LineHealth& health() const { return decoder_.health(); }
    /// The line has said something on this channel since the program began.
    bool carries(Channel channel) const { return carries_[static_cast<std::size_t>(channel)]; }

signals:
    void readings(const std::vector<fusain::bench::Reading>& readings);
    void lost();

private:
    void open();
    void watch();
    void lose(const QString& why);
    void on_bytes();

    QString name_;
    QSerialPort* port_ = nullptr;
    QTimer* watch_ = nullptr;
    int silent_ms_ = 0;
    LineDecoder decoder_;
    bool connected_ = false;
    QString trouble_;
    std::array<bool, channel_count> carries_{};
};

} // namespace fusain::bench

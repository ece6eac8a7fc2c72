// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/line.h"
#include "bench/lines/picture.h"

#include <QObject>
#include <QIODevice>
#include <QTimer>

#include <array>

namespace fusain::bench {

/// One line: a serial port, or a local socket where the name begins with `socket:`. Opened, decoded, watched; opened
/// again by itself when it was lost.
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
    /// It speaks of pictures too, and can be spoken to.
    bool carries_pictures() const { return carries_pictures_; }
    void say(const std::string& words);

signals:
    void readings(const std::vector<fusain::bench::Reading>& readings);
    void pictures(const std::vector<fusain::bench::PictureWord>& words);
    void lost();

private:
    void open();
    void watch();
    void lose(const QString& why);
    void on_bytes();

    QString name_;
    /// Null when it cannot be opened.
    QIODevice* open_serial();
    QIODevice* open_socket();
    void unplugged(); ///< after this turn of the event loop

    QIODevice* port_ = nullptr;
    QTimer* watch_ = nullptr;
    int silent_ms_ = 0;
    LineDecoder decoder_;
    PictureDecoder pictures_;
    bool carries_pictures_ = false;
    bool connected_ = false;
    QString trouble_;
    std::array<bool, channel_count> carries_{};
};

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/decoders/foreign_line.h"
#include "bench/lines/link/wire.h"
#include "bench/channels/picture.h"

#include <array>

namespace fusain::bench {

/// One line of the lab: opened, decoded, asked where its instrument must be asked, watched; opened again by itself when
/// it was lost.
class LinePort : public QObject {
    Q_OBJECT
public:
    LinePort(LineSetup line, QObject* parent, const Ground& ground = {});
    void start();

    const LineSetup& line() const { return line_; }
    bool connected() const { return connected_; }
    const QString& trouble() const { return trouble_; } ///< a sentence when something is wrong
    const LineHealth& health() const { return foreign_ ? foreign_->health() : decoder_.health(); }
    /// Since its last byte, counted in beats; nothing: none has come yet.
    std::optional<double> silent_s() const;
    bool strange() const { return !strange_.isEmpty(); } ///< bytes come that nobody understands
    /// The line has said something on this channel since the program began.
    bool carries(Channel channel) const { return carries_[static_cast<std::size_t>(channel)]; }
    /// It has, or its instrument is there for nothing else.
    bool is_for(Channel channel) const { return carries(channel) || meant_[static_cast<std::size_t>(channel)]; }
    /// It speaks of pictures too, and can be spoken to.
    bool carries_pictures() const { return carries_pictures_; }
    void say(const std::string& words) { wire_->write(QByteArray::fromStdString(words)); }

signals:
    void readings(const std::vector<fusain::bench::Reading>& readings);
    void pictures(const std::vector<fusain::bench::PictureWord>& words);
    void lost();

private:
    void watch();
    void lose(const QString& why);
    void on_bytes(const QByteArray& bytes);
    void not_understood(const QByteArray& bytes);
    /// How long the line may be silent, in ms; 0: as long as it likes.
    int longest_silence_ms() const;

    LineSetup line_;
    Wire* wire_;
    Beat *watch_, *ask_;
    int silent_ms_ = 0;              ///< since it was opened, or a byte came
    std::optional<qint64> quiet_ms_; ///< since a byte came
    LineDecoder decoder_;
    PictureDecoder pictures_;
    std::unique_ptr<ForeignLine> foreign_;
    Since since_; ///< when bytes arrive, for decoders whose instruments have no clock
    bool carries_pictures_ = false, connected_ = false;
    int strange_ms_ = 0; ///< bytes have come for so long, and none was understood
    QByteArray strange_; ///< the newest of them
    QString trouble_;
    std::array<bool, channel_count> carries_{}, meant_{};
};

/// What may be wrong where bytes arrive and nobody understands them: another speed, or another way of speaking.
QString words_of_garbage(const QByteArray& bytes, const LineSetup& line);

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/link/line_port.h"

namespace fusain::bench {

/// Listens to a line that is about to be connected: what arrives, and which decoder understands most of it. It belongs
/// to whoever shows it; nothing it hears is measured with.
class Audition : public QObject {
    Q_OBJECT
public:
    /// How well a decoder does with what has arrived.
    struct Trial {
        std::shared_ptr<const Decoder> decoder; ///< null: the bench line
        std::uint64_t understood = 0, strange = 0;
        std::optional<Reading> reading; ///< the newest that it said
        double share() const
        {
            const double all = static_cast<double>(understood + strange);
            return all > 0 ? static_cast<double>(understood) / all : 0;
        }
    };
    enum class State { idle, opening, failed, silent, garbage, text, understood, gone };

    explicit Audition(const Ground& ground = {}, QObject* parent = nullptr);
    /// `line`: where and how; its decoder and what it feeds do not matter yet.
    void listen(const LineSetup& line, const std::vector<std::shared_ptr<const Decoder>>& decoders);
    void stop();
    /// From now on hears that decoder as what it would be connected to.
    void assume(const std::shared_ptr<const Decoder>& decoder, std::optional<Channel> feeds, const std::string& unit);
    /// Sends what instruments are asked with, one decoder's after the other, until one is answered.
    void ask();
    /// Listens at one usual speed after the other until text comes; `line()` has the speed that was found.
    void try_speeds();
    bool is_trying() const { return !speeds_.empty(); }

    State state() const { return state_; }
    const QString& words() const { return words_; } ///< what is to be said of it
    const LineSetup& line() const { return line_; }
    const QByteArray& bytes() const { return bytes_; } ///< the newest 2 KiB
    const std::vector<Trial>& trials() const { return trials_; }
    /// The decoder that understands most; −1: none does, or two do equally well.
    int proposed() const;
    /// Of those that do equally well: their places in `trials`.
    std::vector<int> equally_good() const;

signals:
    void changed();

private:
    void restart();
    void on_bytes(const QByteArray& bytes);
    void tell();
    void next_speed();
    struct Ear {
        std::unique_ptr<ForeignLine> foreign;
        std::unique_ptr<LineDecoder> own;
        std::uint64_t understood_before = 0, strange_before = 0; ///< as something else
    };
    Wire* wire_;
    Beat tell_, ask_, speed_;
    Since since_;
    LineSetup line_;
    std::vector<std::shared_ptr<const Decoder>> decoders_;
    std::vector<Ear> ears_;
    std::vector<Trial> trials_;
    QByteArray bytes_;
    qint64 heard_at_ms_ = -1;
    State state_ = State::idle;
    QString words_, trouble_;
    std::size_t asked_ = 0;
    std::vector<int> speeds_; ///< still to be tried
};

/// Bytes as a person reads them: text as it is, ends of line as ends of line, what cannot be seen by its sign.
QString readable(const QByteArray& bytes);

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/line_port.h"

#include "bench/lines/link/garbage.h"

#include <algorithm>

namespace fusain::bench {
namespace {
constexpr int watch_ms = 250, longest_strange_ms = 2000, shown_bytes = 40;
constexpr int usual_silence_ms = 1000, slow_beats = 6;

} // namespace

QString words_of_garbage(const QByteArray& bytes, const LineSetup& line)
{
    if (is_garbage(bytes))
        return line.is_serial()
                   ? QStringLiteral("Bytes arrive on %1, and they are no text: speed (%2), parity or data bits are set "
                                    "otherwise on the instrument.")
                         .arg(q(line.title()))
                         .arg(line.serial.baud)
                   : QStringLiteral(
                         "Bytes arrive on %1, and they are no text: the box is set to another speed than its "
                         "instrument.")
                         .arg(q(line.title()));
    QByteArray shown = bytes.right(shown_bytes).simplified();
    return QStringLiteral("Text arrives on %1 that \"%2\" does not understand: \"%3\". Connect it anew, with the "
                          "decoder that fits.")
        .arg(q(line.title()), line.decoder ? q(line.decoder->title) : QStringLiteral("the bench line"),
            QString::fromLatin1(shown));
}

LinePort::LinePort(LineSetup line, QObject* parent, const Ground& ground)
    : QObject(parent), line_(std::move(line)), wire_(ground.wire(this)), watch_(new Beat(*ground.clock, this)),
      ask_(new Beat(*ground.clock, this)), since_(*ground.clock)
{
    if (!line_.decoder) return;
    foreign_ = std::make_unique<ForeignLine>(line_.decoder, line_.feeds, line_.unit);
    for (const Channel channel : line_.decoder->feeds(line_.feeds)) meant_[static_cast<std::size_t>(channel)] = true;
}

void LinePort::start()
{
    since_.restart();
    connect(watch_, &Beat::due, this, &LinePort::watch);
    watch_->start(watch_ms);
    connect(wire_, &Wire::opened, this, [this] {
        decoder_.restart();
        pictures_.restart();
        if (foreign_) foreign_->restart();
        silent_ms_ = strange_ms_ = 0;
        strange_.clear();
    });
    connect(wire_, &Wire::failed, this, [this](const QString& why) {
        connected_ = false;
        trouble_ = why + QStringLiteral(" It is tried again by itself.");
    });
    connect(wire_, &Wire::gone, this,
        [this] { lose(QStringLiteral("The line was unplugged. Plug it in again; it is opened again by itself.")); });
    connect(wire_, &Wire::arrived, this, &LinePort::on_bytes);
    if (line_.decoder && !line_.decoder->ask.empty()) {
        connect(ask_, &Beat::due, this, [this] { say(line_.decoder->ask); });
        ask_->start(line_.decoder->ask_every_ms);
    }
    wire_->open(line_);
}

int LinePort::longest_silence_ms() const
{
    if (!line_.decoder) return usual_silence_ms;
    if (line_.decoder->when == Decoder::When::key) return 0;
    if (line_.decoder->when == Decoder::When::asked)
        return std::max(usual_silence_ms, slow_beats * line_.decoder->ask_every_ms);
    return 3 * usual_silence_ms; // a display may pause while it settles
}

std::optional<double> LinePort::silent_s() const
{
    return quiet_ms_ ? std::optional(static_cast<double>(*quiet_ms_) / 1000) : std::nullopt;
}

void LinePort::watch()
{
    if (quiet_ms_) *quiet_ms_ += watch_ms;
    if (wire_->is_opening()) return;
    if (!wire_->is_open()) return wire_->open(line_);
    // counted in beats, of which a computer that stood still for a moment makes one: that is no silent line
    silent_ms_ += watch_ms;
    if (!strange_.isEmpty()) strange_ms_ += watch_ms;
    if (strange_ms_ > longest_strange_ms) {
        connected_ = false;
        trouble_ = words_of_garbage(strange_, line_);
        emit lost();
        strange_ms_ = 0;
    }
    const int longest = longest_silence_ms();
    if (longest && silent_ms_ > longest)
        lose(QStringLiteral("The line is silent. Check the cable; it is opened again by itself."));
    // an instrument that speaks at its key alone is there as long as its line is
    if (!longest && strange_.isEmpty()) connected_ = true;
}

void LinePort::lose(const QString& why)
{
    wire_->close();
    connected_ = false;
    trouble_ = why;
    emit lost();
}

void LinePort::on_bytes(const QByteArray& bytes)
{
    silent_ms_ = 0;
    quiet_ms_ = 0;
    std::vector<Reading> heard;
    std::vector<PictureWord> words;
    if (foreign_) {
        const auto understood = foreign_->health().frames;
        foreign_->feed({bytes.constData(), static_cast<std::size_t>(bytes.size())}, since_.seconds(), heard);
        if (heard.empty() && foreign_->health().frames == understood) return not_understood(bytes);
    } else {
        std::string rest;
        pictures_.feed({bytes.constData(), static_cast<std::size_t>(bytes.size())}, words, rest);
        decoder_.feed(rest, heard);
        if (heard.empty() && words.empty()) return not_understood(bytes);
    }
    strange_.clear();
    strange_ms_ = 0;
    connected_ = true;
    trouble_.clear();
    for (const Reading& r : heard) carries_[static_cast<std::size_t>(r.channel)] = true;
    carries_pictures_ = carries_pictures_ || !words.empty();
    if (!heard.empty()) emit readings(heard);
    if (!words.empty()) emit pictures(words);
}

void LinePort::not_understood(const QByteArray& bytes) { strange_ = (strange_ + bytes).right(512); }

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/audition.h"

#include "bench/lines/link/garbage.h"

#include <algorithm>

namespace fusain::bench {
namespace {
constexpr int tell_ms = 120, ask_ms = 300, speed_ms = 900;
constexpr qint64 silent_after_ms = 1500;
constexpr int kept_bytes = 2048;
constexpr std::uint64_t enough = 2;
constexpr double most_of_it = 0.8;
constexpr int usual_speeds[] = {9600, 19200, 38400, 4800, 2400, 115200, 57600, 1200, 230400, 600, 300};
} // namespace

QString readable(const QByteArray& bytes)
{
    static const char* const names[] = {"NUL", "SOH", "STX", "ETX", "EOT", "ENQ", "ACK", "BEL", "BS", "TAB", "LF", "VT",
        "FF", "CR", "SO", "SI", "DLE", "DC1", "DC2", "DC3", "DC4", "NAK", "SYN", "ETB", "CAN", "EM", "SUB", "ESC", "FS",
        "GS", "RS", "US"};
    QString out;
    for (const char c : bytes) {
        const auto b = static_cast<unsigned char>(c);
        if (b == 0x02 && !out.isEmpty()) out += '\n'; // a frame begins
        if (b < 0x20)
            out += QStringLiteral("‹%1›").arg(QString::fromLatin1(names[b]));
        else if (b < 0x7F)
            out += QLatin1Char(c);
        else
            out += QStringLiteral("‹%1›").arg(b, 2, 16, QLatin1Char('0'));
        if (b == '\n') out += '\n';
    }
    return out;
}

Audition::Audition(const Ground& ground, QObject* parent)
    : QObject(parent), wire_(ground.wire(this)), tell_(*ground.clock, this), ask_(*ground.clock, this),
      speed_(*ground.clock, this), since_(*ground.clock)
{
    connect(wire_, &Wire::arrived, this, &Audition::on_bytes);
    connect(wire_, &Wire::opened, this, &Audition::restart);
    connect(wire_, &Wire::failed, this, [this](const QString& why) {
        trouble_ = why;
        speeds_.clear();
        tell();
    });
    connect(wire_, &Wire::gone, this, [this] {
        trouble_ = QStringLiteral("It was unplugged, or the other end has hung up. Plug it in and listen again.");
        state_ = State::gone;
        speeds_.clear();
        tell();
    });
    connect(&tell_, &Beat::due, this, &Audition::tell);
    connect(&speed_, &Beat::due, this, &Audition::next_speed);
    connect(&ask_, &Beat::due, this, [this] {
        const auto asks = [&](std::size_t i) { return decoders_[i] && !decoders_[i]->ask.empty(); };
        if (decoders_.empty()) return ask_.stop();
        if (state_ == State::understood) { // goes on with the one that was answered
            for (const int i : equally_good())
                if (const auto at = static_cast<std::size_t>(i); asks(at))
                    return wire_->write(QByteArray::fromStdString(decoders_[at]->ask));
            return ask_.stop();
        }
        for (std::size_t n = 0; n < decoders_.size(); ++n) {
            asked_ = (asked_ + 1) % decoders_.size();
            if (asks(asked_)) return wire_->write(QByteArray::fromStdString(decoders_[asked_]->ask));
        }
    });
}

void Audition::listen(const LineSetup& line, const std::vector<std::shared_ptr<const Decoder>>& decoders)
{
    stop();
    line_ = line;
    decoders_ = decoders;
    trouble_.clear();
    state_ = State::opening;
    // it may have to be asked: the line is opened to be written to as well
    LineSetup open = line;
    static const auto asked = [] {
        auto d = std::make_shared<Decoder>();
        d->ask.assign(1, '?');
        return std::shared_ptr<const Decoder>(d);
    }();
    open.decoder = asked;
    since_.restart();
    restart();
    tell_.start(tell_ms);
    wire_->open(open);
}

void Audition::restart()
{
    bytes_.clear();
    heard_at_ms_ = -1;
    ears_.clear();
    trials_.clear();
    for (const auto& d : decoders_) {
        Trial t;
        t.decoder = d->id == bench_line_id ? nullptr : d;
        trials_.push_back(t);
        Ear ear;
        if (!t.decoder)
            ear.own = std::make_unique<LineDecoder>();
        else
            ear.foreign =
                std::make_unique<ForeignLine>(d, d->is_open() ? std::optional(d->may_feed().front()) : std::nullopt);
        ears_.push_back(std::move(ear));
    }
    since_.restart();
}

void Audition::assume(
    const std::shared_ptr<const Decoder>& decoder, std::optional<Channel> feeds, const std::string& unit)
{
    for (std::size_t i = 0; i < trials_.size(); ++i)
        if (decoder && trials_[i].decoder && trials_[i].decoder->id == decoder->id) {
            ears_[i].foreign = std::make_unique<ForeignLine>(trials_[i].decoder, feeds, unit);
            ears_[i].understood_before = trials_[i].understood; // what it has shown it can stands
            ears_[i].strange_before = trials_[i].strange;
            trials_[i].reading.reset();
        }
}

void Audition::stop()
{
    wire_->close();
    tell_.stop();
    ask_.stop();
    speed_.stop();
    speeds_.clear();
    state_ = State::idle;
    words_.clear();
    bytes_.clear();
    trials_.clear();
    ears_.clear();
    emit changed();
}

void Audition::ask()
{
    if (wire_->is_open()) ask_.start(ask_ms);
}

void Audition::try_speeds()
{
    if (!line_.is_serial() || state_ == State::idle) return;
    speeds_.assign(std::begin(usual_speeds), std::end(usual_speeds));
    next_speed();
}

void Audition::next_speed()
{
    speed_.stop();
    if (state_ == State::understood || state_ == State::text || speeds_.empty()) {
        speeds_.clear();
        return tell();
    }
    LineSetup line = line_;
    line.serial.baud = speeds_.front();
    const std::vector<int> left(speeds_.begin() + 1, speeds_.end());
    const auto decoders = decoders_;
    listen(line, decoders);
    speeds_ = left;
    ask();
    speed_.start(speed_ms);
}

void Audition::on_bytes(const QByteArray& bytes)
{
    bytes_ = (bytes_ + bytes).right(kept_bytes);
    heard_at_ms_ = since_.ms();
    const std::string_view text(bytes.constData(), static_cast<std::size_t>(bytes.size()));
    for (std::size_t i = 0; i < ears_.size(); ++i) {
        std::vector<Reading> heard;
        Trial& t = trials_[i];
        if (ears_[i].own)
            ears_[i].own->feed(text, heard);
        else
            ears_[i].foreign->feed(text, since_.seconds(), heard);
        const LineHealth& h = ears_[i].own ? ears_[i].own->health() : ears_[i].foreign->health();
        // the first piece of a line that is opened in the middle is nobody's fault
        t.understood = ears_[i].understood_before + h.frames;
        t.strange = ears_[i].strange_before + (h.bad_frames > 0 ? h.bad_frames - 1 : 0);
        if (!heard.empty()) t.reading = heard.back();
    }
}

std::vector<int> Audition::equally_good() const
{
    std::vector<int> out;
    std::uint64_t most = enough - 1;
    for (std::size_t i = 0; i < trials_.size(); ++i) {
        const Trial& t = trials_[i];
        // a slip is printed once
        const std::uint64_t worth =
            t.decoder && t.decoder->when == Decoder::When::key && t.reading ? t.understood + 1 : t.understood;
        if (worth < enough || t.share() < most_of_it || worth < most) continue;
        if (worth > most) out.clear();
        most = worth;
        out.push_back(static_cast<int>(i));
    }
    return out;
}

int Audition::proposed() const
{
    const auto good = equally_good();
    return good.size() == 1 ? good.front() : -1;
}

void Audition::tell()
{
    const auto good = equally_good();
    const bool recent = heard_at_ms_ >= 0 && since_.ms() - heard_at_ms_ < silent_after_ms;
    if (!trouble_.isEmpty()) {
        if (state_ != State::gone) state_ = State::failed;
        words_ = trouble_;
    } else if (wire_->is_opening()) {
        state_ = State::opening;
        words_ = QStringLiteral("Calling …");
    } else if (!good.empty() && (recent || state_ == State::understood)) {
        state_ = State::understood;
        const auto title = [&](int i) {
            const auto& d = trials_[static_cast<std::size_t>(i)].decoder;
            return d ? q(d->title) : QStringLiteral("The bench line");
        };
        if (good.size() == 1)
            words_ = QStringLiteral("\"%1\" understands it.").arg(title(good.front()));
        else {
            QStringList names;
            for (int i : good) names << QStringLiteral("\"%1\"").arg(title(i));
            words_ =
                QStringLiteral("%1 understand it equally well. Choose the one that shows what the instrument shows.")
                    .arg(names.join(QStringLiteral(" and ")));
        }
    } else if (heard_at_ms_ < 0 || !recent) {
        state_ = since_.ms() > silent_after_ms || state_ == State::silent ? State::silent : state_;
        words_ =
            state_ == State::silent
                ? QStringLiteral("The port is open, and nothing arrives. Is the instrument on, its output set to "
                                 "\"continuous\", the cable the right one (crossed or straight)? If it speaks only "
                                 "when asked, ask it (Alt A); if at its key, press it now.")
                : QStringLiteral("Listening …");
    } else {
        const QByteArray newest = bytes_.right(200);
        state_ = is_garbage(newest) ? State::garbage : State::text;
        words_ = state_ == State::garbage
                     ? words_of_garbage(newest, line_) +
                           (line_.is_serial() ? QStringLiteral(" Try the speeds (Alt S).") : QString())
                     : QStringLiteral("Text arrives, and no decoder understands it yet. A new decoder is a file in the "
                                      "lab's folder \"decoders\"; docs/formats/decoder.md tells how.");
        if (bytes_.size() < 8) words_ = QStringLiteral("Listening …");
    }
    if (!speeds_.empty() && state_ != State::understood && state_ != State::text)
        words_ = QStringLiteral("Trying %1 …").arg(line_.serial.baud);
    emit changed();
}

} // namespace fusain::bench

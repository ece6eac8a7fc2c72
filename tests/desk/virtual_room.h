// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "virtual_time.h"

#include "desk/stage/stand_in_processes.h"
#include "virtual/analyser/analyser.h"
#include "virtual/chamber/chamber.h"
#include "virtual/foreign/indicators.h"
#include "virtual/table/xray_table.h"
#include "virtual/tank/tank.h"

#include <map>

namespace fusain::desk {

class MemoryWire;

/// The instrument's end of a line that is only memory.
class MemoryEnd final : public virt::End {
public:
    explicit MemoryEnd(int baud) : baud_(baud) {}
    ~MemoryEnd() override { unplug(); }
    void plug_in() override { plugged_ = true; }
    void unplug() override;
    bool plugged() const override { return plugged_; }
    std::string write(std::string bytes) override
    {
        if (wire_) to_say_ += bytes;
        return std::exchange(said_, {});
    }
    void deliver();
    void hang_up()
    {
        wire_ = nullptr;
        to_say_.clear();
        said_ = on_hang_up;
    }
    std::string on_hang_up; ///< what the instrument hears then

private:
    friend class MemoryWire;
    int baud_ = 0;
    bool plugged_ = true;
    std::string to_say_, said_;
    MemoryWire* wire_ = nullptr;
};

using Ends = std::map<std::string, MemoryEnd*>;

class MemoryWire final : public bench::Wire {
public:
    MemoryWire(Ends& ends, QObject* parent) : Wire(parent), ends_(ends) {}
    ~MemoryWire() override { close(); }
    void open(const bench::LineSetup& line) override
    {
        close();
        const auto at = ends_.find(line.place);
        if (at == ends_.end() || !at->second->plugged())
            return emit failed(QString::fromStdString("No instrument on " + line.place +
                                                      ": it is not plugged in, or "
                                                      "has another name."));
        end_ = at->second;
        if (end_->wire_) emit end_->wire_->gone(); // the newest counts
        end_->wire_ = this;
        baud_ = line.is_serial() ? line.serial.baud : 0;
        emit opened();
    }
    void close() override
    {
        if (end_ && end_->wire_ == this) end_->hang_up();
        end_ = nullptr;
    }
    bool is_open() const override { return end_ != nullptr; }
    bool is_opening() const override { return false; }
    void write(const QByteArray& bytes) override
    {
        if (end_) end_->said_ += bytes.toStdString();
    }

private:
    friend class MemoryEnd;
    Ends& ends_;
    MemoryEnd* end_ = nullptr;
    int baud_ = 0;
};

inline void MemoryEnd::unplug()
{
    plugged_ = false;
    MemoryWire* lost = wire_;
    hang_up();
    said_.clear(); // whose plug is out hears nobody hang up
    if (!lost) return;
    lost->end_ = nullptr;
    emit lost->gone();
}

inline void MemoryEnd::deliver()
{
    if (!wire_ || to_say_.empty()) return;
    std::string bytes = std::exchange(to_say_, {});
    if (baud_ && wire_->baud_ && baud_ != wire_->baud_) virt::garble(bytes);
    emit wire_->arrived(QByteArray::fromStdString(bytes));
}

/// The stand-ins of StandInProcesses in this process, by the test's clock: the same bytes over lines that are only
/// memory.
class VirtualRoom : public StandIns {
public:
    VirtualRoom(VirtualClock& clock, double speed, quint64 seed, const StandInProcesses::Foreign& foreign = {})
        : clock_(clock), beat_(clock, this)
    {
        add<virt::Tank>("tank", speed, seed, foreign);
        add<virt::Chamber>("chamber", speed, seed, foreign);
        add<virt::Analyser>("analyser", speed, seed, foreign);
        add<virt::XrayTable>("table", std::min(100.0, 10 * speed), seed, foreign, "socket:");
        connect(&beat_, &bench::Beat::due, this, &VirtualRoom::go_on);
        beat_.start(10); // as fusain-virtual does
    }
    bench::Ground ground()
    {
        return {[this](QObject* parent) { return new MemoryWire(ends_, parent); }, &clock_};
    }
    QString folder() const { return QStringLiteral("/room"); }
    void direct(const QString& words) override
    {
        for (auto& s : stand_ins_) tell(*s, words.toStdString());
    }
    void ask(const QString& instrument, const QString& words) override
    {
        for (auto& s : stand_ins_)
            if (s->name == instrument.toStdString()) tell(*s, words.toStdString());
    }

private:
    struct StandIn {
        std::string name;
        std::function<std::string(double)> advance_to;
        std::function<std::string(const std::string&)> direct;
        std::function<void(const std::string&)> hear;
        double speed = 1, plug_back_at = 0;
        std::unique_ptr<MemoryEnd> end;
        std::unique_ptr<virt::Indicators> indicators;
        std::vector<MemoryEnd*> shown; ///< the indicators' ends
    };
    template <class Instrument>
    void add(
        const char* name, double speed, quint64 seed, const StandInProcesses::Foreign& foreign, const char* prefix = "")
    {
        StandIn& s = *stand_ins_.emplace_back(std::make_unique<StandIn>());
        s.name = name;
        auto instrument = std::make_shared<Instrument>(seed);
        s.advance_to = [instrument](double t_s) { return instrument->advance_to(t_s); };
        s.direct = [instrument](const std::string& words) { return instrument->direct(words); };
        if constexpr (requires { instrument->hear(std::string()); }) {
            s.hear = [instrument](const std::string& bytes) { instrument->hear(bytes); };
        }
        s.speed = speed;
        const QString place = QString::fromLatin1(prefix) + folder() + '/' + QString::fromLatin1(name);
        s.end = std::make_unique<MemoryEnd>(0);
        if (s.hear) s.end->on_hang_up = "stop\n";
        ends_[place.toStdString()] = s.end.get();
        lines_ << place;
        std::vector<std::string> words;
        if (const auto at = foreign.find(QString::fromLatin1(name)); at != foreign.end())
            for (const QString& each : at->second)
                words.push_back((each.contains(QStringLiteral("%1")) ? each.arg(folder()) : each).toStdString());
        s.indicators = std::make_unique<virt::Indicators>(words, [&](const std::string& line, int baud) {
            const bool network = line.starts_with("tcp:");
            auto end = std::make_unique<MemoryEnd>(network ? 0 : baud);
            ends_[network ? "tcp:127.0.0.1:" + line.substr(4) : line] = end.get();
            s.shown.push_back(end.get());
            return end;
        });
    }
    double now(const StandIn& s) const { return s.speed * static_cast<double>(clock_.now_ns()) * 1e-9; }
    void speak(StandIn& s)
    {
        const std::string heard = s.end->write(s.indicators->rest_of(s.advance_to(now(s))));
        if (s.hear) s.hear(heard);
    }
    void tell(StandIn& s, const std::string& words)
    {
        speak(s); // so that a direction takes effect at its own moment
        std::string answer = "ok unplug";
        if (words.starts_with("unplug")) {
            s.end->unplug();
            s.indicators->plug(false);
            s.plug_back_at = now(s) + (words.size() > 7 ? std::stod(words.substr(7)) : 3.0);
        } else {
            answer = s.direct(words);
        }
        QMetaObject::invokeMethod(
            this, [this, answer] { emit answered(QString::fromStdString(answer)); }, Qt::QueuedConnection);
    }
    void go_on()
    {
        for (auto& s : stand_ins_) {
            if (!s->end->plugged() && now(*s) >= s->plug_back_at) {
                s->end->plug_in();
                s->indicators->plug(true);
            }
            speak(*s);
            s->end->deliver();
            for (MemoryEnd* shown : s->shown) shown->deliver();
        }
    }
    VirtualClock& clock_;
    bench::Beat beat_;
    Ends ends_;
    std::vector<std::unique_ptr<StandIn>> stand_ins_;
};

} // namespace fusain::desk

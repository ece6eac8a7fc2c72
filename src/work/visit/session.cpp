// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/visit/session.h"

#include "work/visit/last_visit.h"

#include "bench/visit/methods.h"
#include "work/lab/lab.h"
#include "work/visit/visit_end.h"
#include "records/file/patience.h"

#include <QDateTime>
#include <QEventLoop>

#include <algorithm>

namespace fusain::work {

namespace event = bench::event;

namespace {
constexpr int watch_ms = 1000;
constexpr double most_lag_s = 0.5;

std::vector<bench::LineSetup> lines_of(const QStringList& ports)
{
    std::vector<bench::LineSetup> out;
    for (const QString& port : ports) out.push_back(bench::bench_line(port.toStdString()));
    return out;
}
} // namespace

QString now_utc() { return clock_now().toString(Qt::ISODateWithMs); }

Session::Session(std::shared_ptr<records::Store> store, const QStringList& ports, Seams seams)
    : store_(std::move(store)), window_(records::Window::make()), ground_(seams.ground), watch_(clock(), this),
      asked_(new bench::Errands), recorder_(seams.recorder(store_->file(), window_.id)),
      inspection_(std::make_unique<records::Inspection>(store_->file())), given_(lines_of(ports)),
      link_(new bench::Link(given_, bench::instruments(), ground_))
{
    records::wait_by(store_->database(), [] { // what is typed meanwhile is kept for afterwards
        QEventLoop loop;
        QTimer::singleShot(20, &loop, &QEventLoop::quit);
        loop.exec(QEventLoop::ExcludeUserInputEvents);
    });
    connect(&watch_, &bench::Beat::due, this, &Session::look_again);
    // What the threads tell is heard after what the window is doing, wherever the link lives.
    const auto told = [this](auto* by, auto signal, auto heard) {
        connect(
            by, signal, this,
            [this, heard](const auto&... what) { heard_.hand([this, heard, what...] { (this->*heard)(what...); }); },
            Qt::DirectConnection);
    };
    told(link_, &bench::Link::live, &Session::on_live);
    told(link_, &bench::Link::reading, &Session::on_reading);
    told(link_, &bench::Link::trial_broken, &Session::on_broken);
    told(link_, &bench::Link::lines_are_set, &Session::lines_are_set);
    told(recorder_.get(), &records::Recorder::stored, &Session::on_stored);
    told(recorder_.get(), &records::Recorder::failed, &Session::on_failed);
    told(recorder_.get(), &records::Recorder::stalled, &Session::on_stalled);
    told(recorder_.get(), &records::Recorder::signal_failed, &Session::refused);
    told(inspection_.get(), &records::Inspection::damaged, &Session::on_damage);
    // straight from the link's thread: what the window does never comes between a signal and the disk
    connect(
        link_, &bench::Link::signal, this, [this](const bench::SignalChunk& chunk) { recorder_->append_signal(chunk); },
        Qt::DirectConnection);
    recorder_->set_beside(end_visit);
    inspection_->begin();
    if (!seams.link_in_a_thread) {
        link_->start();
        return;
    }
    link_thread_.setObjectName(QStringLiteral("link"));
    link_->moveToThread(&link_thread_);
    asked_->moveToThread(&link_thread_);
    connect(&link_thread_, &QThread::started, link_, &bench::Link::start);
    connect(&link_thread_, &QThread::finished, link_, &QObject::deleteLater);
    link_thread_.start();
}

Session::~Session()
{
    if (!link_thread_.isRunning()) delete link_;
    link_thread_.quit();
    link_thread_.wait();
    delete asked_; // the recorder, last, gives the leases back
}

void Session::on_stored(long visit, const bench::Event& event, const Messages& said)
{
    in_flight_ = stalled_ = false;
    if (visit != visit_id_) return;
    waiting_.pop_front();
    if (const auto why = visit_.apply(event)) emit refused(*why);
    emit stored(event);
    if (ends_visit(event)) emit ended(said);
    emit changed();
    send_next();
    if (event.kind == event::Finished::kind)
        for (auto& then : std::exchange(after_finish_, {}))
            QMetaObject::invokeMethod(this, std::move(then), Qt::QueuedConnection);
}

void Session::on_failed(long visit, const bench::Event& event, const Message& why)
{
    in_flight_ = stalled_ = false;
    if (visit == visit_id_) waiting_.pop_front();
    if (event.kind == event::Finished::kind) after_finish_.clear();
    emit refused(why);
    emit changed();
    send_next();
}

void Session::on_stalled(const Message& why)
{
    stalled_ = true;
    emit refused({why.code, why.level, why.field, why.text + " It is kept and tried again by itself."});
}

void Session::on_damage(const Message& why)
{
    damage_ = why;
    emit refused(why);
}

void Session::on_broken(long visit, int number, const QString& reason)
{
    if (visit != visit_id_) return;
    is_over();
    act(event::TrialBroken{number, reason.toStdString()});
    call(visit_.row().cues.over);
}

void Session::on_reading(const bench::Reading& r)
{
    emit instrument_reading(r);
    if (!is_open()) return;
    // at any other step somebody tries the instrument: it must not become a reading of this client
    for (const bench::HeardRow& row : visit_.row().heard)
        if (row.channel == r.channel && (attended_ == row.step || visit_.next_step() == row.step))
            act(row.act(r.value));
}

void Session::set_lines(const std::vector<bench::LineSetup>& kept)
{
    std::vector<bench::LineSetup> all = given_;
    for (const bench::LineSetup& line : kept)
        if (std::none_of(all.begin(), all.end(), [&](const auto& l) { return l.place == line.place; }))
            all.push_back(line);
    asked_->hand([link = link_, all] { link->set_lines(all); });
}

std::optional<Message> Session::start(const records::Client& client, const QString& technician, Method method,
    const Beginning& with, const std::optional<event::Stops>& stops)
{
    if (damage_) return damage_;
    if (const auto why = leave()) return why;
    technician_ = technician;
    const bench::Event begun = bench::logged({1, now_utc().toStdString(), technician.toStdString()},
        beginning(*store_, client, method, store_->zone_of({}), with));
    // the screening goes with the beginning: a visit that is cut off in between must not ask another method's questions
    std::vector<bench::Event> first{begun};
    if (stops) {
        first.push_back(event(*stops));
        first.back().seq = 2;
    }
    const Outcome<long> id = store_->begin_visit(client.id, QString::fromLatin1(method->word), first, window_);
    if (!id) return id.messages().front();
    visit_id_ = *id;
    visit_ = {};
    for (const bench::Event& f : first)
        if (auto why = visit_.apply(f)) return why;
    before_ = conditions_before(*store_, visit_, visit_id_);
    for (const bench::Event& f : first) emit stored(f);
    emit changed();
    return std::nullopt;
}

std::optional<Message> Session::resume(long visit_id, const QString& technician)
{
    if (const auto why = leave()) return why;
    // first the lease, then the log: what the other window wrote until it left belongs to it
    const auto held = records::take_lease(store_->database(), visit_id, window_, technician);
    const Outcome<bench::Visit> replayed = store_->replay(visit_id);
    if (!replayed) {
        if (!held) records::release_leases(store_->database(), window_.id);
        return replayed.messages().front();
    }
    technician_ = technician;
    visit_id_ = visit_id;
    visit_ = *replayed;
    before_ = conditions_before(*store_, visit_, visit_id_);
    held_ = held;
    if (held_) {
        watch_.start(watch_ms);
        emit refused(*held_);
    } else if (visit_.running()) {
        act(event::TrialBroken{visit_.running()->number, "the program was interrupted"});
    }
    emit changed();
    return std::nullopt;
}

/// Another window measures: what it did is shown here; once it has left, the visit is this window's.
void Session::look_again()
{
    if (store_->last_seq(visit_id_) != visit_.last_seq)
        if (const auto seen = store_->replay(visit_id_)) {
            visit_ = *seen;
            emit changed();
        }
    if (!records::held_elsewhere(store_->database(), visit_id_, window_.id))
        if (const long id = visit_id_; !resume(id, technician_) && !held_) emit taken_over();
}

std::optional<Message> Session::leave()
{
    if (!waiting_.empty()) return not_stored_yet();
    if (live_.trial) end();
    watch_.stop();
    if (visit_id_ && !held_) records::release_leases(store_->database(), window_.id);
    held_.reset();
    ended_trial_ = 0;
    visit_id_ = 0;
    visit_ = {};
    before_.reset();
    after_finish_.clear();
    return std::nullopt;
}

std::optional<alike::Comparability> Session::comparability() const
{
    return work::comparability(*store_, visit_, before_);
}

Message Session::not_stored_yet() const
{
    return {"not_stored_yet", Level::error, "lab",
        "The last value is not on the disk yet; it is tried again by itself. Wait for it before going on."};
}

bench::Event Session::event(bench::Act what) const
{
    return bench::logged({0, now_utc().toStdString(), technician_.toStdString()}, std::move(what));
}

void Session::act(bench::Act what)
{
    if (!is_open()) return;
    if (held_) return emit refused(*held_);
    waiting_.push_back(event(std::move(what)));
    send_next();
}

std::optional<Message> Session::refusal(const bench::Act& what) const
{
    bench::Event e = event(what);
    e.seq = visit_.last_seq + 1;
    return visit_.refuse(e);
}

bool Session::may(const bench::Act& what)
{
    if (held_) {
        emit refused(*held_);
        return false;
    }
    // the number of a trial comes from the log: a quick second key, or a lab that cannot be written to
    if (!waiting_.empty()) {
        if (stalled_) emit refused(not_stored_yet());
        return false;
    }
    const auto why = refusal(what);
    if (why) emit refused(*why);
    return !why;
}

void Session::send_next()
{
    while (!in_flight_ && !waiting_.empty()) {
        bench::Event& e = waiting_.front();
        e.seq = visit_.last_seq + 1;
        if (const auto why = visit_.refuse(e)) {
            if (e.kind == event::Finished::kind) after_finish_.clear();
            waiting_.pop_front();
            emit refused(*why);
            continue;
        }
        in_flight_ = true;
        recorder_->append(visit_id_, e);
    }
}

void Session::finish(std::function<void()> then)
{
    if (visit_.finished || !visit_.result()) return then ? then() : void();
    if (held_) return emit refused(*held_);
    const bool asked = !after_finish_.empty();
    after_finish_.push_back(then ? std::move(then) : [] {});
    if (!asked) act(event::Finished{});
}

std::shared_ptr<const bench::Shown> Session::shown() const
{
    const auto at = live_.shown.find(visit_.method);
    return at == live_.shown.end() ? nullptr : at->second;
}

void Session::call(const char* words)
{
    if (words) emit cue(QString::fromLatin1(words));
}

void Session::begin(const std::string& word)
{
    const auto& takes = visit_.row().takes;
    const auto what = std::find_if(takes.begin(), takes.end(), [&](const auto& t) { return t.word == word; });
    const event::TrialBegun begun{word};
    if (what == takes.end() || !may(begun)) return;
    const int number = static_cast<int>(visit_.trials.size()) + 1;
    const bench::Visit as_it_stands = visit_;
    act(begun);
    asked_->hand([link = link_, visit = visit_id_, number, as_it_stands, take = &*what] {
        link->begin(visit, number, as_it_stands, take);
    });
    call(visit_.row().cues.begun);
}

void Session::mark()
{
    asked_->hand([link = link_] { link->mark(); });
    call(visit_.row().cues.marked);
}

void Session::take()
{
    const auto now = shown();
    if (!live_.trial || !now) return;
    const auto standing = visit_.row().reading(*now, live_.trial);
    if (!standing) return;
    if (standing->why_not) return emit refused(*standing->why_not);
    // what the log will never take is thrown out with the reason once nothing more comes, so that it can be taken again
    if (now->complete && waiting_.empty())
        if (const auto why = refusal(*standing->taken))
            return throw_out(live_.trial, QString::fromStdString(why->text));
    if (!may(*standing->taken)) return;
    end();
    act(*standing->taken);
    call(visit_.row().cues.over);
}

void Session::bring(const bench::Act& typed, bench::Signal recording)
{
    if (!may(typed)) return;
    recorder_->append_signal({visit_id_, static_cast<int>(visit_.trials.size()) + 1, 0, std::move(recording)});
    act(typed);
}

void Session::throw_out(int number, const QString& reason)
{
    if (live_.trial == number) {
        end();
        call(visit_.row().cues.over);
    }
    act(event::TrialThrownOut{number, reason.toStdString()});
}

void Session::end()
{
    is_over();
    asked_->hand([link = link_] { link->end(); });
}

/// The link speaks of a recording for a moment longer than it lasts.
void Session::is_over()
{
    if (live_.trial) ended_trial_ = live_.trial;
    live_.trial = 0;
    if (const auto now = shown()) live_.shown[visit_.method] = now->idle();
}

/// A second of a signal may be lost with the power: half of it is what is being gathered, half what the disk may take.
void Session::look_at_the_disk()
{
    const double lag_s = stalled_ ? 0 : recorder_->lag_s();
    const bool lags = lag_s > most_lag_s;
    if (lags == std::exchange(lags_, lags)) return;
    emit disk_lags(lags ? QStringLiteral("The disk is slow: what was measured in the last second is not all on it yet. "
                                         "Nothing is lost as long as the computer runs; this line goes when the disk "
                                         "has caught up.")
                        : QString());
}

void Session::on_live(const bench::Live& live)
{
    live_ = live;
    look_at_the_disk();
    if (ended_trial_ && live_.trial == ended_trial_) is_over();
    emit live_changed();
}

} // namespace fusain::work

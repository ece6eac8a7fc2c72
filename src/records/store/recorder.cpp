// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/store/recorder.h"

#include "records/visits/attached.h"
#include "records/visits/raw.h"

namespace fusain::records {
namespace {

constexpr int again_ms = 1000, beat_ms = 5000;

/// True for troubles that pass: another program holds the lab, the disk is full, the folder is not there just now.
bool passes(const Message& why)
{
    for (const char* code : {"lab_locked", "lab_full", "lab_unreachable", "lab_read_only"})
        if (why.code == code) return true;
    return false;
}

} // namespace

Recorder::Recorder(const QString& lab_file, const QString& window)
    : lab_file_(lab_file), window_(window), desk_(new bench::Errands), again_(new QTimer(desk_)),
      beat_(new QTimer(desk_))
{
    thread_.setObjectName(QStringLiteral("recorder"));
    again_->setSingleShot(true);
    connect(again_, &QTimer::timeout, desk_, [this] { work(); });
    connect(beat_, &QTimer::timeout, desk_, [this] {
        if (!opened()) renew_leases(store_->database(), window_);
    });
    desk_->moveToThread(&thread_);
    thread_.start();
    desk_->hand([this] { beat_->start(beat_ms); });
}

Recorder::~Recorder()
{
    desk_->hand([this] {
        again_->stop();
        work();
        again_->stop();
        beat_->stop();
        if (!opened()) release_leases(store_->database(), window_);
        store_.reset();
        thread_.quit(); // last: what was handed over before is done
    });
    thread_.wait();
    delete desk_;
}

void Recorder::append(long visit_id, const bench::Event& event) { hand_over({visit_id, event}); }

void Recorder::append_signal(const SignalChunk& chunk) { hand_over({chunk.visit, chunk}); }

void Recorder::hand_over(Job job)
{
    {
        const std::lock_guard lock(jobs_mutex_);
        jobs_.push_back(std::move(job));
    }
    desk_->hand([this] {
        if (!again_->isActive()) work();
    });
}

std::size_t Recorder::unwritten() const
{
    const std::lock_guard lock(jobs_mutex_);
    return jobs_.size();
}

double Recorder::lag_s() const
{
    const std::lock_guard lock(jobs_mutex_);
    if (jobs_.empty()) return 0;
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - jobs_.front().since).count();
}

std::optional<Message> Recorder::opened()
{
    if (store_) return std::nullopt;
    const auto store = Store::open(lab_file_);
    if (!store) return store.messages().front();
    store_ = *store;
    raw::sweep(store_->database());
    attached::sweep(store_->database());
    return std::nullopt;
}

std::optional<Message> Recorder::write(const Job& job, Messages& said)
{
    if (auto why = opened()) return why;
    if (const auto* event = std::get_if<bench::Event>(&job.what))
        return store_->append(job.visit_id, *event, window_, [&]() -> std::optional<Message> {
            if (!beside_) return std::nullopt;
            auto done = beside_(store_, job.visit_id, *event);
            if (!done) return done.messages().front();
            said = std::move(done).take();
            return std::nullopt;
        });
    return store_->append_signal(std::get<SignalChunk>(job.what));
}

void Recorder::work()
{
    for (;;) {
        const Job* next = nullptr;
        {
            const std::lock_guard lock(jobs_mutex_);
            if (jobs_.empty()) return;
            next = &jobs_.front(); // stays where it is while others are added behind it
        }
        const Job& job = *next;
        const auto* event = std::get_if<bench::Event>(&job.what);
        Messages said;
        const std::optional<Message> why = write(job, said);
        if (why && passes(*why)) {
            if (!stalled_) emit stalled(*why);
            stalled_ = true;
            again_->start(again_ms);
            return;
        }
        stalled_ = false;
        Job done;
        { // before it is said: who hears it may quit
            const std::lock_guard lock(jobs_mutex_);
            done = std::move(jobs_.front());
            jobs_.pop_front();
        }
        event = std::get_if<bench::Event>(&done.what);
        if (why && event)
            emit failed(done.visit_id, *event, *why);
        else if (why)
            emit signal_failed(*why);
        else if (event)
            emit stored(done.visit_id, *event, said);
    }
}

} // namespace fusain::records

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/link/errands.h"
#include "records/store/store.h"

#include <QObject>
#include <QThread>
#include <QTimer>

#include <chrono>
#include <deque>
#include <mutex>
#include <variant>

namespace fusain::records {

/// What else is done with an event, in the transaction that stores it; said: what came of it. Where it refuses, the
/// event is not stored either. Called in the recorder's thread, with its own store.
using Beside = std::function<Outcome<Messages>(const std::shared_ptr<Store>&, long visit_id, const bench::Event&)>;

/// Writes events and signals, in the order they were handed over, in a thread of its own, so that a slow disk never
/// stops the window. An event counts only once `stored` has said so. While the lab is locked, full or out of reach
/// nothing is dropped: it is said once, and tried again every second.
class Recorder : public QObject {
    Q_OBJECT
public:
    /// `window`: whose visits are written (lease.h); its leases are renewed as long as this lives.
    explicit Recorder(const QString& lab_file, const QString& window = {});
    ~Recorder() override; ///< tries once more to write what is left

    /// Before anything is handed over.
    void set_beside(Beside beside) { beside_ = std::move(beside); }
    void append(long visit_id, const bench::Event& event);
    /// May come from any thread.
    void append_signal(const SignalChunk& chunk);
    /// What was handed over and is not on the disk yet. Never waits.
    std::size_t unwritten() const;
    /// For how long the oldest of it has waited, in seconds of the machine; 0: nothing waits. Never waits itself.
    double lag_s() const;

signals: // from its thread
    /// `said`: by what was done beside it.
    void stored(long visit_id, const fusain::bench::Event& event, const fusain::Messages& said);
    /// The lab cannot be written to just now.
    void stalled(const fusain::Message& why);
    /// The lab will never take this event.
    void failed(long visit_id, const fusain::bench::Event& event, const fusain::Message& why);
    void signal_failed(const fusain::Message& why);

private:
    struct Job {
        long visit_id = 0;
        std::variant<bench::Event, SignalChunk> what;
        std::chrono::steady_clock::time_point since = std::chrono::steady_clock::now();
    };
    void hand_over(Job job);
    void work();                                   ///< in the thread
    [[nodiscard]] std::optional<Message> opened(); ///< nothing: the store is open
    [[nodiscard]] std::optional<Message> write(const Job& job, Messages& said);

    QString lab_file_, window_;
    Beside beside_;
    QThread thread_;
    mutable std::mutex jobs_mutex_;
    std::deque<Job> jobs_;                      ///< the first is being written, and goes when it is
    bench::Errands* desk_ = nullptr;            ///< lives in the thread
    QTimer *again_ = nullptr, *beat_ = nullptr; ///< live in the thread
    // of the thread only:
    std::shared_ptr<Store> store_;
    bool stalled_ = false;
};

} // namespace fusain::records

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QObject>
#include <QThread>

#include <atomic>
#include <functional>
#include <memory>

namespace fusain::work {

/// One thing that takes long, in a thread of its own: it tells how far it is, and can be stopped.
class LongWork : public QObject {
    Q_OBJECT
public:
    using Progress = std::function<bool(double)>; ///< called with 0 to 1; false: stop
    using QObject::QObject;
    ~LongWork() override
    {
        if (!thread_) return;
        stop();
        thread_->wait();
        delete thread_;
    }
    bool is_running() const { return thread_ != nullptr; }
    void stop() { *stopped_ = true; }
    /// `then` runs in the window's thread. Nothing happens while something runs.
    template <class Job, class Then>
    void run(Job job, Then then)
    {
        if (thread_) return;
        using Made = decltype(job(Progress{}));
        const auto made = std::make_shared<std::unique_ptr<Made>>();
        stopped_ = std::make_shared<std::atomic<bool>>(false);
        thread_ = QThread::create([this, made, job = std::move(job), stopped = stopped_] {
            *made = std::make_unique<Made>(job([this, stopped](double done) {
                emit progressed(done);
                return !*stopped;
            }));
        });
        connect(thread_, &QThread::finished, this, [this, made, then = std::move(then)] {
            thread_->deleteLater();
            thread_ = nullptr;
            then(std::move(**made));
        });
        thread_->start();
    }

signals:
    void progressed(double done);

private:
    QThread* thread_ = nullptr;
    std::shared_ptr<std::atomic<bool>> stopped_ = std::make_shared<std::atomic<bool>>(false);
};

} // namespace fusain::work

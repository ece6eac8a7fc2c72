// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/store.h"

#include <QObject>
#include <QThread>

namespace fusain::records {

/// Writes events and signals in a thread of its own, so that a slow disk never stops the window.
/// An event counts only once `stored` has said so.
class Recorder : public QObject {
    Q_OBJECT
public:
    explicit Recorder(const QString& lab_file);
    ~Recorder() override;

    void append(long visit_id, const bench::Event& event);
    void append_signal(long visit_id, const SignalChunk& chunk);

signals:
    void stored(long visit_id, const fusain::bench::Event& event);
    void failed(long visit_id, const fusain::bench::Event& event, const fusain::Message& why);
    void signal_failed(const fusain::Message& why);

private:
    Store* store(Message& why);
    QString lab_file_;
    QThread thread_;
    QObject* desk_ = nullptr; ///< lives in the thread; runs what is handed over
    std::shared_ptr<Store> store_;
};

} // namespace fusain::records

// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/recorder.h"

namespace fusain::records {

Recorder::Recorder(const QString& lab_file) : lab_file_(lab_file), desk_(new QObject)
{
    thread_.setObjectName(QStringLiteral("recorder"));
    desk_->moveToThread(&thread_);
    thread_.start();
}

Recorder::~Recorder()
{
    QMetaObject::invokeMethod(desk_, [this] { store_.reset(); }, Qt::BlockingQueuedConnection);
    thread_.quit();
    thread_.wait();
    delete desk_;
}

Store* Recorder::store(Message& why)
{
    if (!store_) {
        const auto opened = Store::open(lab_file_);
        if (opened) store_ = *opened;
        else why = opened.messages().front();
    }
    return store_.get();
}

void Recorder::append(long visit_id, const bench::Event& event)
{
    QMetaObject::invokeMethod(desk_, [this, visit_id, event] {
        Message no_store;
        Store* s = store(no_store);
        const std::optional<Message> why = s ? s->append(visit_id, event) : std::optional<Message>(no_store);
        if (why) emit failed(visit_id, event, *why);
        else emit stored(visit_id, event);
    });
}

void Recorder::append_signal(long visit_id, const SignalChunk& chunk)
{
    QMetaObject::invokeMethod(desk_, [this, visit_id, chunk] {
        Message no_store;
        Store* s = store(no_store);
        if (const std::optional<Message> why = s ? s->append_signal(visit_id, chunk) : std::optional<Message>(no_store)) emit signal_failed(*why);
    });
}

} // namespace fusain::records

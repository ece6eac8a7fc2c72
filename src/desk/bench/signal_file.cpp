// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/signal_file.h"

#include <QFileDialog>
#include <QWidget>

namespace fusain::desk {

SignalFile::SignalFile(QWidget* parent, const char* name, std::function<Reader()> reader)
    : QObject(parent), reader_(std::move(reader))
{
    setObjectName(QString::fromLatin1(name));
}

SignalFile::~SignalFile()
{
    if (!thread_) return;
    thread_->wait();
    delete thread_;
}

void SignalFile::choose()
{
    const QString path = QFileDialog::getOpenFileName(qobject_cast<QWidget*>(parent()), QStringLiteral("A recording"),
        QString(), QStringLiteral("Recordings (*.csv *.txt);;All files (*)"));
    if (!path.isEmpty()) read(path);
}

void SignalFile::read(const QString& path)
{
    if (thread_) return;
    const auto found = std::make_shared<Outcome<work::Recording>>(work::Recording{});
    thread_ = QThread::create([found, path, reader = reader_()] { *found = reader(path); });
    connect(thread_, &QThread::finished, this, [this, found] {
        thread_->deleteLater();
        thread_ = nullptr;
        emit done(found);
    });
    emit begun();
    thread_->start();
}

} // namespace fusain::desk

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

void SignalFile::choose()
{
    const QString path = QFileDialog::getOpenFileName(qobject_cast<QWidget*>(parent()), QStringLiteral("A recording"),
        QString(), QStringLiteral("Recordings (*.csv *.txt);;All files (*)"));
    if (!path.isEmpty()) read(path);
}

void SignalFile::read(const QString& path)
{
    if (reading_.is_running()) return;
    reading_.run([path, reader = reader_()](const work::LongWork::Progress&) { return reader(path); },
        [](const std::function<void()>& then) { then(); });
    emit begun();
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/session.h"

#include <QLocalSocket>
#include <QProcess>
#include <QWidget>

namespace fusain::desk {

/// Starts the virtual tank as a process of its own and tells its client what the technician says. Demo only: the program
/// that measures knows nothing of it but the serial line.
class DemoRoom : public QObject {
    Q_OBJECT
public:
    explicit DemoRoom(double speed, quint64 seed = 7, QObject* parent = nullptr);
    ~DemoRoom() override;
    /// Name of the serial line; empty when the stand-in could not be started.
    QString line() const { return line_; }
    QString trouble() const { return trouble_; }
    void listen_to(Session& session);
    void direct(const QString& words);

    /// A strip that says that this is a demo, and lets things go wrong on purpose.
    QWidget* make_strip();

private:
    QString folder_, line_, trouble_;
    QProcess process_;
    QLocalSocket control_;
    long for_client_ = 0;
};

} // namespace fusain::desk

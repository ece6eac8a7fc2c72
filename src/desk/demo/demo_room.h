// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/session.h"

#include <QLocalSocket>
#include <QProcess>
#include <QWidget>

#include <map>

namespace fusain::desk {

/// Starts the virtual instruments, each as a process of its own, and tells their client what the technician says. Demo
/// only: the program that measures knows nothing of them but their serial lines.
class DemoRoom : public QObject {
    Q_OBJECT
public:
    /// `foreign`: of an instrument, what is shown by indicators that speak otherwise, as fusain-virtual is told it;
    /// `%1` stands for the room's folder.
    using Foreign = std::map<QString, QStringList>;
    explicit DemoRoom(double speed, quint64 seed = 7, const Foreign& foreign = {}, QObject* parent = nullptr);
    ~DemoRoom() override;
    /// Names of the serial lines, tank room first; empty when a stand-in could not be started.
    const QStringList& lines() const { return lines_; }
    QString trouble() const { return trouble_; }
    const QString& folder() const { return folder_; }
    void listen_to(work::Session& session);
    void direct(const QString& words);
    /// What the tank answers to a direction comes as `answered`.
    void ask_tank(const QString& words);

    /// A strip that says that this is a demo, and lets things go wrong on purpose.
    QWidget* make_strip();

signals:
    void answered(const QString& words);

private:
    struct StandIn {
        QProcess process;
        QLocalSocket control;
    };
    /// `prefix`: of the line's name, as the program is told it.
    void start(
        const QString& instrument, double speed, quint64 seed, const QStringList& foreign, const QString& prefix = {});
    QString folder_, trouble_;
    QStringList lines_;
    std::vector<std::unique_ptr<StandIn>> stand_ins_;
    long for_client_ = 0;
};

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/stage/stand_ins.h"

#include <QLocalSocket>
#include <QProcess>

#include <map>

namespace fusain::desk {

/// Another program of these, with its path: beside this one, or where programs are; empty: nowhere.
QString program_beside(const QString& name);

/// Stand-ins as processes of their own, each on a real serial line (the table: a local socket).
class StandInProcesses : public StandIns {
    Q_OBJECT
public:
    /// `foreign`: of an instrument, what is shown by indicators that speak otherwise, as fusain-virtual is told it;
    /// `%1` stands for the room's folder.
    using Foreign = std::map<QString, QStringList>;
    explicit StandInProcesses(double speed, quint64 seed = 7, const Foreign& foreign = {}, QObject* parent = nullptr);
    ~StandInProcesses() override;
    const QString& folder() const { return folder_; }
    QString printouts() const { return folder_ + QStringLiteral("/printouts"); } ///< of the analyser in the hall
    void direct(const QString& words) override;
    void ask(const QString& instrument, const QString& words) override;

private:
    struct StandIn {
        QString instrument;
        QProcess process;
        QLocalSocket control;
    };
    void start_printer(double speed, quint64 seed);
    void run(const QString& program, const QString& instrument, const QString& control, const QStringList& words);
    /// `prefix`: of the line's name, as the program is told it.
    void start(
        const QString& instrument, double speed, quint64 seed, const QStringList& foreign, const QString& prefix = {});
    QString folder_;
    std::vector<std::unique_ptr<StandIn>> stand_ins_;
};

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <QSqlDatabase>
#include <QString>

#include <optional>

/// A visit belongs to the window that measures it. The lease stands in the lab file; a window that is gone loses it:
/// one on this machine when its process has ended, one on another machine when it has not been heard for half a minute.
namespace fusain::records {

/// A window as the lab file knows it. One a session of a program.
struct Window {
    QString id;      ///< random
    QString machine; ///< this boot of this machine
    qint64 pid = 0;
    QString born; ///< when the process began: a number given again is another process
    static Window make();
};

/// Takes the visit for a window, or says who has it (`held_elsewhere`). Taking what is one's own already is fine.
[[nodiscard]] std::optional<Message> take_lease(
    const QSqlDatabase& db, long visit_id, const Window& window, const QString& who);
/// The same inside a transaction that is open already.
[[nodiscard]] std::optional<Message> take_lease_within(
    const QSqlDatabase& db, long visit_id, const Window& window, const QString& who);
/// Who else has the visit just now (`held_elsewhere`); nothing: nobody, or this window.
[[nodiscard]] std::optional<Message> held_elsewhere(const QSqlDatabase& db, long visit_id, const QString& window_id);
void release_leases(const QSqlDatabase& db, const QString& window_id);
/// Still here; for windows on other machines.
void renew_leases(const QSqlDatabase& db, const QString& window_id);

} // namespace fusain::records

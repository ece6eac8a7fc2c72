// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/store/store.h"

#include <atomic>

/// What holds a person besides the lab's file: found in the lab's own folder, for whoever deletes them for good.
namespace fusain::records {

struct AlsoHeld {
    QStringList only_theirs; ///< folders that were handed out, with everything on this person and on nobody else
    QStringList whole_labs;  ///< copies of the whole lab, as before an upgrade
    QStringList tables;      ///< lists and letters that name them among others
    bool is_empty() const { return only_theirs.isEmpty() && whole_labs.isEmpty() && tables.isEmpty(); }
    /// What may be deleted with the person without taking anything of somebody else's that is not in the lab.
    QStringList deletable() const { return only_theirs + whole_labs; }
};

/// Looks through the lab's folder: names as this program gives them; in tables and letters (up to 4 MB) for the
/// client's number or whole name. What lies elsewhere nobody here knows of. Touches files only: for any thread; what
/// was found up to `stop` is returned.
AlsoHeld also_held(const QString& lab_file, const Client& client, const std::atomic<bool>& stop);

/// Deletes files and folders. Returned: those that are still there.
QStringList remove_all(const QStringList& paths);

} // namespace fusain::records

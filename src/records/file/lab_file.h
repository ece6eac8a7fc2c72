// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <QString>

#include <map>
#include <optional>

/// The lab as a file among others: whether it is one, and who may read it (docs/safety-of-records.md).
namespace fusain::records {

/// File systems of other computers, by the number that statfs(2) gives: two computers on one database there damage it.
bool is_network_drive(unsigned long kind);

/// Looks at a file without opening it as a database. Refusals: lab_on_network, lab_empty (no bytes), lab_foreign
/// (another program's database), lab_damaged (no database). Nothing: it is a lab, or there is none yet.
[[nodiscard]] std::optional<Message> look_at(const QString& file);

/// What a lab says of itself, without changing a byte of it or beside it.
struct Peek {
    int version = 0; ///< of its schema; 0: there is none, or it cannot be read
    std::map<QString, QString> settings;
    QString setting(const QString& key) const
    {
        const auto at = settings.find(key);
        return at == settings.end() ? QString() : at->second;
    }
};
Peek peek(const QString& file);

/// From here on every file and folder this program makes is for its user alone.
void keep_to_this_user();

/// Makes what stands there already private: the lab, its journal, copies, the folders beside it that the program makes
/// with everything in them, and the lab's own folder.
void make_private(const QString& lab_file);

} // namespace fusain::records

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QSqlDatabase>
#include <QString>

#include <string>
#include <vector>

namespace fusain::records {

/// Finds clients as somebody types. What can be searched of everybody stands in memory, in the order of names, and is
/// read again when the lab was written to, here or by another window: a key then costs a millisecond, where the index
/// of the file costs ten.
class ClientSearch {
public:
    /// Ids by name. Every word must begin a word of name, number, role or phone; case and accents do not matter.
    const std::vector<long>& find(const QSqlDatabase& db, const QString& words, bool archived);

private:
    struct Row {
        long id = 0;
        bool archived = false;
        std::size_t from = 0, length = 0; ///< in text_
    };
    bool read_if_changed(const QSqlDatabase& db);
    std::string text_; ///< of everybody, one after the other
    std::vector<Row> rows_;
    std::vector<long> found_;
    QString words_;
    bool archived_ = false;
    long long elsewhere_ = -1, here_ = -1; ///< what was written when it was read
};

} // namespace fusain::records

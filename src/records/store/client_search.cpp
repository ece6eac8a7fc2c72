// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/store/client_search.h"

#include "records/file/detail.h"
#include "records/store/store.h"

#include <QRegularExpression>

#include <algorithm>
#include <string_view>

namespace fusain::records {

bool ClientSearch::read_if_changed(const QSqlDatabase& db)
{
    const auto number = [&](const char* sql) {
        QSqlQuery q = detail::run(db, QString::fromLatin1(sql));
        return q.next() ? q.value(0).toLongLong() : -1;
    };
    const long long elsewhere = number("PRAGMA data_version"), here = number("SELECT total_changes()");
    if (elsewhere == elsewhere_ && here == here_) return false;
    text_.clear();
    rows_.clear();
    QSqlQuery q = detail::run(
        db, QStringLiteral(
                "SELECT id, archived, search FROM client ORDER BY archived, family_name COLLATE NOCASE, given_name"));
    while (q.next()) {
        const QByteArray words = q.value(2).toString().toUtf8();
        rows_.push_back({static_cast<long>(q.value(0).toLongLong()), q.value(1).toInt() != 0, text_.size(),
            static_cast<std::size_t>(words.size())});
        text_.append(words.constData(), static_cast<std::size_t>(words.size()));
    }
    elsewhere_ = elsewhere;
    here_ = here;
    return true;
}

const std::vector<long>& ClientSearch::find(const QSqlDatabase& db, const QString& words, bool archived)
{
    if (!read_if_changed(db) && words == words_ && archived == archived_) return found_;
    words_ = words;
    archived_ = archived;
    std::vector<std::string> parts;
    for (const QString& part :
        folded(words).replace('-', ' ').split(QRegularExpression(QStringLiteral("\\s+")), Qt::SkipEmptyParts))
        parts.push_back(' ' + part.toStdString());
    found_.clear();
    for (const Row& row : rows_) {
        const std::string_view text(text_.data() + row.from, row.length);
        if (row.archived == archived && std::all_of(parts.begin(), parts.end(),
                                            [&](const std::string& part) { return text.find(part) != text.npos; }))
            found_.push_back(row.id);
    }
    return found_;
}

} // namespace fusain::records

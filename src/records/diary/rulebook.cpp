// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/diary/rulebook.h"

#include "bench/files/protocol_file.h"
#include "records/file/detail.h"
#include "records/file/regular.h"

#include <QFile>
#include <QFileInfo>

#include <algorithm>

namespace fusain::records {

using detail::run, detail::say;

namespace {
constexpr qint64 largest_protocol = 4 << 20;
}

Rulebook::Rulebook(std::shared_ptr<Store> store, protocol::Book shipped, std::vector<house::Rule> table)
    : store_(std::move(store)), shipped_(std::move(shipped)), house_(std::move(table))
{
}

std::vector<RuleVersion> Rulebook::history(const QString& kind) const
{
    QSqlQuery q = run(store_->database(),
        QStringLiteral("SELECT version, at, who, body FROM rulebook WHERE kind = ? ORDER BY version DESC"), {kind});
    std::vector<RuleVersion> out;
    while (q.next())
        out.push_back({q.value(0).toInt(), q.value(1).toString(), q.value(2).toString(), q.value(3).toString()});
    return out;
}

protocol::Book Rulebook::book() const
{
    protocol::Book out = shipped_;
    for (protocol::Protocol& p : out.protocols) {
        const auto versions = history(QString::fromLatin1(p.method->word));
        if (versions.empty()) continue;
        if (auto own =
                bench::read_protocol(versions.front().body.toStdString(), "the lab's own protocol", out.questions))
            p = *own;
    }
    return out;
}

std::optional<protocol::Protocol> Rulebook::protocol(Method method, int version) const
{
    for (const RuleVersion& v : history(QString::fromLatin1(method->word)))
        if (v.version == version)
            if (auto p = bench::read_protocol(v.body.toStdString(), "the lab's own protocol", shipped_.questions))
                return *p;
    const protocol::Protocol* p = shipped_.protocol(method);
    return p && p->version == version ? std::optional(*p) : std::nullopt;
}

Outcome<protocol::Protocol> Rulebook::keep(protocol::Protocol p, const QString& who)
{
    using Result = Outcome<protocol::Protocol>;
    const QString kind = QString::fromLatin1(p.method->word);
    const auto versions = history(kind);
    const protocol::Protocol* shipped = shipped_.protocol(p.method);
    p.version = 1 + std::max(versions.empty() ? 0 : versions.front().version, shipped ? shipped->version : 0);
    if (const Messages bad = protocol::check(p, shipped_.questions); !bad.empty()) return Result::refuse(bad);
    // a lab may be stricter than what is shipped; it cannot do away with a stop
    if (shipped)
        for (const protocol::Rule& stop : shipped->rules)
            if (stop.safety && std::none_of(p.rules.begin(), p.rules.end(), [&](const protocol::Rule& r) {
                    return r.safety && r.question == stop.question && r.outside == stop.outside && r.when.empty();
                }))
                return Result::refuse({"stop_missing", Level::error, stop.id,
                    "The stop \"" + stop.id + "\" is missing. A lab may add stops; it cannot take one away."});
    QSqlQuery q = run(store_->database(),
        QStringLiteral("INSERT INTO rulebook (kind, version, at, who, body) VALUES (?, ?, ?, ?, ?)"),
        {kind, p.version, detail::now_utc(), who, QString::fromStdString(bench::write_protocol(p))});
    if (q.lastError().isValid()) return Result::refuse(say(q.lastError(), store_->database()));
    return p;
}

Outcome<protocol::Protocol> Rulebook::take_file(const QString& path, const QString& who)
{
    const auto bytes = read_regular(path, largest_protocol);
    if (!bytes) return Outcome<protocol::Protocol>::refuse(bytes.messages());
    auto p = bench::read_protocol(bytes->toStdString(), QFileInfo(path).fileName().toStdString(), shipped_.questions);
    return p ? keep(*p, who) : p;
}

protocol::HouseRules Rulebook::house() const
{
    protocol::HouseRules chosen;
    const auto versions = history(QStringLiteral("house"));
    if (!versions.empty()) { chosen = bench::texts_of(versions.front().body.toStdString()); }
    return house::with_defaults(house_, chosen);
}

int Rulebook::house_version() const
{
    const auto versions = history(QStringLiteral("house"));
    return versions.empty() ? 0 : versions.front().version;
}

std::optional<Message> Rulebook::choose(const std::string& rule, const std::string& option, const QString& who)
{
    const auto at = std::find_if(house_.begin(), house_.end(), [&](const house::Rule& r) { return r.id == rule; });
    if (at == house_.end() || !at->option(option))
        return Message{"unknown_choice", Level::error, rule, "\"" + option + "\" is not a choice of \"" + rule + "\"."};
    protocol::HouseRules now = house();
    if (now[rule] == option) return std::nullopt;
    now[rule] = option;
    QSqlQuery q = run(store_->database(),
        QStringLiteral("INSERT INTO rulebook (kind, version, at, who, body) VALUES ('house', ?, ?, ?, ?)"),
        {house_version() + 1, detail::now_utc(), who, QString::fromStdString(bench::table_of(now))});
    if (q.lastError().isValid()) return say(q.lastError(), store_->database());
    return std::nullopt;
}

} // namespace fusain::records

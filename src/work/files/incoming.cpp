// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/files/incoming.h"

#include "bench/paper/paper.h"
#include "records/base/clock.h"
#include "records/file/regular.h"
#include "records/visits/attached.h"
#include "work/files/layouts.h"

#include <QCryptographicHash>
#include <QDir>
#include <QFileInfo>

#include <algorithm>

namespace fusain::work {
namespace {

const QString setting = QStringLiteral("watched_folder");
constexpr int every_ms = 2000, days_back = 7;
constexpr int apart_min = 15; ///< clocks of instruments go by minutes wrong

using LayoutsInUse = std::map<std::string, std::set<std::string>>; ///< serial numbers by layout

QString clock_of(const QDateTime& at) { return at.toString(QStringLiteral("HH:mm")); }

/// "number 1089, 14 May 2026, 08:31"
QString paper_words(const CameIn& c, const QTimeZone& zone)
{
    const QDateTime at = c.moment(zone);
    const QString number = c.number.empty() ? QStringLiteral("no number on it")
                           : c.unsure ? QStringLiteral("number %1 (not sure)").arg(QString::fromStdString(c.number))
                                      : QStringLiteral("number %1").arg(QString::fromStdString(c.number));
    return QStringLiteral("%1, %2 %3, %4")
        .arg(number, c.at.empty() ? QStringLiteral("the file is of") : QStringLiteral("made"),
            records::date_words(at.date()), c.at.size() == 10 ? QStringLiteral("no hour on it") : clock_of(at));
}

/// By every layout that is in use; of those that fit, the ones that find most.
CameIn by_layouts(CameIn out, const QByteArray& bytes, const Layouts& all, const LayoutsInUse& in_use,
    const bench::paper::Progress& progress)
{
    const auto paper = bench::paper::open(bytes.toStdString(), out.name.toStdString());
    if (!paper) {
        out.trouble = QString::fromStdString(paper.messages().front().text);
        return out;
    }
    std::size_t most = 0;
    for (const printout::Layout& layout : all.usable) {
        const auto users = in_use.find(layout.id);
        if (users == in_use.end()) continue;
        const auto reading = bench::paper::read(**paper, layout, progress);
        if (!reading || reading->values.size() < most) continue;
        if (reading->values.size() > most) out.instruments.clear();
        most = reading->values.size();
        out.instruments.insert(users->second.begin(), users->second.end());
        const auto* number = reading->identity("number");
        const auto* at = reading->identity("at");
        out.number = number ? number->said : "";
        out.unsure = number && reading->is_doubtful("client.number");
        out.at = at ? at->said : "";
    }
    if (most == 0) out.trouble = QStringLiteral("None of the lab's layouts finds its numbers there.");
    return out;
}

} // namespace

QDateTime CameIn::moment(const QTimeZone& zone) const
{
    const QString said = QString::fromStdString(at);
    if (said.isEmpty()) return written;
    const QDate day = QDate::fromString(said.left(10), Qt::ISODate);
    const QTime time = said.size() > 10 ? QTime::fromString(said.mid(11, 5), QStringLiteral("HH:mm")) : QTime(0, 0);
    return QDateTime(day, time, zone);
}

Match match(const CameIn& paper, const bench::Visit& v, const QTimeZone& zone)
{
    QStringList wrong;
    if (!paper.number.empty() && paper.number != v.subject.number)
        wrong << QStringLiteral("here is number %1").arg(QString::fromStdString(v.subject.number));
    const QDateTime began = QDateTime::fromString(QString::fromStdString(v.started_at), Qt::ISODate).toTimeZone(zone);
    const QDateTime at = paper.moment(zone);
    const bool no_hour = paper.at.size() == 10;
    if (at.date() != began.date())
        wrong << QStringLiteral("this visit is of %1").arg(records::date_words(began.date()));
    else if (!no_hour && at < began.addSecs(-60 * apart_min))
        wrong << QStringLiteral("this visit began at %1").arg(clock_of(began));
    return {wrong.isEmpty() && !paper.number.empty(),
        paper_words(paper, zone) +
            (wrong.isEmpty() ? QString() : QStringLiteral("; ") + wrong.join(QStringLiteral("; ")))};
}

Claim claim(const Lab& lab, const CameIn& paper)
{
    Claim out;
    const QTimeZone zone = lab.diary->zone();
    const QDateTime at = paper.moment(zone);
    out.words = paper_words(paper, zone);
    const QString number = QString::fromStdString(paper.number);
    if (number.isEmpty()) return out;
    QString name;
    for (const records::Client& c : lab.store->find_clients(number))
        if (c.number == number || c.other_numbers.split(' ').contains(number)) {
            out.client = c.id;
            name = c.full_name();
        }
    if (!out.client) {
        out.words += QStringLiteral("; nobody here has that number");
        return out;
    }
    QStringList said = {name};
    for (const records::VisitRow& v : lab.store->visits_of(out.client)) { // newest first
        const QDateTime began = QDateTime::fromString(v.started_at, Qt::ISODate).toTimeZone(zone);
        const bool late_enough = paper.at.size() == 10 || began <= at.addSecs(60 * apart_min);
        if (began.date() != at.date() || !late_enough) continue;
        const auto replayed = lab.store->replay(v.id);
        if (!replayed || !paper.instruments.count(replayed->instrument)) continue;
        out.visit = v.id;
        out.is_open = !v.finished;
        said << QStringLiteral("visit of %1, %2")
                    .arg(clock_of(began), v.finished ? QStringLiteral("finished") : QStringLiteral("still open"));
        break;
    }
    if (!out.visit && at.date() == lab.today())
        for (const records::Booking& b : lab.diary->day(lab.today()))
            if (b.client_id == out.client && !records::is_over(b.state)) {
                out.booking = b.id;
                said << QStringLiteral("booked at %1").arg(clock_of(records::local_of(b.from(), zone)));
                break;
            }
    if (!out.visit && !out.booking) said << QStringLiteral("no visit of that hour");
    out.words += QStringLiteral(" → ") + said.join(QStringLiteral(", "));
    return out;
}

Incoming::Incoming(Lab& lab, bench::Clock& clock, QObject* parent)
    : QObject(parent), lab_(lab), folder_(lab.store->setting(setting)), beat_(clock, this)
{
    connect(&beat_, &bench::Beat::due, this, &Incoming::look);
    if (!folder_.isEmpty()) beat_.start(every_ms);
}

std::optional<Message> Incoming::watch(const QString& folder)
{
    const QString path = folder.isEmpty() ? QString() : QDir(folder).absolutePath();
    const QFileInfo info(path);
    if (!path.isEmpty() && !(info.isDir() && info.isReadable()))
        return Message{"folder_unreachable", Level::error, "watched_folder",
            path.toStdString() + " is no folder that can be read."};
    if (!path.isEmpty() && (path + '/').startsWith(QDir(lab_.folder()).absolutePath() + '/'))
        return Message{"folder_of_the_lab", Level::error, "watched_folder",
            path.toStdString() + " lies in the lab's own folder. Allowed is any folder beside it."};
    if (const auto why = lab_.store->set_setting(setting, path)) return why;
    folder_ = path;
    trouble_.clear();
    first_look_ = true;
    known_.clear();
    due_.clear();
    waiting_.clear();
    if (folder_.isEmpty())
        beat_.stop();
    else
        beat_.start(every_ms);
    emit changed();
    return std::nullopt;
}

void Incoming::look()
{
    settle();
    if (work_.is_running()) return;
    work_.run(
        [folder = folder_](const LongWork::Progress&) {
            std::optional<std::vector<Found>> out;
            const QDir dir(folder);
            if (!dir.isReadable()) return std::pair(folder, out);
            out.emplace();
            static const QStringList names = {QStringLiteral("*.pdf"), QStringLiteral("*.png"), QStringLiteral("*.jpg"),
                QStringLiteral("*.jpeg"), QStringLiteral("*.tif"), QStringLiteral("*.tiff")};
            for (const QFileInfo& f : dir.entryInfoList(names, QDir::Files, QDir::Time | QDir::Reversed))
                out->push_back({f.absoluteFilePath(), f.size(), f.lastModified().toUTC()});
            return std::pair(folder, out);
        },
        [this](const auto& seen) {
            if (seen.first == folder_) compare(seen.second);
        });
}

void Incoming::compare(const std::optional<std::vector<Found>>& all)
{
    const QString was = std::exchange(trouble_,
        all                   ? QString()
        : !trouble_.isEmpty() ? trouble_
                              : QStringLiteral("%1 cannot be read since %2.").arg(folder_, clock_of(lab_.now())));
    bool different = was != trouble_;
    if (all) {
        std::map<QString, Known> now;
        const QDateTime since = lab_.now().addDays(-days_back);
        for (const Found& f : *all) {
            const auto before = known_.find(f.path);
            Known k{f.bytes, f.written, first_look_ && f.written < since};
            if (before != known_.end()) {
                const bool same = before->second.bytes == f.bytes && before->second.written == f.written;
                k.looked_at = same && before->second.looked_at;
                if (same && !k.looked_at && std::find(due_.begin(), due_.end(), f.path) == due_.end())
                    due_.push_back(f.path);
            }
            now[f.path] = k;
        }
        known_ = std::move(now);
        first_look_ = false;
        const auto gone = [&](const CameIn& c) { return !known_.count(c.path) || !known_.at(c.path).looked_at; };
        different = std::erase_if(waiting_, gone) > 0 || different;
    }
    if (different) emit changed();
    next();
}

void Incoming::next()
{
    while (!due_.empty() && !work_.is_running()) {
        const QString path = due_.front();
        due_.erase(due_.begin());
        const auto known = known_.find(path);
        if (known == known_.end()) continue; // gone meanwhile
        known->second.looked_at = true;
        read(path);
    }
}

/// Bytes and digest first: what is settled is not read once more.
void Incoming::read(const QString& path)
{
    struct Bytes {
        QByteArray bytes;
        CameIn file;
    };
    const auto add = [this, folder = folder_](CameIn file) {
        const bool twice = std::any_of(waiting_.begin(), waiting_.end(),
            [&](const CameIn& c) { return !c.sha256.empty() && c.sha256 == file.sha256; });
        if (folder == folder_ && !twice && known_.count(file.path)) {
            waiting_.insert(waiting_.begin(), std::move(file));
            emit changed();
        }
        next();
    };
    work_.run(
        [path, written = known_.at(path).written.toTimeZone(lab_.diary->zone())](const LongWork::Progress&) {
            Bytes out;
            out.file.path = path;
            out.file.name = records::plain_name(path);
            out.file.written = written;
            if (auto bytes = records::read_regular(path, static_cast<qint64>(bench::paper::most_bytes)); !bytes)
                out.file.trouble = QString::fromStdString(bytes.messages().front().text);
            else
                out.bytes = std::move(bytes).take();
            if (out.file.trouble.isEmpty())
                out.file.sha256 = QCryptographicHash::hash(out.bytes, QCryptographicHash::Sha256).toHex().toStdString();
            return out;
        },
        [this, add](Bytes got) {
            if (!got.file.trouble.isEmpty()) return add(std::move(got.file));
            if (records::attached::is_settled(lab_.store->database(), QString::fromStdString(got.file.sha256)))
                return next();
            LayoutsInUse in_use;
            for (const records::Instrument& i : lab_.diary->instruments())
                if (i.in_use && !i.layout.isEmpty()) in_use[i.layout.toStdString()].insert(i.serial.toStdString());
            work_.run(
                [got = std::move(got), in_use, folder = lab_.folder()](const LongWork::Progress& progress) {
                    return by_layouts(got.file, got.bytes, layouts(folder), in_use, progress);
                },
                add);
        });
}

std::vector<CameIn> Incoming::of_instrument(const std::string& serial) const
{
    std::vector<CameIn> out;
    std::copy_if(waiting_.begin(), waiting_.end(), std::back_inserter(out),
        [&](const CameIn& c) { return c.instruments.count(serial) > 0; });
    return out;
}

std::optional<Message> Incoming::set_aside(const std::string& sha256, const QString& who)
{
    if (const auto why = records::attached::set_aside(lab_.store->database(), QString::fromStdString(sha256), who))
        return why;
    settle();
    return std::nullopt;
}

void Incoming::read_again()
{
    for (const CameIn& c : waiting_)
        if (const auto known = known_.find(c.path); known != known_.end()) known->second.looked_at = false;
}

void Incoming::settle()
{
    const auto taken = [this](const CameIn& c) {
        return records::attached::is_settled(lab_.store->database(), QString::fromStdString(c.sha256));
    };
    if (std::erase_if(waiting_, taken) > 0) emit changed();
}

} // namespace fusain::work

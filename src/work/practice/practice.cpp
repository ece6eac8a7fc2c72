// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/practice/practice.h"

#include "records/base/clock.h"
#include "work/practice/drill_events.h"
#include "records/diary/group_log.h"
#include "records/file/regular.h"
#include "records/base/text.h"
#include "work/lab/csv.h"
#include "work/lab/lab.h"

#include <QDir>
#include <QFileInfo>
#include <QSaveFile>

#include <algorithm>
#include <set>

namespace fusain::work {
namespace {

constexpr double practice_rated_kg = 200; ///< of the stand-in

Message say(const char* code, const char* field, const QString& text)
{
    return {code, Level::error, field, text.toStdString()};
}

template <class E>
Outcome<records::GroupEvent> entered(records::Store& store, long run, const QString& who, E event)
{
    event.local = clock_now().toLocalTime().toString(Qt::ISODate).toStdString();
    return records::keep(
        store, records::drill_log(), {0, run, {}, who, QString::fromLatin1(E::kind), bench::written(event)});
}

template <class E>
std::optional<Message> kept(records::Store& store, long run, const QString& who, E event)
{
    const auto done = entered(store, run, who, std::move(event));
    return done ? std::nullopt : std::optional(done.messages().front());
}

const char* word(practice::Called how)
{
    constexpr const char* words[] = {"right", "missed", "wrongly", "mistaken"};
    return words[static_cast<int>(how)];
}

in_drill::Waivers waivers(const Lab& lab)
{
    return bench::said<in_drill::Waivers>(lab.store->setting(QStringLiteral("practice_let")).toStdString());
}

constexpr const char* practice_setting = "practice";
constexpr qint64 largest_drill = 4 << 20;

} // namespace

practice::NumberMark DrillRun::numbers() const
{
    std::vector<practice::Reading> all;
    for (const DrillAnswer& a : answers) all.insert(all.end(), a.numbers.begin(), a.numbers.end());
    return practice::mark(all);
}

practice::CallMark DrillRun::calls() const
{
    std::vector<practice::Call> all;
    for (const DrillAnswer& a : answers) all.insert(all.end(), a.calls.begin(), a.calls.end());
    return practice::mark(all);
}

double DrillRun::measure() const { return pass.rms ? numbers().rms : 1 - calls().share(); }

std::vector<DrillRun> drill_runs(const records::Store& store)
{
    std::vector<DrillRun> out;
    for (const records::GroupEvent& e : records::events_of(store, records::drill_log())) {
        auto at = std::find_if(out.begin(), out.end(), [&](const DrillRun& r) { return r.id == e.group; });
        if (e.kind == QLatin1String(in_drill::Begun::kind)) {
            const auto begun = bench::read<in_drill::Begun>(e.body);
            if (!begun) continue;
            const auto method = method_of(begun->method);
            const auto tasks = bench::task_rows();
            const std::string& task = begun->task;
            const auto by = std::find_if(tasks.begin(), tasks.end(), [&](const auto& t) { return task == t.word; });
            if (!method || by == tasks.end()) continue;
            DrillRun r;
            r.id = e.group;
            r.drill = q(begun->drill);
            r.title = q(begun->title);
            r.who = e.who;
            r.at = QDateTime::fromString(q(begun->local), Qt::ISODate);
            r.method = *method;
            r.task = by->task;
            r.level = begun->level;
            r.items = begun->items;
            r.pass = begun->pass;
            out.push_back(std::move(r));
        } else if (at == out.end()) {
            continue;
        } else if (e.kind == QLatin1String(in_drill::Answer::kind)) {
            if (const auto answer = bench::read<in_drill::Answer>(e.body)) at->answers.push_back(*answer);
        } else if (e.kind == QLatin1String(in_drill::Marked::kind)) {
            at->over = true;
        } else if (e.kind == QLatin1String(in_drill::GivenUp::kind)) {
            at->over = at->given_up = true;
        }
    }
    return out;
}

Outcome<long> begin_drill(records::Store& store, const bench::Drill& d, const QString& who)
{
    const auto done = entered(store, 0, who,
        in_drill::Begun{{}, d.id, d.title, d.method->word, bench::row(d.task).word, d.level,
            static_cast<int>(d.items.size()), d.pass});
    if (!done) return Outcome<long>::refuse(done.messages());
    return done->group;
}

std::optional<Message> keep_answer(records::Store& store, long run, const DrillAnswer& answer, const QString& who)
{
    return kept(store, run, who, in_drill::Answer{{}, answer});
}

std::optional<Message> end_drill(records::Store& store, long run, const QString& who)
{
    for (const DrillRun& r : drill_runs(store))
        if (r.id == run)
            return kept(store, run, who,
                in_drill::Marked{{}, r.numbers().rms, r.numbers().bias, r.numbers().spread, r.calls().right,
                    r.calls().missed, r.calls().wrongly, practice::passed(r.pass, r.numbers(), r.calls())});
    return say("unknown_choice", "run", QStringLiteral("There is no such run."));
}

std::optional<Message> give_up_drill(records::Store& store, long run, const QString& who)
{
    return kept(store, run, who, in_drill::GivenUp{});
}

std::vector<bench::Drill> drills_of(const QString& folder, Messages& bad)
{
    std::vector<bench::Drill> out = bench::shipped_drills();
    const QDir own(folder + QStringLiteral("/drills"));
    for (const QString& name : own.entryList({QStringLiteral("*.json")}, QDir::Files | QDir::System, QDir::Name)) {
        const auto bytes = records::read_regular(own.filePath(name), largest_drill);
        if (!bytes) {
            bad.push_back(bytes.messages().front());
            continue;
        }
        auto drill = bench::read_drill(bytes->toStdString(), name.toStdString());
        if (!drill) {
            bad.push_back(drill.messages().front());
            continue;
        }
        if (std::any_of(out.begin(), out.end(), [&](const bench::Drill& d) { return d.id == drill->id; })) {
            bad.push_back(say("bad_drill", "id",
                QStringLiteral("%1: there is a drill \"%2\" already; give it another id.").arg(name, q(drill->id))));
            continue;
        }
        out.push_back(*drill);
    }
    std::stable_sort(out.begin(), out.end(), [](const bench::Drill& a, const bench::Drill& b) {
        return std::tuple(a.method, a.task, a.level) < std::tuple(b.method, b.task, b.level);
    });
    return out;
}

QByteArray drills_csv(const std::vector<DrillRun>& runs)
{
    QStringList rows{QStringLiteral(
        "technician,at,run,drill,method,task,level,item,given,truth,error,reader,called,seconds,cost,passed")};
    const auto number = [](double v) { return QString::number(v, 'g', 12); };
    for (const DrillRun& r : runs) {
        const QStringList head{csv_cell(r.who), r.at.toString(Qt::ISODate), QString::number(r.id), csv_cell(r.drill),
            QString::fromLatin1(r.method->word), QString::fromLatin1(bench::row(r.task).word),
            QString::number(r.level)};
        const QString passed = !r.over      ? QStringLiteral("not finished")
                               : r.given_up ? QStringLiteral("given up")
                               : r.passed() ? QStringLiteral("yes")
                                            : QStringLiteral("no");
        for (const DrillAnswer& a : r.answers) {
            for (const practice::Reading& n : a.numbers)
                rows << (head + QStringList{QString::number(a.item + 1), number(n.given), number(n.truth),
                                    number(n.given - n.truth), n.reader ? number(*n.reader) : QString(), QString(),
                                    QString::number(a.seconds, 'f', 1), csv_cell(a.cost), passed})
                            .join(',');
            for (const practice::Call& c : a.calls)
                rows << (head + QStringList{QString::number(a.item + 1), csv_cell(q(c.given)), csv_cell(q(c.truth)),
                                    QString(), QString(), QString::fromLatin1(word(practice::called(c))),
                                    QString::number(a.seconds, 'f', 1), csv_cell(a.cost), passed})
                            .join(',');
        }
    }
    return (rows.join('\n') + '\n').toUtf8();
}

Outcome<QString> save_drills(const records::Store& store)
{
    const QString path = QFileInfo(store.file()).absolutePath() + QStringLiteral("/drills.csv");
    QSaveFile file(path);
    const QByteArray bytes = drills_csv(drill_runs(store));
    if (!file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size() || !file.commit())
        return Outcome<QString>::refuse(say(
            "file_unreachable", "folder", QStringLiteral("%1 cannot be written: %2.").arg(path, file.errorString())));
    return path;
}

QString practice_folder(const QString& lab_folder) { return lab_folder + QStringLiteral("/practice"); }

bool is_practice(const records::Store& store)
{
    return !store.setting(QString::fromLatin1(practice_setting)).isEmpty();
}

bool is_practice(const records::Peek& lab) { return !lab.setting(QString::fromLatin1(practice_setting)).isEmpty(); }

Outcome<std::shared_ptr<records::Store>> open_practice(const QString& folder, const QStringList& people)
{
    using Opened = Outcome<std::shared_ptr<records::Store>>;
    const QString file = folder + QStringLiteral("/lab.fusain");
    const bool was_there = QFile::exists(file);
    if (was_there && !is_practice(records::peek(file)))
        return Opened::refuse(say("no_practice_folder", "practice",
            QStringLiteral("%1 is somebody's lab; a practice folder is another one. Nothing was changed in it.")
                .arg(folder)));
    auto opened = records::Store::open(file);
    if (!opened) return opened;
    records::Store& store = **opened;
    Lab lab(*opened);
    if (!was_there) {
        if (const auto why = store.set_setting(QString::fromLatin1(practice_setting), QStringLiteral("yes")))
            return Opened::refuse(*why);
        const QString name = QStringLiteral("PRACTICE · nobody was measured");
        if (const auto why = store.set_setting(QStringLiteral("lab_name"), name)) return Opened::refuse(*why);
        for (const bench::InstrumentKind* kind : bench::instrument_kinds()) {
            records::Instrument i;
            i.kind = kind;
            i.name = QStringLiteral("Practice: %1").arg(QString::fromUtf8(kind->title));
            i.serial = QStringLiteral("PRACTICE-%1").arg(QString::fromLatin1(kind->id));
            if (kind->profile) i.profile = QString::fromLatin1(kind->profile->of_stand_in);
            i.reference = kind->reference;
            i.duration_min = kind->duration_min;
            if (kind->method && (*kind->method)->rated) i.rated_mass_kg = practice_rated_kg;
            if (const auto kept_one = lab.diary->save(i); !kept_one) return Opened::refuse(kept_one.messages());
        }
    }
    for (const QString& name : people) {
        const auto staff = lab.diary->staff();
        if (std::none_of(staff.begin(), staff.end(), [&](const auto& m) { return m.name == name; }))
            static_cast<void>(lab.diary->save(records::StaffMember{0, name, true, {}, true}));
    }
    return opened;
}

QStringList not_passed(const QString& lab_folder, const QString& who, Method method, int level)
{
    const QString folder = practice_folder(lab_folder), file = folder + QStringLiteral("/lab.fusain");
    Messages bad;
    std::set<QString> passed;
    if (is_practice(records::peek(file)))
        if (const auto store = records::Store::open(file))
            for (const DrillRun& r : drill_runs(**store))
                if (r.who == who && r.passed()) passed.insert(r.drill);
    QStringList out;
    for (const bench::Drill& d : drills_of(folder, bad))
        if (d.method == method && d.level <= level && !passed.count(q(d.id))) out << q(d.title);
    return out;
}

std::optional<Message> practice_missing(const Lab& lab, const QString& who, Method method)
{
    const auto house = lab.rules.house();
    const auto rule = house.find("practice_level");
    const int level = rule == house.end() ? 0 : q(rule->second).toInt();
    if (level < 1 || !let_by(lab, who).isEmpty()) return std::nullopt;
    const QStringList left = not_passed(lab.folder(), who, method, level);
    if (left.isEmpty()) return std::nullopt;
    return say("not_practised", "technician",
        QStringLiteral(
            "This lab asks for level %1 at the practice bench before somebody measures clients by %2. %3 has "
            "not passed: %4. Practise (F8), or somebody who answers for it lets them: Instruments, hours and "
            "people.")
            .arg(level)
            .arg(QString::fromLatin1(method->title), who, left.join(QStringLiteral(", "))));
}

std::optional<Message> let_measure(Lab& lab, const QString& who, const QString& by, const QString& reason)
{
    if (by.simplified() == who.simplified())
        return say("own_word", "technician",
            QStringLiteral("Nobody answers for themselves: somebody else puts their name at the top right first."));
    if (by.simplified().isEmpty() || reason.simplified().size() < 3)
        return say("missing_field", "reason", QStringLiteral("Say why they may measure all the same."));
    in_drill::Waivers all = waivers(lab);
    all.of[who.toStdString()] = {
        by.toStdString(), lab.today().toString(Qt::ISODate).toStdString(), reason.simplified().toStdString()};
    return lab.store->set_setting(QStringLiteral("practice_let"), q(bench::written(all)));
}

QString let_by(const Lab& lab, const QString& who)
{
    const in_drill::Waivers all = waivers(lab);
    const auto at = all.of.find(who.toStdString());
    if (at == all.of.end()) return {};
    const in_drill::Waiver& w = at->second;
    return QStringLiteral("let by %1 on %2: %3")
        .arg(q(w.by), records::date_words(QDate::fromString(q(w.on), Qt::ISODate)), q(w.reason));
}

} // namespace fusain::work

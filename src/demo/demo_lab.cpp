// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/demo_lab.h"

#include "demo/past.h"

#include "report/page/look.h"
#include "bench/files/layout_file.h"
#include "work/lab/lab.h"
#include "work/files/layouts.h"
#include "virtual/references.h"

#include "bench/base/json.h"

#include <QDateTime>
#include <QFile>

#include <cmath>

namespace fusain::desk {
namespace {

nlohmann::json crew()
{
    look::reach_shipped_files();
    QFile file(QStringLiteral(":/data/crew.json"));
    if (!file.open(QIODevice::ReadOnly)) throw std::runtime_error("the program was built without demo/crew.json");
    return nlohmann::json::parse(file.readAll().toStdString());
}

constexpr int long_lead_min = 120; ///< what takes longer is begun before dawn

/// Weeks of checks as the stand-ins would have read them, one of them with a drift, one with a step.
std::optional<Message> past_checks(
    work::Lab& lab, const records::Instrument& i, const nlohmann::json& row, std::uint64_t seed, const QString& who)
{
    std::mt19937_64 random(seed);
    const int n = row.at("checks"), drift_from = row.value("drift_from", n), step_from = row.value("step_from", n);
    const bool today_too = !row.value("not_today", false);
    for (int k = 0; k < n; ++k) {
        const int days_ago = n - 1 - k + (today_too ? 0 : 1);
        QDateTime at(lab.today().addDays(-days_ago),
            schedule::minutes(i.kind->first_lead) > long_lead_min ? QTime(4, 35) : QTime(6, 40), lab.diary->zone());
        if (at > lab.now()) at = lab.now().addSecs(-5 * 3600); // the demo may begin before dawn
        const auto iso = [&] { return at.toUTC().toString(Qt::ISODateWithMs); };
        const auto id = lab.checks.begin(i, who, iso());
        if (!id) return id.messages().front();
        auto begun = lab.checks.replay(*id);
        if (!begun) return begun.messages().front();
        bench::CheckRun run = std::move(begun).take();
        const bool second = k % 2 == 1; // two of the staff, in turn
        while (!run.all_done()) {
            const auto& step = run.steps()[static_cast<std::size_t>(run.next())];
            at = at.addSecs(step.minutes ? 60 * step.minutes : 20);
            bench::checking::Done done{step.id};
            bench::checking::Reading reading{step.id};
            const auto reads = [&](double value) { reading.value = value; };
            if (step.kind == bench::CheckStep::Kind::person) {
                done.person = second ? "H. Lagadec" : who.toStdString();
            } else if (step.by_hand) {
                const auto about = [&](double value, double sd) {
                    return std::round(10 * (value + std::normal_distribution<>(0, sd)(random))) / 10;
                };
                const std::string_view what = step.id;
                if (what != "resistance") // it shows none
                    reads(what == "percent" ? about(second ? 17.8 : 24.3, 0.3) : about(second ? 78.2 : 66.5, 0.35));
            } else if (step.kind == bench::CheckStep::Kind::read) {
                // today's readings of an instrument that has drifted must still pass, or nobody could be tested in the
                // demo
                const auto& ref = virt::reference(step.channel);
                reads(virt::read_reference(ref, 0.55 * std::max(0, k - drift_from), true, false, random) +
                      (k >= step_from ? 0.16 * ref.step : 0));
                if (i.reference_x > 0) reading.x = ref.x + std::normal_distribution<>(0, 0.15)(random);
            } else if (step.kind == bench::CheckStep::Kind::water) {
                reads(34.6 + 0.02 * static_cast<double>(random() % 10));
            } else if (step.kind == bench::CheckStep::Kind::zero) {
                reads(7.540 + 0.001 * static_cast<double>(random() % 8));
            }
            const bench::Event e = bench::logged({run.last_seq + 1, iso().toStdString(), who.toStdString()},
                reading.value ? bench::Act(reading) : bench::Act(done));
            if (auto why = lab.checks.append(*id, e)) return why;
            if (auto why = run.apply(e)) return why;
        }
    }
    return std::nullopt;
}

std::optional<Message> keep_layout(const work::Lab& lab, const QString& id)
{
    const std::string name = id.toStdString() + ".json";
    QFile file(QStringLiteral(":/data/") + QString::fromStdString(name));
    if (!file.open(QIODevice::ReadOnly)) throw std::runtime_error("the program was built without demo/" + name);
    const auto layout = bench::read_layout(file.readAll().toStdString(), name);
    return layout ? work::keep(lab, *layout) : std::optional(layout.messages().front());
}

std::optional<Message> book_day(work::Lab& lab, const nlohmann::json& rows, const QDate& day, const QString& who)
{
    for (const auto& row : rows) {
        const QString family = QString::fromStdString(row.at("who"));
        records::Booking b;
        for (const records::Client& c : lab.store->find_clients(family.section(' ', 0, 0), 20))
            if (c.family_name == family) b.client_id = c.id;
        b.made_by = who;
        for (const auto& part : row.at("parts")) {
            const auto method = method_of(part.at(0).get<std::string>());
            for (const records::Instrument& i : lab.diary->instruments()) {
                if (i.name != QString::fromStdString(part.at(1))) continue;
                const auto from = records::minute_at(day,
                    QTime::fromString(QString::fromStdString(part.at(2)), QStringLiteral("HH:mm")), lab.diary->zone());
                b.parts.push_back({0, b.client_id, *method, i.serial.toStdString(), {from, from + i.duration_min}});
            }
        }
        const auto stored = lab.diary->book(b, true); // the demo has a clash on purpose
        if (!stored) return stored.messages().front();
        if (row.value("state", "") == std::string("done")) {
            std::vector<Method> all;
            for (const schedule::Slot& s : stored->parts) all.push_back(s.method);
            if (const auto closed = lab.diary->close(stored->id, all); !closed) return closed.messages().front();
        }
    }
    return std::nullopt;
}

} // namespace

void set_demo_clock(const QString& hh_mm, double speed)
{
    // Where the client is so much faster than life, the day is too: a test of eight minutes takes eight of the clock.
    const QDateTime from = QDateTime::currentDateTimeUtc();
    const auto hurried = [from, speed] {
        return from.addMSecs(std::llround(speed * static_cast<double>(from.msecsTo(QDateTime::currentDateTimeUtc()))));
    };
    if (speed != 1) work::set_machine_clock(hurried, [hurried, from] { return from.msecsTo(hurried()); });
    const QTimeZone zone("Europe/Paris");
    const QTime at = QTime::fromString(hh_mm, QStringLiteral("HH:mm"));
    if (at.isValid()) work::set_clock(QDateTime(QDateTime::currentDateTime().toTimeZone(zone).date(), at, zone));
}

std::optional<Message> fill_demo_day(const std::shared_ptr<records::Store>& store)
{
    work::Lab lab(store);
    const nlohmann::json demo = crew();
    const QString who = QString::fromStdString(demo.at("technician"));
    if (lab.diary->instruments().empty()) {
        if (auto why = store->set_setting(QStringLiteral("zone"), QStringLiteral("Europe/Paris"))) return why;
        QStringList week;
        for (int d = 0; d < 7; ++d) week << QStringLiteral("07:00-17:00");
        if (auto why = lab.diary->set_hours(week)) return why;
        for (const auto& row : demo.at("staff")) {
            records::StaffMember p{0, QString::fromStdString(row.at("name")), row.value("licence", false), {}, true};
            if (row.contains("hours"))
                for (int d = 0; d < 7; ++d) p.week << QString::fromStdString(row.at("hours"));
            if (const auto kept = lab.diary->save(p); !kept) return kept.messages().front();
        }
        std::uint64_t seed = 900;
        for (const auto& row : demo.at("instruments")) {
            records::Instrument i;
            i.kind = bench::instrument_kind(row.at("kind"));
            i.name = QString::fromStdString(row.at("name"));
            i.serial = QString::fromStdString(row.at("serial"));
            i.location = QString::fromStdString(row.value("location", ""));
            i.profile = QString::fromStdString(row.value("profile", ""));
            i.calibration_due = QString::fromStdString(row.value("due", ""));
            i.way = QString::fromStdString(row.value("way", ""));
            i.layout = QString::fromStdString(row.value("layout", ""));
            i.check_by = QString::fromStdString(row.value("check_by", ""));
            if (!i.layout.isEmpty())
                if (auto why = keep_layout(lab, i.layout)) return why;
            i.reference = row.value("reference", i.kind->reference);
            i.reference_x = row.value("reference_x", 0.0);
            i.duration_min = i.kind->duration_min;
            if (row.contains("rated_mass_kg")) i.rated_mass_kg = row.at("rated_mass_kg").get<double>();
            const auto stored = lab.diary->save(i);
            if (!stored) return stored.messages().front();
            if (auto why = past_checks(lab, *stored, row, ++seed, who)) return why;
        }
    }
    // a demo that is opened on another day has that day full as well
    if (!lab.diary->day(lab.today()).empty()) return std::nullopt;
    if (auto why = book_day(lab, demo.at("day"), lab.today(), who)) return why;
    return lab.diary->day(lab.today().addDays(1)).empty()
               ? book_day(lab, demo.at("next_day"), lab.today().addDays(1), who)
               : std::nullopt;
}

std::optional<Message> fill_demo_lab(records::Store& store)
{
    if (!store.find_clients({}, 1).empty()) return std::nullopt;
    const nlohmann::json demo = crew();
    for (const auto& [key, of] : {std::pair("lab_name", "lab"), {"technician", "technician"}})
        if (auto why = store.set_setting(QString::fromLatin1(key), QString::fromStdString(demo.at(of)))) return why;
    std::uint64_t seed = 40;
    for (const auto& person : demo.at("people")) {
        virt::Body body = virt::parse_body(person.at("body"));
        records::Client c;
        c.given_name = QString::fromStdString(person.at("given"));
        c.family_name = QString::fromStdString(person.at("family"));
        c.birth_date = QString::fromStdString(person.at("born"));
        c.role = QString::fromStdString(person.at("role"));
        c.phone = QString::fromStdString(person.at("phone"));
        c.sex = body.sex;
        c.height_cm = body.height_cm;
        const auto text = [&](const char* key) { return QString::fromStdString(person.value(key, "")); };
        c.email = text("email");
        c.consent_on = text("consent");
        c.conditions = text("conditions");
        c.medicines = text("medicines");
        c.sport = text("sport");
        c.goal = text("goal");
        c.guardian = text("guardian");
        c.guardian_consent_on = text("guardian_consent");
        for (const std::string& fact : person.value("facts", std::vector<std::string>{}))
            c.facts << QString::fromStdString(fact);
        const auto stored = store.save(c);
        if (!stored) return stored.messages().front();
        for (const auto& past : person.at("past")) {
            body.fat_mass_kg = past.at("fat");
            body.fat_free_mass_kg = past.at("ffm");
            const QString day = QString::fromStdString(past.at("day"));
            const std::string who = demo.at("technician");
            ++seed;
            for (const auto& [method, was] : {std::pair{Method(method::impedance), past.value("impedance", false)},
                     std::pair{Method(method::absorptiometry), past.value("xray", false)},
                     std::pair{Method(method::hydrostatic), past.value("tank", true)}})
                if (was)
                    if (auto why = play_past(store, *stored, body, {method, day, who, seed})) return why;
        }
        if (person.contains("story"))
            if (auto why = tell_story(store, *stored, virt::parse_body(person.at("body")), person.at("story"), seed))
                return why;
    }
    return std::nullopt;
}

QString demo_body(const records::Client& client)
{
    const nlohmann::json demo = crew();
    for (const auto& person : demo.at("people"))
        if (QString::fromStdString(person.at("family")) == client.family_name &&
            QString::fromStdString(person.at("born")) == client.birth_date)
            return QString::fromStdString(person.at("body"));
    return {};
}

} // namespace fusain::desk

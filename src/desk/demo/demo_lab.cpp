// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/demo/demo_lab.h"

#include "bench/analyser/analyser_take.h"
#include "bench/files/tissue_table.h"
#include "bench/tank/tank_take.h"
#include "bench/xray/xray_take.h"

#include "core/air_and_water/gas.h"
#include "report/page/look.h"
#include "version.h"
#include "work/lab.h"
#include "virtual/references.h"
#include "virtual/analyser/analyser.h"
#include "virtual/table/xray_table.h"
#include "virtual/tank/tank.h"

#include <nlohmann/json.hpp>

#include <QDateTime>
#include <QFile>
#include <QThread>

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

/// A past visit as its log: begun, added to, and kept.
class PastVisit {
public:
    PastVisit(records::Store& store, const records::Client& client, protocol::Method method, const QDateTime& at,
        const std::string& who)
        : store_(store), client_(client), method_(method), at_(at), who_(who)
    {
    }

protected:
    void begin(const char* instrument, const char* profile = "", const bench::Json& more = bench::Json::object())
    {
        bench::Json body = {{"client_id", client_.id}, {"number", client_.number.toStdString()},
            {"name", client_.full_name().toStdString()}, {"birth_date", client_.birth_date.toStdString()},
            {"sex", word(client_.sex)}, {"height_cm", client_.height_cm}, {"method", protocol::word(method_)},
            {"instrument", instrument}, {"software", "fusain " FUSAIN_VERSION}};
        if (*profile) body["profile"] = profile;
        body.update(more);
        add("started", body);
        add("identity", {{"cm", client_.height_cm}});
        add("stops", {{"stop", bench::Json::array()}, {"noted", bench::Json::array()}});
    }
    void add(const std::string& kind, bench::Json body)
    {
        if (trouble_) return;
        bench::Event e;
        e.seq = visit_.last_seq + 1;
        e.at_utc = at_.addMSecs(static_cast<qint64>(1000 * now_)).toString(Qt::ISODateWithMs).toStdString();
        e.who = who_;
        e.kind = kind;
        e.body = std::move(body);
        if (e.seq == 1) {
            const auto id = store_.begin_visit(client_.id, QString::fromLatin1(protocol::word(method_)), e);
            if (id)
                visit_id_ = *id;
            else
                trouble_ = id.messages().front();
        } else {
            trouble_ = store_.append(visit_id_, e);
        }
        if (!trouble_) trouble_ = visit_.apply(e);
    }

    records::Store& store_;
    records::Client client_;
    protocol::Method method_;
    QDateTime at_;
    std::string who_;
    bench::Visit visit_;
    long visit_id_ = 0;
    double now_ = 0;
    std::optional<Message> trouble_;
};

/// Under water: the virtual tank's bytes go through the decoder and the swing reader, as at the bench.
class PastTank : public PastVisit {
public:
    PastTank(records::Store& store, const records::Client& client, const virt::Body& body, const QString& day,
        const std::string& who, std::uint64_t seed)
        : PastVisit(store, client, protocol::Method::hydrostatic,
              QDateTime(QDate::fromString(day, Qt::ISODate), QTime(8, 20), Qt::UTC), who),
          tank_(seed)
    {
        tank_.direct("client " + virt::to_text(body));
    }

    std::optional<Message> run()
    {
        begin("PG-T-01");
        tank_.direct("stand");
        listen(4);
        add("mass", {{"kg", scale_}, {"source", "scale"}});
        for (int i = 0; i < 3; ++i) {
            tank_.direct("blow");
            listen(4);
            add("blow", {{"l", blow_}});
        }
        add("lungs", {{"route", "vital_capacity"}, {"equation", "quanjer_1993"}, {"gas_temp_c", gas_c_},
                         {"barometric_mmhg", mmhg_}});
        tank_.direct("hang");
        cell_.clear();
        listen(2);
        double zero = 0;
        for (const auto& s : cell_) zero += s.kg / static_cast<double>(cell_.size());
        add("zero", {{"kg", zero}, {"sd_kg", 0.004}});
        add("water", {{"c", water_c_}, {"salinity_g_per_l", 0.0}, {"source", "thermometer"}});
        for (int number = 1; number <= trials::usual_limit && !trouble_; ++number) {
            trial(number, zero);
            if (visit_.readings().size() >= 4 && visit_.result() && !trials::still_improving(visit_.readings())) break;
        }
        if (visit_.result()) add("finished", bench::Json::object());
        return trouble_;
    }

private:
    void trial(int number, double zero)
    {
        add("trial_begun", bench::Json::object());
        tank_.direct("under");
        listen(4);
        tank_.direct("let_go");
        cell_.clear();
        const double start = now_;
        swing::Reader reader;
        std::vector<swing::Sample> trace;
        while (
            now_ - start < 12 && !(reader.state().reading && now_ - start > reader.state().reading->earliest_s + 1)) {
            listen(0.1);
            for (const auto& s : cell_) {
                trace.push_back({s.t_s - start, s.kg - zero});
                reader.add(trace.back());
            }
            cell_.clear();
        }
        if (visit_id_ && !trouble_) trouble_ = store_.append_signal({visit_id_, number, 0, bench::signal_of(trace)});
        if (const auto& r = reader.state().reading)
            add("trial_taken",
                {{"kg", r->kg}, {"u_kg", r->u_kg}, {"window_from_s", r->window_from_s}, {"window_to_s", r->window_to_s},
                    {"earliest_s", r->earliest_s}, {"midpoint_kg", r->midpoint_kg}});
        else
            add("trial_thrown_out", {{"number", number}, {"reason", "never calm"}});
        tank_.direct("up");
        listen(20);
    }

    void listen(double seconds)
    {
        now_ += seconds;
        const std::string bytes = tank_.advance_to(now_);
        std::vector<bench::Reading> readings;
        decoder_.feed({bytes.data(), bytes.size()}, readings);
        for (const bench::Reading& r : readings) {
            switch (r.channel) {
            case bench::Channel::load_cell: cell_.push_back({r.t_s, r.value}); break;
            case bench::Channel::scale: scale_ = r.value; break;
            case bench::Channel::spirometer: blow_ = r.value; break;
            case bench::Channel::water_temp: water_c_ = r.value; break;
            case bench::Channel::gas_temp: gas_c_ = r.value; break;
            case bench::Channel::barometer: mmhg_ = r.value; break;
            default: break;
            }
        }
    }

    virt::Tank tank_;
    bench::LineDecoder decoder_;
    double scale_ = 0, blow_ = 0, water_c_ = 0, gas_c_ = 0, mmhg_ = 0;
    std::vector<swing::Sample> cell_;
};

/// By impedance: the virtual analyser's bytes go through the decoder and the same take.
class PastAnalyser : public PastVisit {
public:
    PastAnalyser(records::Store& store, const records::Client& client, const virt::Body& body, const QString& day,
        const std::string& who, std::uint64_t seed)
        : PastVisit(store, client, protocol::Method::impedance,
              QDateTime(QDate::fromString(day, Qt::ISODate), QTime(8, 5), Qt::UTC), who),
          analyser_(seed)
    {
        analyser_.set_client(body);
    }

    std::optional<Message> run()
    {
        begin("PG-B-11", "stand_in_1");
        analyser_.direct("stand");
        listen(4);
        add("mass", {{"kg", take_.now().platform_kg.value_or(0)}, {"source", "platform"}});
        bench::Json seen = bench::Json::array();
        for (const bench::StanceRow& r : bench::stance_rows()) seen.push_back(r.noted);
        add("stance", {{"seen", seen}, {"left_out", bench::Json::array()}});
        analyser_.direct("grip");
        listen(6);
        add("trial_begun", {{"what", bench::take::body}});
        take_.begin(bench::take::body, visit_.mass_kg);
        for (double waited = 0; !take_.now().complete && waited < 90; waited += 0.5) listen(0.5);
        if (visit_id_ && !trouble_) trouble_ = store_.append_signal({visit_id_, 1, 0, take_.rows()});
        if (const auto standing = bench::analyser_standing(take_.now())) add("trial_taken", standing->body);
        if (visit_.result()) add("finished", bench::Json::object());
        return trouble_;
    }

private:
    void listen(double seconds)
    {
        now_ += seconds;
        const std::string bytes = analyser_.advance_to(now_);
        std::vector<bench::Reading> readings;
        decoder_.feed({bytes.data(), bytes.size()}, readings);
        for (const bench::Reading& r : readings) take_.feed(r);
    }
    virt::Analyser analyser_;
    bench::LineDecoder decoder_;
    bench::AnalyserTake take_;
};

/// By X-ray: the virtual table's rows go through the decoder and the same take.
class PastXray : public PastVisit {
public:
    PastXray(records::Store& store, const records::Client& client, const virt::Body& body, const QString& day,
        const std::string& who, std::uint64_t seed)
        : PastVisit(store, client, protocol::Method::absorptiometry,
              QDateTime(QDate::fromString(day, Qt::ISODate), QTime(8, 50), Qt::UTC), who),
          table_(seed), mass_kg_(body.mass_kg())
    {
        table_.direct("client " + virt::to_text(body));
    }

    std::optional<Message> run()
    {
        const auto tissue = bench::shipped_table("stand_in_table_1");
        begin("PG-X-02", tissue->table.id.c_str(),
            {{"licensed", {who_}}, {"dose_usv", tissue->dose_usv}, {"rated_mass_kg", 180}});
        add("mass", {{"kg", std::round(100 * mass_kg_) / 100}, {"source", "scale"}});
        bench::Json seen = bench::Json::array();
        for (const bench::LyingRow& r : bench::lying_rows()) seen.push_back(r.noted);
        add("lying", {{"seen", seen}, {"left_out", bench::Json::array()}});
        add("trial_begun", {{"what", bench::take::scan}});
        take_.begin(std::make_shared<const xray::Table>(tissue->table), xray::Half::none);
        table_.hear(take_.to_say());
        std::shared_ptr<const bench::Shown> shown = take_.state();
        while (!shown->complete && take_.broken().empty() && now_ < 3600) {
            now_ += 2;
            std::vector<bench::PictureWord> words;
            std::string rest;
            decoder_.feed(table_.advance_to(now_), words, rest);
            for (const bench::PictureWord& w : words) take_.feed(w);
            shown = take_.state();
            QThread::msleep(1); // the map is made, and read, beside this
        }
        if (visit_id_ && !trouble_) trouble_ = store_.append_signal({visit_id_, 1, 0, take_.rows()});
        if (const auto standing = bench::xray_standing(*shown); standing && !standing->why_not) {
            add("trial_taken", standing->body);
            const auto& x = dynamic_cast<const bench::XrayShown&>(*shown);
            add("lines", bench::json_of_lines((*x.scan)->made_of, (*x.scan)->lines, "program", {}));
        }
        if (visit_.result()) add("finished", bench::Json::object());
        return trouble_;
    }

private:
    virt::XrayTable table_;
    double mass_kg_;
    bench::PictureDecoder decoder_;
    bench::XrayTake take_;
};

} // namespace

namespace {

/// Weeks of checks as the stand-ins would have read them, one of them with a drift, one with a step.
std::optional<Message> past_checks(
    work::Lab& lab, const records::Instrument& i, const nlohmann::json& row, std::uint64_t seed, const QString& who)
{
    std::mt19937_64 random(seed);
    const auto& kind = bench::row(i.kind);
    const int n = row.at("checks"), drift_from = row.value("drift_from", n), step_from = row.value("step_from", n);
    const bool today_too = !row.value("not_today", false);
    for (int k = 0; k < n; ++k) {
        const int days_ago = n - 1 - k + (today_too ? 0 : 1);
        QDateTime at(lab.today().addDays(-days_ago),
            i.kind == bench::InstrumentKind::hydrostatic ? QTime(4, 35) : QTime(6, 40), lab.diary->zone());
        if (at > lab.now()) at = lab.now().addSecs(-5 * 3600); // the demo may begin before dawn
        const auto iso = [&] { return at.toUTC().toString(Qt::ISODateWithMs); };
        const auto id = lab.checks.begin(i, who, iso());
        if (!id) return id.messages().front();
        bench::CheckRun run(i.kind, i.reference);
        run.apply({1, iso().toStdString(), who.toStdString(), "started",
            {{"reference", i.reference}, {"reference_x", i.reference_x}}});
        while (!run.all_done()) {
            const auto& step = kind.steps[static_cast<std::size_t>(run.next())];
            at = at.addSecs(step.minutes ? 60 * step.minutes : 20);
            bench::Event e{run.last_seq + 1, iso().toStdString(), who.toStdString(), "done", {{"step", step.id}}};
            const auto reads = [&](double value) {
                e.kind = "reading";
                e.body["value"] = value;
            };
            if (step.kind == bench::CheckStep::Kind::read) {
                // today's readings of an instrument that has drifted must still pass, or nobody could be tested in the
                // demo
                const auto& ref = virt::reference(step.channel);
                reads(virt::read_reference(ref, 0.55 * std::max(0, k - drift_from), true, false, random) +
                      (k >= step_from ? 0.16 * ref.step : 0));
                if (i.reference_x > 0) e.body["x"] = ref.x + std::normal_distribution<>(0, 0.15)(random);
            } else if (step.kind == bench::CheckStep::Kind::water) {
                reads(34.6 + 0.02 * static_cast<double>(random() % 10));
            } else if (step.kind == bench::CheckStep::Kind::zero) {
                reads(7.540 + 0.001 * static_cast<double>(random() % 8));
            }
            if (auto why = lab.checks.append(*id, e)) return why;
            run.apply(e);
        }
    }
    return std::nullopt;
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
            const auto method = protocol::method_of(part.at(0).get<std::string>());
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
            std::vector<protocol::Method> all;
            for (const schedule::Slot& s : stored->parts) all.push_back(s.method);
            if (const auto closed = lab.diary->close(stored->id, all); !closed) return closed.messages().front();
        }
    }
    return std::nullopt;
}

} // namespace

void set_demo_clock(const QString& hh_mm)
{
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
        store->set_setting(QStringLiteral("zone"), QStringLiteral("Europe/Paris"));
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
            i.kind = bench::instrument_kind(row.at("kind"))->kind;
            i.name = QString::fromStdString(row.at("name"));
            i.serial = QString::fromStdString(row.at("serial"));
            i.location = QString::fromStdString(row.value("location", ""));
            i.profile = QString::fromStdString(row.value("profile", ""));
            i.calibration_due = QString::fromStdString(row.value("due", ""));
            i.reference = row.value("reference", bench::row(i.kind).reference);
            i.reference_x = row.value("reference_x", 0.0);
            i.duration_min = bench::row(i.kind).duration_min;
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
    store.set_setting(QStringLiteral("lab_name"), QString::fromStdString(demo.at("lab")));
    store.set_setting(QStringLiteral("technician"), QString::fromStdString(demo.at("technician")));
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
            if (past.value("impedance", false))
                if (auto why = PastAnalyser(store, *stored, body, day, who, seed).run()) return why;
            if (past.value("xray", false))
                if (auto why = PastXray(store, *stored, body, day, who, seed).run()) return why;
            if (past.value("tank", true))
                if (auto why = PastTank(store, *stored, body, day, who, seed).run()) return why;
        }
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

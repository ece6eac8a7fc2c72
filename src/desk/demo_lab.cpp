// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/demo_lab.h"

#include "core/gas.h"
#include "report/look.h"
#include "version.h"
#include "virtual/tank.h"

#include <nlohmann/json.hpp>

#include <QDateTime>
#include <QFile>

namespace fusain::desk {
namespace {

nlohmann::json crew()
{
    look::reach_shipped_files();
    QFile file(QStringLiteral(":/data/crew.json"));
    if (!file.open(QIODevice::ReadOnly)) throw std::runtime_error("the program was built without demo/crew.json");
    return nlohmann::json::parse(file.readAll().toStdString());
}

/// A past visit, measured: the virtual tank's bytes go through the decoder and the swing reader, as at the bench.
class PastVisit {
public:
    PastVisit(records::Store& store, const records::Client& client, const virt::Body& body, const QString& day, const std::string& who, std::uint64_t seed)
        : store_(store), client_(client), body_(body), tank_(seed), at_(QDate::fromString(day, Qt::ISODate), QTime(8, 20), Qt::UTC), who_(who)
    {
        tank_.direct("client " + virt::to_text(body));
    }

    std::optional<Message> run()
    {
        add("started", {{"client_id", client_.id}, {"number", client_.number.toStdString()}, {"name", client_.full_name().toStdString()}, {"birth_date", client_.birth_date.toStdString()}, {"sex", word(client_.sex)}, {"height_cm", client_.height_cm}, {"method", "hydrostatic"}, {"software", "fusain " FUSAIN_VERSION}});
        add("identity", {{"cm", client_.height_cm}});
        add("stops", {{"stop", bench::Json::array()}, {"noted", bench::Json::array()}});
        tank_.direct("stand");
        listen(4);
        add("mass", {{"kg", scale_}, {"source", "scale"}});
        for (int i = 0; i < 3; ++i) {
            tank_.direct("blow");
            listen(4);
            add("blow", {{"l", blow_}});
        }
        add("lungs", {{"route", "vital_capacity"}, {"equation", "quanjer_1993"}, {"gas_temp_c", gas_c_}, {"barometric_mmhg", mmhg_}});
        tank_.direct("hang");
        cell_.clear();
        listen(2);
        double zero = 0;
        for (const auto& s : cell_) zero += s.kg / static_cast<double>(cell_.size());
        add("zero", {{"kg", zero}, {"sd_kg", 0.004}});
        add("water", {{"c", water_c_}, {"salinity_g_per_l", 0.0}, {"source", "thermometer"}});
        for (int number = 1; number <= trials::usual_limit && !trouble_; ++number) {
            trial(number, zero);
            if (visit_.taken_kg().size() >= 4 && visit_.result() && !trials::still_improving(visit_.taken_kg())) break;
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
        while (now_ - start < 12 && !(reader.state().reading && now_ - start > reader.state().reading->earliest_s + 1)) {
            listen(0.1);
            for (const auto& s : cell_) {
                trace.push_back({s.t_s - start, s.kg - zero});
                reader.add(trace.back());
            }
            cell_.clear();
        }
        if (visit_id_ && !trouble_) trouble_ = store_.append_signal(visit_id_, {number, 0, trace});
        if (const auto& r = reader.state().reading) add("trial_taken", {{"kg", r->kg}, {"u_kg", r->u_kg}, {"window_from_s", r->window_from_s}, {"window_to_s", r->window_to_s}, {"earliest_s", r->earliest_s}, {"midpoint_kg", r->midpoint_kg}});
        else add("trial_thrown_out", {{"number", number}, {"reason", "never calm"}});
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
            const auto id = store_.begin_visit(client_.id, QStringLiteral("hydrostatic"), e);
            if (id) visit_id_ = *id;
            else trouble_ = id.messages().front();
        } else {
            trouble_ = store_.append(visit_id_, e);
        }
        if (!trouble_) trouble_ = visit_.apply(e);
    }

    records::Store& store_;
    records::Client client_;
    virt::Body body_;
    virt::Tank tank_;
    QDateTime at_;
    std::string who_;
    bench::LineDecoder decoder_;
    bench::Visit visit_;
    long visit_id_ = 0;
    double now_ = 0, scale_ = 0, blow_ = 0, water_c_ = 0, gas_c_ = 0, mmhg_ = 0;
    std::vector<swing::Sample> cell_;
    std::optional<Message> trouble_;
};

} // namespace

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
        const auto stored = store.save(c);
        if (!stored) return stored.messages().front();
        for (const auto& past : person.at("past")) {
            body.fat_mass_kg = past.at("fat");
            body.fat_free_mass_kg = past.at("ffm");
            if (auto why = PastVisit(store, *stored, body, QString::fromStdString(past.at("day")), demo.at("technician"), ++seed).run()) return why;
        }
    }
    return std::nullopt;
}

QString demo_body(const records::Client& client)
{
    const nlohmann::json demo = crew();
    for (const auto& person : demo.at("people"))
        if (QString::fromStdString(person.at("family")) == client.family_name && QString::fromStdString(person.at("born")) == client.birth_date) return QString::fromStdString(person.at("body"));
    return {};
}

} // namespace fusain::desk

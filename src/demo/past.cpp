// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/past.h"

#include "bench/analyser/analyser_take.h"
#include "bench/files/tissue_table.h"
#include "bench/tank/tank_take.h"
#include "bench/xray/xray_take.h"
#include "version.h"
#include "virtual/analyser/analyser.h"
#include "virtual/table/xray_table.h"
#include "virtual/tank/tank.h"

#include <QDateTime>
#include <QThread>

#include <cmath>

namespace fusain::desk {
namespace {

namespace event = bench::event;

/// A past visit as its log: begun, added to, and kept.
class PastVisit {
public:
    PastVisit(records::Store& store, const records::Client& client, const PastTest& test, const QTime& at)
        : store_(store), client_(client), method_(test.method),
          at_(QDate::fromString(test.day, Qt::ISODate), at, Qt::UTC), who_(test.who), instrument_(test.instrument)
    {
    }

protected:
    void begin(const char* own, const char* profile = "", const std::string& of_method = "{}")
    {
        event::Started e = records::beginning_of(client_, method_);
        e.instrument = instrument_ ? instrument_ : own;
        e.profile = profile;
        e.software = "fusain " FUSAIN_VERSION;
        add({event::Started::kind, bench::joined(bench::written(e), of_method)});
        add(event::Identity{client_.height_cm});
        add(event::Stops{});
    }
    void add(bench::Act act)
    {
        if (trouble_) return;
        const bench::Event e = bench::logged(
            {visit_.last_seq + 1,
                at_.addMSecs(static_cast<qint64>(1000 * now_)).toString(Qt::ISODateWithMs).toStdString(), who_},
            std::move(act));
        if (e.seq == 1) {
            const auto id = store_.begin_visit(client_.id, QString::fromLatin1(method_->word), e);
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
    Method method_;
    QDateTime at_;
    std::string who_;
    const char* instrument_;
    bench::Visit visit_;
    long visit_id_ = 0;
    double now_ = 0;
    std::optional<Message> trouble_;
};

/// Under water: the virtual tank's bytes go through the decoder and the swing reader, as at the bench.
class PastTank : public PastVisit {
public:
    PastTank(records::Store& store, const records::Client& client, const virt::Body& body, const PastTest& test)
        : PastVisit(store, client, test, QTime(8, 20)), tank_(test.seed)
    {
        tank_.direct("client " + virt::to_text(body));
    }

    std::optional<Message> run()
    {
        begin("PG-T-01");
        tank_.direct("stand");
        listen(4);
        add(event::Mass{scale_});
        for (int i = 0; i < 3; ++i) {
            tank_.direct("blow");
            listen(4);
            add(event::Blow{blow_});
        }
        add(event::Lungs{hydrostatic::LungRoute::vital_capacity, "quanjer_1993", gas_c_, mmhg_, {}});
        tank_.direct("hang");
        cell_.clear();
        listen(2);
        double zero = 0;
        for (const auto& s : cell_) zero += s.kg / static_cast<double>(cell_.size());
        add(event::Zero{zero, 0.004});
        add(event::Water{water_c_});
        for (int number = 1; number <= trials::usual_limit && !trouble_; ++number) {
            trial(number, zero);
            if (visit_.readings().size() >= 4 && visit_.result() && !trials::still_improving(visit_.readings())) break;
        }
        if (visit_.result()) add(event::Finished{});
        return trouble_;
    }

private:
    void trial(int number, double zero)
    {
        add(event::TrialBegun{});
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
            add(event::WeighingTaken{{number}, *r});
        else
            add(event::TrialThrownOut{number, "never calm"});
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
    PastAnalyser(records::Store& store, const records::Client& client, const virt::Body& body, const PastTest& test)
        : PastVisit(store, client, test, QTime(8, 5)), analyser_(test.seed)
    {
        analyser_.set_client(body);
    }

    std::optional<Message> run()
    {
        begin("PG-B-11", "stand_in_1");
        analyser_.direct("stand");
        listen(4);
        add(event::Mass{take_.now().platform_kg.value_or(0), "platform"});
        event::Stance stance;
        for (const bench::StanceRow& r : bench::stance_rows()) stance.seen.push_back(r.noted);
        add(stance);
        analyser_.direct("grip");
        listen(6);
        add(event::TrialBegun{bench::take::body});
        take_.begin(bench::take::body, visit_.mass_kg);
        for (double waited = 0; !take_.now().complete && waited < 90; waited += 0.5) listen(0.5);
        if (visit_id_ && !trouble_) trouble_ = store_.append_signal({visit_id_, 1, 0, take_.rows()});
        if (const auto standing = bench::analyser_standing(take_.now(), 1)) add(*standing->taken);
        if (visit_.result()) add(event::Finished{});
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
    PastXray(records::Store& store, const records::Client& client, const virt::Body& body, const PastTest& test)
        : PastVisit(store, client, test, QTime(8, 50)), table_(test.seed), mass_kg_(body.mass_kg())
    {
        table_.direct("client " + virt::to_text(body));
    }

    std::optional<Message> run()
    {
        const auto tissue = bench::shipped_table("stand_in_table_1");
        event::XrayStarted table;
        table.licensed = {who_};
        table.dose_usv = tissue->dose_usv;
        table.rated_mass_kg = 180;
        begin("PG-X-02", tissue->table.id.c_str(), bench::written(table));
        add(event::Mass{std::round(100 * mass_kg_) / 100});
        event::Lying lying;
        for (const bench::LyingRow& r : bench::lying_rows()) lying.seen.push_back(r.noted);
        add(lying);
        add(event::TrialBegun{bench::take::scan});
        take_.begin(std::make_shared<const xray::Table>(tissue->table), xray::Half::none);
        table_.hear(take_.to_say());
        std::shared_ptr<const bench::Shown> shown = take_.state();
        while (!shown->complete && take_.broken().empty() && now_ < 3600) {
            // every row is there: what is left is the reader's own time, however long the computer takes for it
            if (!dynamic_cast<const bench::XrayShown&>(*shown).reading) now_ += 2;
            std::vector<bench::PictureWord> words;
            std::string rest;
            decoder_.feed(table_.advance_to(now_), words, rest);
            for (const bench::PictureWord& w : words) take_.feed(w);
            shown = take_.state();
            QThread::msleep(1); // the map is made, and read, beside this
        }
        if (visit_id_ && !trouble_) trouble_ = store_.append_signal({visit_id_, 1, 0, take_.rows()});
        if (const auto standing = bench::xray_standing(*shown, 1); standing && !standing->why_not) {
            add(*standing->taken);
            const auto& x = dynamic_cast<const bench::XrayShown&>(*shown);
            add(event::lines_of((*x.scan)->made_of, (*x.scan)->lines, "program", {}));
        }
        if (visit_.result()) add(event::Finished{});
        return trouble_;
    }

private:
    virt::XrayTable table_;
    double mass_kg_;
    bench::PictureDecoder decoder_;
    bench::XrayTake take_;
};

} // namespace

std::optional<Message> play_past(
    records::Store& store, const records::Client& client, const virt::Body& body, const PastTest& test)
{
    if (test.method == method::impedance) return PastAnalyser(store, client, body, test).run();
    if (test.method == method::absorptiometry) return PastXray(store, client, body, test).run();
    if (test.method == method::hydrostatic) return PastTank(store, client, body, test).run();
    return Message{"not_there", Level::error, "method",
        std::string("There is no past by ") + test.method->title + ": no virtual instrument plays it."};
}

} // namespace fusain::desk

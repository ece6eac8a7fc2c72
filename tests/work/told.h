// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/fields.h"
#include "bench/analyser/analyser.h"
#include "bench/xray/xray.h"
#include "work/lab/lab.h"

#include <gtest/gtest.h>

/// Visits as their logs would stand, finished and told.
namespace fusain::work {

struct More {
    const char* clock = "07:20"; ///< UTC
    double height_cm = 0;        ///< measured that day; 0: as the record has it
    const char* instrument = "";
    bench::Json stops = bench::Json::object(); ///< protocol, outside, pregnant
    bench::Json house = bench::Json::object();
    bool finished = true;
    const char* who = "M. Tanguy";
    const char* source = "typed"; ///< of an analyser's points
    long booking = 0;
};

struct ToldLab {
    std::shared_ptr<records::Store> store;
    records::Client client;

    /// Under water: readings of the load cell, in kilograms.
    long tank(const char* day, double kg, std::initializer_list<double> readings, const More& more = {})
    {
        Log log(*this, "hydrostatic", day, more, *more.instrument ? more.instrument : "PG-hydrostatic");
        log.add("mass", {{"kg", kg}, {"source", "typed"}});
        log.add("lungs", {{"route", "age_height"}, {"equation", "quanjer_1993"}});
        log.add("zero", {{"kg", 7.5}, {"sd_kg", 0.004}});
        log.add("water", {{"c", 34.0}});
        for (double reading : readings) {
            log.add("trial_begun");
            log.add("trial_taken", {{"kg", reading}, {"u_kg", 0.01}});
        }
        return log.finish(more.finished);
    }
    /// Resistance and reactance at 50 kHz, typed off a display.
    long analyser(const char* day, double kg, double ohm, double reactance, const More& more = {})
    {
        Log log(*this, "impedance", day, more, *more.instrument ? more.instrument : "PG-impedance");
        log.add("mass", {{"kg", kg}, {"source", "typed"}});
        log.add("stance", {{"seen", all_of(bench::stance_rows())}, {"left_out", bench::Json::array()}});
        log.add("trial_typed", {{"what", "body"}, {"source", more.source}, {"file", "points.csv"},
                                   {"sha256", std::string(64, 'a')}, {"whole_body", {{50, ohm, reactance}}}});
        return log.finish(more.finished);
    }
    /// An exported or typed table: the six regions alike but for these sums.
    long table(const char* day, double kg, double fat_g, double lean_g, double bmc_g, const More& more = {})
    {
        Log log(*this, "absorptiometry", day, more, *more.instrument ? more.instrument : "PG-absorptiometry");
        log.add("mass", {{"kg", kg}, {"source", "typed"}});
        log.add("lying", {{"seen", all_of(bench::lying_rows())}, {"left_out", bench::Json::array()}});
        const std::pair<const char*, double> shares[] = {{"head", 0.06}, {"right_arm", 0.05}, {"left_arm", 0.05},
            {"trunk", 0.46}, {"right_leg", 0.19}, {"left_leg", 0.19}};
        bench::Json regions;
        for (const auto& [id, share] : shares)
            regions[id] = {{"fat_g", share * fat_g}, {"lean_g", share * lean_g}, {"bmc_g", share * bmc_g}};
        log.add("trial_typed", {{"what", "scan"}, {"source", "typed"}, {"regions", regions}});
        return log.finish(more.finished);
    }

private:
    template <class Rows>
    static bench::Json all_of(const Rows& rows)
    {
        bench::Json out = bench::Json::array();
        for (const auto& row : rows) out.push_back(row.noted);
        return out;
    }
    class Log {
    public:
        Log(ToldLab& lab, const char* method, const char* day, const More& more, const char* instrument)
            : lab_(lab), method_(method), who_(more.who), at_(std::string(day) + "T" + more.clock + ":00.000Z")
        {
            const records::Client& c = lab.client;
            add("started",
                {{"log", 2}, {"client_id", c.id}, {"number", c.number.toStdString()},
                    {"name", c.full_name().toStdString()}, {"birth_date", c.birth_date.toStdString()},
                    {"sex", word(c.sex)}, {"height_cm", c.height_cm}, {"method", method}, {"instrument", instrument},
                    {"zone", "Europe/Paris"}, {"house", more.house}, {"profile", ""}, {"licensed", {"M. Tanguy"}},
                    {"rated_mass_kg", 180}, {"booking", more.booking}});
            add("identity", {{"cm", more.height_cm > 0 ? more.height_cm : c.height_cm}});
            bench::Json stops = {{"stop", bench::Json::array()}, {"noted", bench::Json::array()}};
            stops.update(more.stops);
            add("stops", stops);
        }
        void add(const std::string& kind, bench::Json body = bench::Json::object())
        {
            bench::Event e{++seq_, at_, who_, kind, body.dump()};
            if (seq_ == 1) {
                const auto begun = lab_.store->begin_visit(lab_.client.id, QString::fromLatin1(method_), e);
                ASSERT_TRUE(begun);
                id_ = *begun;
                return;
            }
            const auto why = lab_.store->append(id_, e);
            ASSERT_FALSE(why) << kind << ": " << why->text;
        }
        long finish(bool really)
        {
            if (really) add("finished");
            const auto visit = lab_.store->replay(id_); // the store keeps what it is given: the log must be one
            EXPECT_TRUE(visit) << (visit ? "" : visit.messages().front().text);
            return id_;
        }

    private:
        ToldLab& lab_;
        const char *method_, *who_;
        std::string at_;
        long seq_ = 0, id_ = 0;
    };
};

} // namespace fusain::work

// SPDX-License-Identifier: GPL-3.0-or-later
// What the lab keeps beside visits, by every key it has in its log (docs/formats).
#include "bench/base/fields.h"
#include "records/diary/screening_kept.h"
#include "work/practice/drill_events.h"
#include "work/reading/entries.h"
#include "work/study/study_events.h"

#include <gtest/gtest.h>

using namespace fusain;

namespace {

template <class E>
void keeps(const char* body)
{
    const auto read = bench::read<E>(body);
    ASSERT_TRUE(read) << body << "\n" << read.messages().front().text;
    EXPECT_EQ(bench::written(*read), bench::Json::parse(body).dump());
}

} // namespace

TEST(KeptKeys, OfClientsAndScreenings)
{
    keeps<work::Tape>(R"({"measurer": "J. Corre", "folds_mm": {"triceps": [12.5]}, "girths_cm": {"waist": [78.5]},
        "equation": "jackson_1978", "waist_at": "midway", "mass_kg": 70.5})");
    keeps<work::Days>(
        R"({"activity_level": 1.75, "school": "mifflin_1990", "food_kcal": 2100.5, "food_words": "a diary"})");
    keeps<work::Plan>(R"({"method": "impedance", "intake_kcal": 2100.5, "sex": "male", "age_y": 31.5,
        "height_cm": 171.5, "fat_mass_kg": 16.5, "fat_free_mass_kg": 53.5, "activity_level": 1.75,
        "school": "mifflin_1990", "range": "gallagher_2000", "lean": "half_forbes", "aim": 1, "target": 68.5,
        "weeks": 12})");
    keeps<work::Told>(R"({"note": "walk", "steps": ["drink"]})");
    keeps<records::entry::Withdrawn>(R"({"of": 4, "reason": "wrong"})");
    keeps<records::entry::PlanEnded>(R"({"reason": "on leave"})");
    keeps<records::entry::Consent>(R"({"of": "guardian", "signed_by": "A. B."})");
    keeps<records::entry::Telling>(R"({"without_numbers": true})");
    keeps<records::entry::Sheet>(
        R"({"visit": 4, "for": "client", "file": "a.pdf", "digest": "0a", "replaces": "1 March"})");
    keeps<records::ScreeningKept>(R"({"answers": {"last_meal": {"minutes_ago": 80.5}, "a": {"never": true},
        "b": {"yes": false}, "c": {"number": 2.5}, "d": {"kept": true}}, "verdicts": [{"method": "hydrostatic",
        "verdict": "noted", "findings": [{"rule": "meal", "verdict": "noted", "words": "Ate.", "effects": ["more"]}],
        "override": {"who": "M. Tanguy", "reason": "a cold"}}], "protocols": {"hydrostatic": 1},
        "house": {"range": "gallagher_2000"}, "house_version": 2, "conditions": {"hydrostatic": {"day": "1 March",
        "instrument": "PG-1", "minute_of_day": 505.5, "equations": "siri_1961", "protocol": "hydrostatic 1",
        "outside": {"meal": "noted"}, "lung": "measured"}}, "comparability": {"hydrostatic": "Well."}})");
    keeps<records::ScreeningDraft>(R"({"at": "2026", "answers": {"ill": {"yes": true}}, "known": ["ill"]})");
}

TEST(KeptKeys, OfStudiesAndDrills)
{
    using namespace work;
    keeps<in_study::Begun>(R"({"local": "2026", "what": "repair", "method": "impedance", "instrument": "PG-1",
        "second": "PG-2", "repaired_on": "2026-11-20", "operators": ["M. Tanguy"], "people": 12, "times": 4})");
    keeps<in_study::Repositioned>(R"({"local": "2026", "client": 4, "anew": true})");
    keeps<in_study::Repeat>(
        R"({"local": "2026", "visit": 4, "started_at": "2026", "technician": "M. Tanguy", "repositioned": true})");
    keeps<in_study::LeftOut>(R"({"local": "2026", "visit": 4, "reason": "moved"})");
    keeps<in_study::TakenBack>(R"({"local": "2026", "visit": 4})");
    keeps<in_study::GivenUp>(R"({"local": "2026", "reason": "nobody is left"})");
    keeps<in_study::Closed>(R"({"local": "2026", "equations": "siri_1961", "people": [[{"who": "M. Tanguy",
        "at": "2026", "side": 1, "left_out": "moved", "values": {"fat_percent": 21.5}}]], "results": {"fat_percent":
        {"rms_sd": 0.5, "lsc": 1.5, "degrees_of_freedom": 15.5, "effective_degrees": 14.5, "rms_sd_upper95": 0.75,
        "held_against": 0.25}, "fat_mass": {"n": 4, "shift": 0.5, "shift_within": 0.25, "sd": 1.5, "low": -1.5,
        "high": 2.5, "lsc": 3.5, "verdict": "agree"}}, "noise_lsc": {"fat_percent": 1.5}})");
    keeps<in_drill::Begun>(R"({"local": "2026", "drill": "swing_1", "title": "Five", "method": "hydrostatic",
        "task": "read_swing", "level": 2, "items": 5, "pass": {"rms": 0.5, "bias": 0.25, "share": 0.75}})");
    keeps<in_drill::Answer>(R"({"local": "2026", "item": 2, "numbers": [{"given": 2.5, "truth": 2.25, "reader": 2.75,
        "same_as": 1, "seconds": 3.5}], "calls": [{"given": "go", "truth": "no", "seconds": 3.5}], "seconds": 9.5,
        "cost": "one percent"})");
    keeps<in_drill::Marked>(R"({"local": "2026", "rms": 0.5, "bias": 0.25, "spread": 0.75, "right": 3, "missed": 1,
        "wrongly": 2, "passed": true})");
    keeps<in_drill::GivenUp>(R"({"local": "2026"})");
    keeps<in_drill::Waivers>(R"({"R. Prigent": {"by": "M. Tanguy", "on": "2026-11-20", "reason": "years of it"}})");
}

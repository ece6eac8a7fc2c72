// SPDX-License-Identifier: GPL-3.0-or-later
// Every event by every key it has in the log (docs/formats): one that is renamed is not read back, and old logs with
// it.
#include "bench/analyser/analyser_events.h"
#include "bench/base/fields.h"
#include "bench/brought/brought_events.h"
#include "bench/chamber/chamber_events.h"
#include "bench/checks/check_events.h"
#include "bench/density/density_events.h"
#include "bench/lines/line_setup.h"
#include "bench/printed/printed_events.h"
#include "bench/tank/tank_events.h"
#include "bench/xray/xray_events.h"

#include <gtest/gtest.h>

using namespace fusain;
using namespace fusain::bench;

namespace {

/// No key is left out, and none has another name.
template <class E>
void keeps(const char* body)
{
    const auto read = bench::read<E>(body);
    ASSERT_TRUE(read) << body << "\n" << read.messages().front().text;
    EXPECT_EQ(written(*read), Json::parse(body).dump());
}

} // namespace

TEST(EventKeys, OfEveryVisit)
{
    keeps<event::Started>(R"({"client_id": 3, "number": "101", "name": "A. B.", "birth_date": "1995-05-02",
        "sex": "male", "height_cm": 171.5, "method": "hydrostatic", "software": "fusain 0.1.0", "instrument": "PG-1",
        "profile": "stand_in_1", "reference": 50.012, "booking": 7, "zone": "Europe/Paris",
        "local": "2026-11-26T09:20", "log": 3, "last": {"mass_kg": 74.5, "days": 5.5},
        "weighings": [{"mass_kg": 74.5, "days": 5.5}], "house": {"range": "gallagher_2000"}, "house_version": 2,
        "protocol": "hydrostatic 1", "told_elsewhere": true, "layout": {"id": "at_the_door"}, "way": "file",
        "check": {"by": "none", "u_fat_percent": 1.5}})");
    keeps<event::Identity>(R"({"cm": 171.5})");
    keeps<event::Stops>(R"({"stop": ["ill"], "noted": ["wide"], "words": ["Ate."], "comparability": "Well.",
        "protocol": "hydrostatic 1", "pregnant": true, "outside": {"meal": "noted"}, "questions_version": "1"})");
    keeps<event::Mass>(R"({"kg": 70.5, "source": "typed"})");
    keeps<event::TrialBegun>(R"({"what": "run"})");
    keeps<event::TrialTaken>(R"({"number": 2})");
    keeps<event::TrialTyped>(R"({"what": "run", "source": "file", "file": "a.csv", "sha256": "0a"})");
    keeps<event::TrialThrownOut>(R"({"number": 2, "reason": "moved"})");
    keeps<event::TrialBroken>(R"({"number": 2, "reason": "moved"})");
    keeps<event::Choice>(R"({"what": "range", "to": "gallagher_2000"})");
    keeps<event::Acknowledged>(R"({"codes": ["fat_unusual"]})");
    keeps<event::Reopened>(R"({"reason": "air"})");
    keeps<event::GivenUp>(R"({"reason": "went home"})");
    keeps<event::Attached>(R"({"file": "a.pdf", "sha256": "0a", "bytes": 12.5})");
    keeps<event::Detached>(R"({"sha256": "0a", "reason": "wrong"})");
    keeps<event::Remark>(R"({"text": "called back"})");
}

TEST(EventKeys, OfEachMethod)
{
    keeps<event::DensityStarted>(R"({"conversion": "siri_1961"})");
    keeps<event::Blow>(R"({"l": 4.1, "source": "typed"})");
    keeps<event::BlowThrownOut>(R"({"number": 2, "reason": "poor effort"})");
    keeps<event::Lungs>(R"({"route": "age_height", "equation": "quanjer_1993", "gas_temp_c": 22.5,
        "barometric_mmhg": 757.5, "rv_l": 1.25})");
    keeps<event::Zero>(R"({"kg": 7.5, "sd_kg": 0.004, "source": "typed"})");
    keeps<event::Water>(R"({"c": 34.5, "salinity_g_per_l": 1.5, "source": "typed"})");
    keeps<event::WeighingTaken>(R"({"number": 2, "kg": 2.25, "u_kg": 0.01, "window_from_s": 1.5, "window_to_s": 3.5,
        "earliest_s": 3.25, "midpoint_kg": 2.5})");
    keeps<event::WeighingTyped>(R"({"source": "typed", "low_kg": 9.5, "high_kg": 10.5})");
    keeps<event::WeighingTyped>(R"({"source": "file", "file": "a.csv", "sha256": "0a", "net": true, "kg": 2.25,
        "u_kg": 0.01, "window_from_s": 1.5, "window_to_s": 3.5, "earliest_s": 3.25, "midpoint_kg": 2.5})");
    keeps<event::Prepared>(R"({"seen": ["cap"], "left_out": ["dry"]})");
    keeps<event::Cylinder>(R"({"l": 50.012})");
    keeps<event::SelfCalibrated>(R"({"source": "typed"})");
    keeps<event::LungGas>(R"({"route": "measured", "equation": "mccrory_1998", "l": 3.25, "source": "typed"})");
    keeps<event::RatioTaken>(R"({"number": 2, "ratio": 1.5, "u_ratio": 0.001, "phase_rad": 3.25, "drift_per_s": 0.5,
        "breath": 0.25, "kept": 0.75, "seconds": 25.5})");
    keeps<event::PuffsTaken>(R"({"number": 2, "slope": 1.5, "u_slope": 0.25, "merit": 0.5, "peak_cmh2o": 12.5,
        "count": 4, "barometric_mmhg": 757.5})");
    keeps<event::VolumeTyped>(
        R"({"what": "run", "source": "typed", "l": 66.5, "corrected": ["surface"], "mean": true})");
    keeps<event::VolumeTyped>(R"({"what": "run", "source": "typed", "kg_per_l": 1.05})");
    keeps<event::VolumeTyped>(R"({"what": "run", "source": "file", "file": "a.csv", "sha256": "0a", "ratio": 1.5,
        "u_ratio": 0.001, "phase_rad": 3.25, "drift_per_s": 0.5, "breath": 0.25, "kept": 0.75, "seconds": 25.5})");
    keeps<event::AnalyserStarted>(
        R"({"fat_free_mass": "kyle_2001", "total_body_water": "sun_2003", "skeletal_muscle": "janssen_2000"})");
    keeps<event::Stance>(R"({"seen": ["feet bare"], "left_out": ["wiped"]})");
    keeps<event::OwnNumbers>(R"({"rows": [{"title": "body fat", "value": "21.3", "unit": "%"}], "file": "a.csv",
        "sha256": "0a"})");
    keeps<event::SpectraTaken>(R"({"number": 2, "segments": {"trunk": {"points": [[50.5, 25.5, 3.5]], "sweeps": 3,
        "noise_share": 0.5, "drift_per_min": 0.25}}, "found": [{"code": "moved", "words": "It moved.",
        "segments": ["trunk"]}], "seconds": 60.5, "platform_kg": 70.5, "contact_ohm": [219.5]})");
    keeps<event::SpectraTyped>(R"({"what": "body", "source": "typed", "whole_body": [[50.5, 480.5, 58.5]]})");
    keeps<event::XrayStarted>(R"({"licensed": ["J. Corre"], "rated_mass_kg": 180.5, "dose_usv": 4.5, "scans_before": 2,
        "dose_before_usv": 9.5, "phantom": "1.1 g/cm²", "bone_reference": {"mean_kg": 3.5, "sd_kg": 0.5,
        "source": "this lab"}})");
    keeps<event::Lying>(R"({"seen": ["centred"], "left_out": ["held"], "half": "left"})");
    keeps<event::BoneReference>(R"({"mean_kg": 3.5, "sd_kg": 0.5, "source": "this lab"})");
    keeps<event::ScanTyped>(
        R"({"what": "scan", "source": "typed", "regions": {"head": {"fat_g": 900.5, "lean_g": 3300.5,
        "bmc_g": 500.5, "area_cm2": 240.5}}, "total": {"fat_g": 1.5, "lean_g": 2.5, "bmc_g": 3.5},
        "visceral_fat_g": 450.5, "trunk_has_head": true, "sides_told_apart": false, "of_another": ["name"],
        "half": "right", "table": "stand_in_table_1", "photons_kg": 0.5, "visceral": {"mass_g": 1.5, "u_g": 2.5,
        "area_cm2": 3.5}, "frame": {"crown_mm": 1.5, "soles_mm": 2.5, "middle_mm": 3.5},
        "found": [{"code": "off_field", "field": "absorptiometry", "words": "Off."}]})");
    keeps<event::Brought>(R"({"values": {"fat_percent": 21.5}, "u_fat_percent": 2.5, "u_told": true, "file": "a.csv",
        "sha256": "0a", "line": 4, "equations": "their own", "hour_known": false})");
    keeps<event::Printout>(R"({"source": "file", "file": "a.pdf", "sha256": "0a", "values": [{"key": "fat_percent",
        "text": "21.3", "value": 21.5, "decimals": 1, "low": 18.5, "high": 28.5, "read": "27.3", "doubtful": true}],
        "client": {"number": "101", "height_cm": {"value": 171.5, "step": 0.5, "text": "171.5"}}})");
}

TEST(EventKeys, OfChecksAndLines)
{
    keeps<checking::Started>(R"({"kind": "impedance", "reference": 500.5, "reference_x": 60.5, "check_by": "person",
        "usual": {"M. Tanguy": {"count": 3, "percent": 24.5, "mass_kg": 66.5, "resistance_ohm": 510.5}}})");
    keeps<checking::Done>(R"({"step": "person", "person": "M. Tanguy"})");
    keeps<checking::Reading>(R"({"step": "zero", "value": 7.5, "x": 60.5, "sd_kg": 0.004, "source": "typed"})");
    keeps<checking::Finished>(R"({"given_up": true})");
    keeps<checking::Remark>(R"({"text": "electrodes changed"})");
    keeps<KeptLine>(R"({"machine": "a", "place": "tcp:a:1", "name": "Scale", "decoder": "b", "feeds": "scale",
        "unit": "kg", "serial": {"baud": 9600, "data_bits": 7, "parity": "even", "stop_bits": 2, "flow": "none"}})");
}

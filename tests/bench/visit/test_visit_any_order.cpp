// SPDX-License-Identifier: GPL-3.0-or-later
// Whatever is thrown at the log, in whatever order and shape: it refuses or applies, never half, and what it kept
// replays to the same digits.
#include "bench/base/fields.h"
#include "bench/chamber/chamber.h"
#include "bench/tank/tank.h"

#include <gtest/gtest.h>

#include <functional>
#include <random>
#include <set>

using namespace fusain;
using bench::Json;
using bench::Trial;
using bench::Visit;

namespace {

/// What of a visit can be told apart from outside.
std::string state_of(const Visit& v)
{
    std::string out = std::to_string(v.last_seq) + v.next_step()->title + (v.ended() ? " ended" : "") +
                      (v.finished ? " finished" : "") + " " + v.own().schools(v) + std::to_string(v.choices.size());
    for (const Trial& t : v.trials) out += std::string(" ") + t.what->word + word(t.status) + t.reason;
    for (double r : v.readings()) out += " " + std::to_string(r);
    const auto result = v.result();
    for (const Message& m : result.messages()) out += " " + m.code;
    if (result)
        for (const Value& value : result->values) out += " " + std::to_string(value.value);
    return out;
}

class Dice {
public:
    explicit Dice(unsigned seed) : random_(seed) {}
    double between(double low, double high) { return std::uniform_real_distribution<double>(low, high)(random_); }
    bool one_in(int n) { return between(0, n) < 1; }
    template <class List>
    auto one_of(const List& list)
    {
        return *(list.begin() + static_cast<long>(between(0, static_cast<double>(list.size()))));
    }

    /// An event as the bench would make it, now and then with something wrong in its body.
    bench::Event event(const Visit& v)
    {
        static const std::vector<std::string> kinds = {"identity", "stops", "mass", "blow", "blow_thrown_out", "lungs",
            "zero", "water", "cylinder", "prepared", "lung_gas", "trial_begun", "trial_begun", "trial_taken",
            "trial_taken", "trial_taken", "trial_thrown_out", "trial_broken", "choice", "finished", "acknowledged",
            "reopened", "given_up", "remark", "started", "nonsense"};
        // most of the time what the visit is waiting for
        const bool on_the_way = !one_in(3);
        const std::string kind = v.started_at.empty() && !one_in(4) ? "started" : on_the_way ? next(v) : one_of(kinds);
        Json body = body_of(kind, v);
        if (one_in(8)) spoil(body);
        return {v.last_seq + (one_in(40) ? 2 : 1), "2026-11-23T08:20:00.000Z", one_in(50) ? "" : "M. Tanguy", kind,
            body.dump()};
    }

private:
    std::string next(const Visit& v)
    {
        using namespace bench::step;
        if (v.running()) return "trial_taken";
        static const std::map<bench::Step, std::string> kinds = {{who, "identity"}, {stops, "stops"}, {mass, "mass"},
            {zero, "zero"}, {bench::step::water, "water"}, {prepare, "prepared"}, {bench::step::trials, "trial_begun"},
            {runs, "trial_begun"}, {lung_gas, "lung_gas"}};
        const bench::Step now = v.next_step();
        if (now == lungs) return one_in(2) ? "lungs" : "blow";
        if (now == calibrate) return bench::chamber_of(v).cylinder_l ? "trial_begun" : "cylinder";
        if (now == bench::step::result) return one_in(3) ? "finished" : one_in(2) ? "choice" : "trial_begun";
        return kinds.at(now);
    }
    Json body_of(const std::string& kind, const Visit& v)
    {
        if (kind == "started")
            return {{"log", one_in(4) ? 1 : 2}, {"client_id", 3}, {"number", "101"}, {"name", "A. B."},
                {"birth_date", "1995-05-02"}, {"sex", one_in(2) ? "female" : "male"}, {"height_cm", 171.0},
                {"method", one_in(2) ? "hydrostatic" : "air_displacement"}, {"reference", 50.012}};
        if (kind == "identity") return {{"cm", between(168, 174)}};
        if (kind == "stops") return {{"stop", one_in(25) ? Json{"uneasy"} : Json::array()}};
        if (kind == "mass") return {{"kg", between(60, 75)}, {"source", "scale"}};
        if (kind == "blow") return {{"l", between(3.4, 4.2)}};
        if (kind == "blow_thrown_out") return {{"number", static_cast<int>(between(0, 4))}, {"reason", "poor effort"}};
        if (kind == "lungs") {
            static const std::vector<std::string> routes = {"vital_capacity", "measured", "age_height"};
            return {{"route", one_of(routes)}, {"equation", "quanjer_1993"}, {"gas_temp_c", 22.4},
                {"barometric_mmhg", 757.0}, {"rv_l", 1.3}};
        }
        if (kind == "zero") return {{"kg", 7.54}, {"sd_kg", 0.004}};
        if (kind == "water") return {{"c", between(33, 36)}};
        if (kind == "cylinder") return {{"l", 50.012}};
        if (kind == "prepared") return {{"seen", {"cap", "clothes", "dry", "talk", "button"}}};
        if (kind == "lung_gas") return {{"route", "predicted"}, {"equation", "mccrory_1998"}};
        if (kind == "trial_begun") {
            if (v.method == method::hydrostatic) return Json::object();
            // most of the time what comes next
            const bool empty = v.last_taken(bench::take::empty), line = bool(bench::chamber_of(v).calibration(v));
            static const std::vector<std::string> what = {"empty", "cylinder", "run", "puffs", "weighing"};
            return {{"what", one_in(5) ? one_of(what) : line ? "run" : empty ? "cylinder" : "empty"}};
        }
        if (kind == "trial_taken") {
            const double inside = !v.running()                             ? 0
                                  : v.running()->is(bench::take::cylinder) ? 50.012
                                  : v.running()->is(bench::take::run)      ? between(66, 66.2)
                                                                           : 0;
            return {{"kg", between(2.2, 2.4)}, {"u_kg", 0.004}, {"ratio", (450 - inside) / 300}, {"u_ratio", 3e-5},
                {"phase_rad", 3.14159}, {"slope", 1.0}, {"u_slope", 0.01}, {"merit", 0.3}, {"peak_cmh2o", 12},
                {"barometric_mmhg", 757}};
        }
        if (kind == "trial_thrown_out")
            return {{"number", static_cast<int>(between(0, static_cast<double>(v.trials.size()) + 2))},
                {"reason", one_in(5) ? "" : "touched the wall"}};
        if (kind == "trial_broken")
            return {{"number", static_cast<int>(v.trials.size())}, {"reason", "the line was lost"}};
        if (kind == "choice") {
            static const std::vector<std::pair<std::string, std::string>> choices = {{"conversion", "brozek_1963"},
                {"conversion", "siri_1961"}, {"conversion", "mine"}, {"trial_rule", "last_three_mean"},
                {"lung_route", "age_height"}, {"gas_route", "measured"}, {"weather", "fine"}};
            const auto c = one_of(choices);
            return {{"what", c.first}, {"to", c.second}};
        }
        if (kind == "acknowledged") return {{"codes", {"height_differs"}}};
        return {{"reason", one_in(6) ? "" : "said so"}, {"text", "a remark"}};
    }
    void spoil(Json& body)
    {
        if (body.empty()) return;
        auto member = body.begin();
        std::advance(member, static_cast<long>(between(0, static_cast<double>(body.size()))));
        static const std::vector<Json> wrong = {Json(), Json("text"), Json(-1e9), Json(1e300), Json::array({1, "x"}),
            Json::object({{"a", 1}}), Json(true), Json("")};
        if (one_in(3))
            body.erase(member);
        else
            *member = one_of(wrong);
    }
    std::mt19937_64 random_;
};

} // namespace

TEST(VisitInAnyOrder, RefusesOrAppliesNeverHalfAndReplaysToTheSameDigits)
{
    int results = 0, finished = 0, refusals = 0, kept = 0;
    std::set<std::string> applied;
    for (unsigned seed = 1; seed <= 250; ++seed) {
        Dice dice(seed);
        Visit v;
        std::vector<bench::Event> log;
        for (int i = 0; i < 70; ++i) {
            const bench::Event e = dice.event(v);
            const std::string before = state_of(v);
            const bool ended = v.ended();
            const auto asked = v.refuse(e);
            const auto why = v.apply(e);
            ASSERT_EQ(asked.has_value(), why.has_value()) << e.kind << e.body << ": asked and done differ";
            if (why) {
                ++refusals;
                EXPECT_FALSE(why->code.empty() || why->text.empty()) << e.kind << e.body;
                ASSERT_EQ(state_of(v), before) << e.kind << e.body << " was refused and changed something";
                continue;
            }
            log.push_back(e);
            applied.insert(e.kind);
            ++kept;
            EXPECT_EQ(v.last_seq, static_cast<long>(log.size())) << "no gaps";
            if (ended && v.log_version >= 2)
                EXPECT_TRUE(e.kind == "choice" || e.kind == "remark" || e.kind == "acknowledged" ||
                            e.kind == "reopened" || e.kind == "finished")
                    << e.kind << " after the end";
            // what is running is the last, and only taken trials count
            const auto running = std::count_if(
                v.trials.begin(), v.trials.end(), [](const Trial& t) { return t.status == Trial::Status::running; });
            EXPECT_LE(running, 1);
            EXPECT_EQ(running == 1, v.running() != nullptr);
            if (v.running()) EXPECT_EQ(v.running(), &v.trials.back());
            for (int number : v.reading_numbers())
                EXPECT_EQ(v.trials[static_cast<std::size_t>(number - 1)].status, Trial::Status::taken);
            if (v.stopped() || !v.given_up.empty()) EXPECT_FALSE(v.running());
        }
        Visit again;
        for (const bench::Event& e : log) ASSERT_FALSE(again.apply(e)) << e.kind << e.body;
        ASSERT_EQ(state_of(again), state_of(v));
        const auto a = v.result(), b = again.result();
        ASSERT_EQ(bool(a), bool(b));
        if (!a) continue;
        ++results;
        finished += v.finished;
        for (std::size_t k = 0; k < a->values.size(); ++k) {
            EXPECT_EQ(a->values[k].value, b->values[k].value) << "bit for bit";
            EXPECT_EQ(a->values[k].u, b->values[k].u);
        }
    }
    // the dice reached what they should
    EXPECT_GT(results, 40);
    EXPECT_GT(finished, 15);
    EXPECT_GT(refusals, 1000);
    EXPECT_GT(kept, 2000);
    for (const char* kind : {"trial_taken", "trial_thrown_out", "trial_broken", "choice", "reopened", "given_up",
             "blow", "prepared", "cylinder"})
        EXPECT_TRUE(applied.count(kind)) << kind;
}

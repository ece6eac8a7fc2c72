// SPDX-License-Identifier: GPL-3.0-or-later
// What is answered in a drill, what was true, and what the mistake would have cost.
#include "desk/practice/drill_runner.h"

#include "bench/tank/tank_take.h"
#include "bench/xray/xray.h"
#include "core/density/displacement.h"
#include "core/practice/cost.h"
#include "report/reading/reading_words.h"

#include <cmath>

namespace fusain::desk {
namespace {

using bench::Task;

constexpr double good_air_l = 0.06; ///< less than that left is a good breath out

QString fat_words(double percent)
{
    return QStringLiteral("%1%2 % fat")
        .arg(percent < 0 ? QStringLiteral("−") : QStringLiteral("+"))
        .arg(std::abs(percent), 0, 'f', std::abs(percent) < 0.095 ? 2 : 1);
}

QString mass(double kg) { return Units::get().text(Measure::mass, kg, 3); }

QString choice_words(const std::vector<bench::DrillChoice>& all, const std::string& id)
{
    QString words = q(id);
    for (const auto& c : all)
        if (c.id == id) words = q(c.words);
    while (words.endsWith('.')) words.chop(1);
    return words;
}

} // namespace

std::vector<bench::DrillChoice> DrillRunner::choices() const
{
    if (drill_->task == Task::screen) {
        std::vector<bench::DrillChoice> out;
        for (const protocol::Verdict v :
            {protocol::Verdict::go, protocol::Verdict::noted, protocol::Verdict::another_day, protocol::Verdict::no})
            out.push_back({v == protocol::Verdict::go ? practice::none : protocol::word(v), protocol::title(v)});
        return out;
    }
    if (drill_->task != Task::choose_runs) return drill_->choices;
    std::vector<bench::DrillChoice> out;
    const std::size_t n = item().runs_off_l.size();
    for (std::size_t i = 1; i <= n; ++i)
        for (std::size_t k = i + 1; k <= n; ++k)
            out.push_back({std::to_string(i) + "_" + std::to_string(k),
                "runs " + std::to_string(i) + " and " + std::to_string(k)});
    out.push_back({practice::none, n < 3 ? "neither: a third run" : "none of them: start over"});
    if (out.size() > 6) out.erase(out.begin() + 5, out.end() - 1);
    return out;
}

std::optional<double> DrillRunner::fat_off() const
{
    if (!session_.is_open()) return std::nullopt;
    auto told = session_.visit().result();
    if (!told) told = session_.visit().provisional();
    const Value* fat = told ? told->find(quantity::fat_percent) : nullptr;
    if (!fat) return std::nullopt;
    return fat->value - item().true_fat_percent();
}

void DrillRunner::take_number(double given)
{
    if (!asking_ || told_) return;
    const bench::TankShown& tank = bench::tank_shown(session_.live());
    if (!session_.live().trial || !tank.let_go)
        return strip_.hint(QStringLiteral("There is no swing yet: begin the trial, let go, then read."));
    const auto& shown = tank.swing.reading ? tank.swing.reading : tank.swing.estimate;
    const std::optional<double> reader = shown ? std::optional(shown->kg) : std::nullopt;
    const double took = seconds();
    asking_ = false;
    with_truth_ = [this, given, reader, took] {
        const double truth = truth_["underwater_kg"], water = truth_["water_c"];
        const auto fat = [&](double kg) {
            return practice::fat_percent_under_water(item().mass_kg(), kg, water, item().residual_volume_l);
        };
        const double cost = fat(given) - fat(truth);
        work::DrillAnswer a;
        a.item = item_;
        a.seconds = took;
        a.numbers = {{given, truth, reader, item().same_as, took}};
        a.cost = fat_words(cost);
        session_.throw_out(session_.live().trial, QStringLiteral("practised"));
        end_item(a,
            QStringLiteral("You read %1; it truly was %2%3. %4 off: %5 on this body.")
                .arg(mass(given), mass(truth),
                    reader ? QStringLiteral(", the reader had %1").arg(mass(*reader)) : QString(),
                    mass(given - truth).replace('-', QChar(0x2212)), a.cost),
            !drill_->pass.rms || std::abs(given - truth) <= *drill_->pass.rms);
    };
    ask_truth(QStringLiteral("tank"));
}

void DrillRunner::take_choice(const QString& id)
{
    if (!asking_ || told_) return;
    asking_ = false;
    work::DrillAnswer a;
    a.item = item_;
    a.seconds = seconds();
    const auto all = choices();
    std::string truth = item().truth;
    QString why;
    switch (drill_->task) {
    case Task::find_fault: {
        const auto off = fat_off();
        a.cost =
            item().cost.empty() && truth != practice::none
                ? (off && std::abs(*off) >= 0.05 ? QStringLiteral("%1 as it stands on the screen").arg(fat_words(*off))
                                                 : QStringLiteral("a result that has to be measured again"))
                : q(item().cost);
        break;
    }
    case Task::choose_runs: {
        const auto chosen = displacement::agree(session_.visit().readings());
        truth = chosen ? std::to_string(chosen->used.front() + 1) + "_" + std::to_string(chosen->used.back() + 1)
                       : std::string(practice::none);
        const auto& off = item().runs_off_l;
        if (id.contains('_')) {
            const double mean = (off[static_cast<std::size_t>(id.section('_', 0, 0).toInt()) - 1] +
                                    off[static_cast<std::size_t>(id.section('_', 1).toInt()) - 1]) /
                                2;
            const double volume = truth_["tissue_volume_l"]; // told when the runs were typed
            a.cost = fat_words(practice::fat_percent_of_volume(item().mass_kg(), volume + mean) -
                               practice::fat_percent_of_volume(item().mass_kg(), volume));
        } else {
            a.cost = QStringLiteral("ten minutes more in the chamber");
        }
        break;
    }
    case Task::screen: {
        const auto& v = answered_->verdict;
        truth = v.verdict == protocol::Verdict::go ? practice::none : protocol::word(v.verdict);
        QStringList found, effects;
        for (const auto& f : v.findings) {
            found << q(f.words);
            for (const std::string& one : f.effects) effects << q(one);
        }
        why = found.join(' ');
        a.cost = effects.isEmpty() ? (truth == "no" ? QStringLiteral("somebody hurt") : QString())
                                   : effects.join(QStringLiteral("; "));
        break;
    }
    case Task::talk: {
        const int last = static_cast<int>(series_->points.size()) - 1;
        const change::Step step = series_->step(last - 1, last);
        truth = change::word(step.verdict);
        why = report::change_sentence(*series_, step);
        if (step.change && id != q(truth))
            a.cost = QStringLiteral("%1 told for what it is not").arg(fat_words(*step.change));
        break;
    }
    default: return;
    }
    const practice::Call call{id.toStdString(), truth, a.seconds};
    a.calls = {call};
    const practice::Called how = practice::called(call);
    const bool right = how == practice::Called::right;
    if (how == practice::Called::wrongly && drill_->task == Task::find_fault)
        a.cost = QStringLiteral("a good measurement thrown out, and a client who waits longer");
    if (right && drill_->task != Task::choose_runs) a.cost.clear();
    const QString was = choice_words(all, truth);
    QString words = right ? QStringLiteral("Right: %1.").arg(was)
                          : QStringLiteral("It was: %1. You said: %2.").arg(was, choice_words(all, call.given));
    if (!why.isEmpty()) words += ' ' + why;
    if (!right && !a.cost.isEmpty()) words += QStringLiteral(" It would have cost: %1.").arg(a.cost);
    if (session_.live().trial) session_.throw_out(session_.live().trial, QStringLiteral("practised"));
    end_item(a, words, right);
}

void DrillRunner::take_done()
{
    if (!asking_ || told_) return;
    work::DrillAnswer a;
    a.item = item_;
    a.seconds = seconds();
    if (drill_->task == Task::coach) {
        const auto off = fat_off();
        if (!session_.visit().result() || !off)
            return strip_.hint(QStringLiteral("There is no result yet: fewer than three trials agree."));
        asking_ = false;
        int bad = 0;
        for (const bench::Trial& t : session_.visit().trials) {
            const auto air = air_left_l_.find(t.number);
            if (air == air_left_l_.end()) continue;
            const bool taken = t.status == bench::Trial::Status::taken, well = air->second < good_air_l;
            a.calls.push_back({taken ? practice::none : "air", well ? practice::none : "air", 0});
            bad += taken && !well;
        }
        const double told = item().true_fat_percent() + *off;
        a.numbers = {{told, item().true_fat_percent(), {}, -1, a.seconds}};
        a.cost = fat_words(*off);
        const auto calls = practice::mark(a.calls);
        return end_item(a,
            QStringLiteral("%1 % fat; truly %2 %: %3. %4 of %5 trials were judged right%6.")
                .arg(told, 0, 'f', 1)
                .arg(item().true_fat_percent(), 0, 'f', 1)
                .arg(a.cost)
                .arg(calls.right)
                .arg(calls.n)
                .arg(bad ? QStringLiteral("; %1 that you took still held air").arg(bad) : QString()),
            !drill_->pass.bias || std::abs(*off) <= *drill_->pass.bias);
    }
    if (drill_->task != Task::place_lines || !scanned_) return;
    const bench::LinesSeen* seen = bench::xray_of(session_.visit()).lines(session_.visit());
    if (!seen) return;
    asking_ = false;
    const xray::Lines& truth = scanned_->truth;
    const auto add = [&](double mm) { a.numbers.push_back({mm, 0, {}, -1, a.seconds}); };
    add(std::abs(seen->lines.neck_mm - truth.neck_mm));
    add(std::abs(seen->lines.pelvis_mm - truth.pelvis_mm));
    for (const xray::LineRow& row : xray::line_rows) add(practice::apart_mm(seen->lines.*row.line, truth.*row.line));
    const xray::Regions by_truth = xray::regions(scanned_->read.made_of, truth),
                        by_hand = xray::regions(scanned_->read.made_of, seen->lines);
    double most = 0;
    QString where;
    for (std::size_t r = 0; r < xray::part_count; ++r) {
        const double grams = by_hand[r].lean_g - by_truth[r].lean_g;
        if (std::abs(grams) <= std::abs(most)) continue;
        most = grams;
        where = QString::fromLatin1(xray::region_rows[r].title);
    }
    const auto mark = practice::mark(a.numbers);
    a.cost = QStringLiteral("%1 %2 g lean").arg(where).arg(most, 0, 'f', 0);
    end_item(a,
        QStringLiteral("The strings lie %1 mm from their places, the farthest %2 mm. What moves most: %3, %4 g of lean "
                       "by your strings.")
            .arg(mark.rms, 0, 'f', 1)
            .arg(mark.worst, 0, 'f', 1)
            .arg(where)
            .arg(most, 0, 'f', 0),
        !drill_->pass.rms || mark.rms <= *drill_->pass.rms);
}

void DrillRunner::end_item(work::DrillAnswer answer, const QString& words, bool good)
{
    asking_ = false;
    told_ = true;
    if (const auto why = work::keep_answer(*lab_.store, run_, answer, who_)) emit trouble(q(why->text));
    strip_.tell(words, good, item_ + 1 == static_cast<int>(drill_->items.size()));
}

} // namespace fusain::desk

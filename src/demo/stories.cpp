// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/past.h"

#include "core/body/plan.h"
#include "work/reading/entries.h"

#include <QDate>

#include <random>

namespace fusain::desk {
namespace {

constexpr double water_between_days = 0.004; ///< SD of the water share, from one morning to another

/// The true body, day by day: the dynamic model piece by piece, and what a story adds to it evenly (disuse, growth).
std::vector<plan::Day> true_way(const virt::Body& body, const nlohmann::json& story)
{
    std::vector<plan::Day> way{{story.at("fat"), story.at("ffm")}};
    for (const auto& segment : story.at("segments")) {
        plan::Input in;
        in.body = {body.sex, body.age_y, body.height_cm, way.back().fat_kg, way.back().fat_free_kg};
        in.activity_level = story.value("activity", 1.6);
        in.lean = story.value("lean", "forbes");
        const int days = segment.at(0);
        const double eaten = segment.at(1), need = plan::daily_kcal(in);
        const auto piece = plan::at_intake(in, eaten > 0 ? eaten : need, days);
        way.insert(way.end(), piece.begin() + 1, piece.end());
    }
    const double more = story.value("lean_more_kg", 0.0);
    for (std::size_t d = 0; d < way.size(); ++d)
        way[d].fat_free_kg += more * static_cast<double>(d) / static_cast<double>(way.size() - 1);
    return way;
}

} // namespace

std::optional<Message> tell_story(records::Store& store, const records::Client& client, virt::Body body,
    const nlohmann::json& story, std::uint64_t& seed)
{
    const std::string who = "M. Tanguy";
    const QDate from = QDate::fromString(QString::fromStdString(story.at("from")), Qt::ISODate);
    const auto way = true_way(body, story);
    const double water = body.hydration;
    const auto keep = [&](records::ClientEvent e, const QDate& day) -> std::optional<Message> {
        e.client_id = client.id;
        e.who = QString::fromStdString(who);
        e.day = day.toString(Qt::ISODate);
        const auto kept = records::keep(store, e);
        return kept ? std::nullopt : std::optional(kept.messages().front());
    };
    const auto at = [&](int day) { return way[std::min(static_cast<std::size_t>(day), way.size() - 1)]; };
    int visit = 0;
    for (const int day : story.at("visits")) {
        std::mt19937_64 random(++seed);
        body.fat_mass_kg = at(day).fat_kg;
        body.fat_free_mass_kg = at(day).fat_free_kg;
        body.hydration = water + std::normal_distribution<>(0, water_between_days)(random);
        const bool old_one = visit < story.value("old_analyser_until", 0);
        if (auto why = play_past(store, client, body,
                {method::impedance, from.addDays(day).toString(Qt::ISODate), who, seed, old_one ? "PG-B-04" : nullptr}))
            return why;
        if (story.contains("plan") && story["plan"].at("visit") == visit) {
            const auto told = store.snapshots_of(client.id);
            const records::Snapshot& last = told.rbegin()->second;
            work::Plan p;
            p.method = "impedance";
            p.input.body = {last.sex, last.age_y, last.height_cm, last.result[quantity::fat_mass].value,
                last.result[quantity::fat_free_mass].value};
            p.input.activity_level = story.value("activity", 1.6);
            p.input.school = energy::default_school;
            p.input.lean = "half_forbes";
            p.input.target = story["plan"].at("target");
            p.input.weeks = story["plan"].at("weeks");
            const auto answer = plan::compute(p.input);
            if (answer && answer->find(quantity::intake)) {
                p.intake_kcal = (*answer)[quantity::intake].value;
                p.day = from.addDays(day).toString(Qt::ISODate);
                if (auto why = keep(work::event_of(p), from.addDays(day))) return why;
            }
        }
        ++visit;
    }
    if (story.contains("food") || story.contains("activity_told")) {
        work::Days days;
        days.activity_level = story.value("activity_told", story.value("activity", 1.6));
        if (story.contains("food")) days.food_kcal = story.at("food").get<double>();
        days.food_words = QStringLiteral("told from memory");
        if (auto why = keep(work::event_of(days), from.addDays(story.at("visits").back().get<int>()))) return why;
    }
    if (story.contains("tape")) {
        const auto& tape = story.at("tape");
        const double start = at(0).fat_kg;
        for (const int day : tape.at("visits")) {
            const double lost = start - at(day).fat_kg;
            const auto twice = [&](const char* of, const char* per_kg) {
                const double cm =
                    std::round(10 * (tape.at(of).get<double>() - tape.at(per_kg).get<double>() * lost)) / 10;
                return std::vector<double>{cm, cm + (++seed % 5) / 10.0};
            };
            work::Tape t;
            t.day = from.addDays(day).toString(Qt::ISODate);
            t.measurer = QString::fromStdString(tape.at("by"));
            t.girths_cm = {{"waist", twice("waist", "waist_per_kg")}, {"hips", twice("hips", "hips_per_kg")}};
            t.waist_at = "narrowest";
            if (auto why = keep(work::event_of(t), from.addDays(day))) return why;
        }
    }
    return std::nullopt;
}

} // namespace fusain::desk

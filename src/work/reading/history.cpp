// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/reading/history.h"

#include "core/time/alike.h"
#include "records/base/clock.h"

#include <algorithm>

namespace fusain::work {
namespace {

const Quantity* const main_ones[] = {&quantity::body_mass, &quantity::fat_percent, &quantity::fat_mass,
    &quantity::fat_free_mass, &quantity::ffmi, &quantity::fmi, &quantity::bmi};

std::string not_kept(const std::map<std::string, protocol::Verdict>& outside)
{
    std::string out;
    for (const auto& [rule, verdict] : outside)
        if (verdict != protocol::Verdict::go) out += (out.empty() ? "" : ";") + rule;
    return out;
}

void take_conditions(Measurement& m, const screening::Conditions& c)
{
    m.instrument = c.instrument;
    m.equations = c.equations + (c.lung.empty() ? "" : "; " + c.lung);
    m.not_kept.reset();
    if (!c.protocol.empty()) m.not_kept = not_kept(c.kept);
}

Measurement measurement_of(const records::Snapshot& s, const QTimeZone& zone)
{
    Measurement m;
    m.visit_id = s.visit_id;
    m.day = records::date_of(s.day);
    m.at = QDateTime(m.day, QTime(0, 0), zone).addSecs(static_cast<qint64>(60 * s.conditions.minute_of_day));
    m.method = s.method->word;
    take_conditions(m, s.conditions);
    m.sex = s.sex;
    m.age_y = s.age_y;
    m.height_cm = s.height_cm;
    m.mass_kg = s.mass_kg;
    m.result = s.result;
    m.messages = s.messages;
    m.choices = s.choices;
    return m;
}

Measurement measurement_of(const Tape& t, const records::Client& client, double mass_kg, const QTimeZone& zone)
{
    Measurement m;
    m.day = QDate::fromString(t.day, Qt::ISODate);
    m.at = QDateTime::fromString(t.at, Qt::ISODateWithMs).toTimeZone(zone);
    if (m.at.date() != m.day) m.at = QDateTime(m.day, QTime(12, 0), zone); // written up later
    m.method = by_tape;
    m.instrument = t.measurer.toStdString();
    m.equations = t.equation + (t.waist_at.empty() ? "" : "; waist " + t.waist_at);
    m.sex = client.sex;
    m.age_y = bench::age_between(client.birth_date.toStdString(), t.day.toStdString());
    m.height_cm = client.height_cm;
    m.mass_kg = t.mass_kg > 0 ? t.mass_kg : mass_kg;
    const auto girths = settled(t.girths_cm, skinfolds::settle_girth);
    for (std::size_t i = 0; i < std::size(quantity::girths); ++i)
        if (const auto at = girths.find(skinfolds::girths()[i]); at != girths.end())
            m.girths[&quantity::girths[i]] = at->second;
    skinfolds::Input in;
    in.sex = m.sex;
    in.age_y = m.age_y;
    in.height_cm = m.height_cm;
    in.mass_kg = m.mass_kg;
    in.girths_cm = girths;
    if (!t.equation.empty() && m.mass_kg > 0) in.skinfolds_mm = settled(t.folds_mm, skinfolds::settle_fold);
    in.equation = t.equation;
    const auto told = skinfolds::compute(in);
    if (told) m.result = *told;
    m.messages = told.messages();
    return m;
}

/// The same test under other choices, from its log. False: it cannot be had, and stays as it was told.
bool reckon_anew(Measurement& m, const std::map<std::string, std::string>& choices, const records::Store& store)
{
    auto visit = store.replay(m.visit_id);
    if (!visit) return false;
    bench::Visit v = *visit;
    bool other = false;
    const auto chosen = v.chosen();
    for (const auto& [what, to] : choices) {
        const auto now = chosen.find(what);
        if (now == chosen.end() || now->second == to || to.empty()) continue;
        if (v.apply(bench::logged({v.last_seq + 1, v.finished_at, "fusain"}, bench::event::Choice{what, to})))
            return false;
        other = true;
    }
    if (!other) return false; // there is nothing to choose otherwise, as where it was told elsewhere
    const auto told = v.result();
    if (!told) return false;
    m.recomputed_from = m.equations;
    m.result.values = told->values;
    m.messages = told.messages();
    m.choices = v.chosen();
    take_conditions(m, records::conditions_of(v, store.zone_of(v)));
    return true;
}

} // namespace

QString title_of(const std::string& method)
{
    const auto known = method_of(method);
    return known ? QString::fromLatin1((*known)->title) : QStringLiteral("callipers and tape");
}

std::optional<double> Measurement::value(const Quantity& q) const
{
    if (&q == &quantity::body_mass) return mass_kg > 0 ? std::optional(mass_kg) : std::nullopt;
    if (const auto girth = girths.find(&q); girth != girths.end()) return girth->second;
    const Value* v = result.find(q);
    return v ? std::optional(v->value) : std::nullopt;
}

History History::of(const Lab& lab, long client_id, const OnScreen& standing, bool under_todays)
{
    History h;
    const auto client = lab.store->client(client_id);
    if (!client) return h;
    h.client_ = *client;
    h.age_y_ = lab.person(*client).age_y;
    h.entries_ = entries_of(*lab.store, client_id);
    h.in_force_ = InForce(lab);
    h.facts_ = {client->facts.contains(QStringLiteral("pregnancy_possible")),
        client->facts.contains(QStringLiteral("eating_disorder")),
        client->facts.contains(QStringLiteral("kidney_disease"))};
    h.sugar_medicine_ = client->facts.contains(QStringLiteral("sugar_medicine"));
    if (const auto screened = lab.diary->last_screening(client_id)) {
        const screening::Answers& answers = screened->kept.answers;
        const auto said = answers.find("pregnancy_possible");
        if (said != answers.end() && said->second.yes)
            h.facts_.pregnant = *said->second.yes; // asked later than written
    }
    for (const records::Booking& b : lab.diary->bookings_of(client_id)) {
        if (b.state != records::BookingState::booked) continue;
        const QDateTime at = records::local_of(b.from(), lab.diary->zone());
        if (at > lab.now() && (!h.next_visit_ || at < *h.next_visit_)) h.next_visit_ = at;
    }
    const QTimeZone zone = lab.diary->zone();
    for (const auto& [visit, snapshot] : lab.store->snapshots_of(client_id))
        if (visit != standing.visit_id) h.all_.push_back(measurement_of(snapshot, zone));
    if (standing.visit && standing.visit->result()) {
        records::Snapshot now = records::snapshot_of(*standing.visit, lab.store->zone_of(*standing.visit));
        now.visit_id = standing.visit_id;
        h.all_.push_back(measurement_of(now, zone));
    }
    const auto by_time = [](const Measurement& a, const Measurement& b) {
        return a.day != b.day ? a.day < b.day : a.at != b.at ? a.at < b.at : a.visit_id < b.visit_id;
    };
    std::sort(h.all_.begin(), h.all_.end(), by_time);
    double mass = 0;
    for (const Tape& t : h.entries_.tapes) {
        for (const Measurement& m : h.all_)
            if (m.day <= QDate::fromString(t.day, Qt::ISODate) && m.mass_kg > 0 && m.visit_id) mass = m.mass_kg;
        h.all_.push_back(measurement_of(t, *client, mass, zone));
    }
    std::sort(h.all_.begin(), h.all_.end(), by_time);
    for (Measurement& m : h.all_) m.future = m.day > lab.today();
    if (under_todays)
        for (const std::string& method : h.methods()) {
            const Measurement* last = h.newest(method);
            for (Measurement& m : h.all_)
                if (m.visit_id && m.method == method && m.equations != last->equations)
                    reckon_anew(m, last->choices, *lab.store);
        }
    return h;
}

History History::until(const QDate& day) const
{
    History h = *this;
    const QString iso = day.toString(Qt::ISODate);
    const bool newest = std::none_of(all_.begin(), all_.end(), [&](const Measurement& m) { return m.day > day; });
    if (!newest) h.next_visit_.reset();
    std::erase_if(h.all_, [&](const Measurement& m) { return m.day > day; });
    h.in_force_ = in_force_.until(day);
    std::erase_if(h.entries_.tapes, [&](const Tape& t) { return t.day > iso; });
    std::erase_if(h.entries_.told, [&](const Told& t) { return t.day > iso; });
    std::erase_if(h.entries_.plans, [&](const Plan& p) { return p.day > iso; });
    for (Plan& p : h.entries_.plans)
        if (p.ended_on > iso) p.ended_on.clear(), p.ended_why.clear();
    return h;
}

std::vector<QDate> History::days() const
{
    std::vector<QDate> out;
    for (const Measurement& m : all_)
        if (out.empty() || out.back() != m.day) out.push_back(m.day);
    return out;
}

std::vector<const Measurement*> History::on(const QDate& day) const
{
    std::vector<const Measurement*> out;
    for (const Measurement& m : all_)
        if (m.day == day) out.push_back(&m);
    return out;
}

std::vector<std::string> History::methods() const
{
    std::map<std::string, int> times;
    std::vector<std::string> out;
    for (auto m = all_.rbegin(); m != all_.rend(); ++m)
        if (++times[m->method] == 1) out.push_back(m->method);
    std::stable_sort(out.begin(), out.end(), [&](const auto& a, const auto& b) {
        return (a != by_tape) != (b != by_tape) ? a != by_tape : times[a] > times[b];
    });
    return out;
}

const Measurement* History::newest(const std::string& method) const
{
    const Measurement* later = nullptr; // all there is may be dated in the future
    for (auto m = all_.rbegin(); m != all_.rend(); ++m) {
        if (method.empty() ? !m->visit_id || !m->result.find(quantity::fat_percent) : m->method != method) continue;
        if (!m->future) return &*m;
        if (!later) later = &*m;
    }
    return later;
}

std::vector<const Quantity*> History::quantities(const std::string& method) const
{
    std::vector<const Quantity*> out;
    const auto any = [&](const Quantity& q) {
        return std::any_of(
            all_.begin(), all_.end(), [&](const Measurement& m) { return m.method == method && m.value(q); });
    };
    const auto add = [&](const Quantity& q) {
        if (any(q) && std::find(out.begin(), out.end(), &q) == out.end()) out.push_back(&q);
    };
    for (const Quantity* q : main_ones) add(*q);
    for (const Quantity& q : quantity::girths) add(q);
    for (const Quantity* q : fusain::quantities()) add(*q);
    return out;
}

std::optional<Series> History::series(
    const Quantity& q, const std::string& method, const std::set<long>& left_out) const
{
    Series out;
    out.quantity = &q;
    out.method = method;
    for (const Measurement& m : all_) {
        const auto value = m.value(q);
        if (m.method != method || !value || m.future || (m.visit_id && left_out.count(m.visit_id))) continue;
        double at = series_minutes(QDateTime(m.day, m.at.time()));
        if (!out.points.empty()) at = std::max(at, out.series.points.back().at_min + 0.01); // two in one minute
        out.points.push_back(&m);
        out.series.points.push_back({at, *value, method, in_force_.instrument(m.instrument, m.day), m.equations, true,
            m.not_kept, m.height_cm, m.visit_id ? m.mass_kg : 0});
    }
    if (out.points.empty()) return std::nullopt;
    out.repeatability = repeatability(q, *out.points.back());
    out.series.rms_sd = out.repeatability ? out.repeatability->rms_sd : 1;
    out.series.bridges = in_force_.bridges(q, method);
    // a verdict stays as what was known of repeats when it was told
    for (std::size_t i = 0; i < out.points.size() && out.repeatability; ++i)
        if (const auto then = repeatability(q, *out.points[i]); then && then->source != out.repeatability->source)
            out.series.points[i].rms_sd = then->rms_sd;
    const auto by = method_of(method);
    const bool index = q.kind == UnitKind::index && &q != &quantity::visceral_area; // all are over height squared
    out.series.by_height =
        index || &q == &quantity::waist_height || (by && (*by)->by_height && &q != &quantity::body_mass);
    if (&q == &quantity::body_mass) // a scale knows no equations
        for (change::Point& p : out.series.points) p.equations.clear(), p.instrument.clear();
    const auto told = change::compare(out.series);
    if (!told) return std::nullopt;
    out.changes = *told;
    return out;
}

std::optional<change::Repeatability> History::repeatability(const Quantity& q, const Measurement& on) const
{
    return in_force_.repeatability(q, on.method, on.instrument, on.at,
        {on.mass_kg, on.height_cm, on.value(q).value_or(0), on.value(quantity::fat_percent).value_or(0)});
}

double History::lsc_to_come(const Quantity& q, const std::string& method) const
{
    const Measurement* on = newest(method);
    if (!on) return 0;
    Measurement next = *on;
    next.at = QDateTime(QDate(9999, 12, 31), QTime(0, 0));
    const auto known = repeatability(q, next);
    return known ? precision::change_factor * known->rms_sd : 0;
}

std::optional<change::Moved> moved(const History& h, const Measurement& from, const Measurement& to)
{
    if (from.method != to.method) return std::nullopt;
    const auto fat = h.series(quantity::fat_mass, to.method), lean = h.series(quantity::fat_free_mass, to.method);
    if (!fat || !lean || !fat->repeatability || !lean->repeatability) return std::nullopt;
    const auto place = [&](const Measurement& m) {
        return static_cast<int>(std::find(fat->points.begin(), fat->points.end(), &m) - fat->points.begin());
    };
    const int n = static_cast<int>(fat->points.size()), i = place(from), j = place(to);
    if (i >= n || j >= n || !fat->step(i, j).comparable()) return std::nullopt;
    return change::moved(*from.value(quantity::fat_mass), *from.value(quantity::fat_free_mass),
        *to.value(quantity::fat_mass), *to.value(quantity::fat_free_mass), fat->step(i, j).lsc, lean->step(i, j).lsc);
}

} // namespace fusain::work

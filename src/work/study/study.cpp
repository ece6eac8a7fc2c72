// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/study/parts.h"

#include <algorithm>

namespace fusain::work {

using namespace studying;

namespace {

constexpr int most_people = 200, most_times = 10, fewest_times = 2;

QString folded(const QString& name) { return records::folded(name.simplified()); }

std::optional<Design> design_from(const in_study::Begun& e)
{
    Design d;
    const auto method = method_of(e.method);
    if (!method) return std::nullopt;
    d.method = *method;
    for (StudyKind kind : {StudyKind::instruments, StudyKind::repair, StudyKind::days})
        if (e.what == word(kind)) d.kind = kind;
    d.instrument = q(e.instrument);
    d.second = q(e.second);
    d.repaired_on = records::date_of(e.repaired_on);
    for (const std::string& name : e.operators) d.operators << q(name);
    d.people = e.people;
    d.times = e.times;
    return d;
}

std::map<const Quantity*, double> values_of(const records::Snapshot& s)
{
    std::map<const Quantity*, double> out;
    for (const Value& v : s.result.values) out[v.quantity] = v.value;
    return out;
}

QDate day_of(const in_study::Stamped& e) { return QDate::fromString(q(e.local).left(10), Qt::ISODate); }

Member* member(Study& s, long visit)
{
    const auto at =
        std::find_if(s.members.begin(), s.members.end(), [&](const Member& m) { return m.visit_id == visit; });
    return at == s.members.end() ? nullptr : &*at;
}

/// A repeat whose records are gone, or are another's by now, is counted as gone.
void take(Study& s, const in_study::Repeat& e, const Lab& lab)
{
    s.awaited.reset();
    const auto row = lab.store->visit(e.visit);
    const auto told = lab.store->snapshot(e.visit);
    const auto client = row ? lab.store->client(row->client_id) : std::nullopt;
    if (!client || !told || row->started_at != q(e.started_at)) {
        ++s.gone;
        return;
    }
    auto at = std::find(s.clients.begin(), s.clients.end(), client->id);
    if (at == s.clients.end()) {
        s.clients.push_back(client->id);
        s.people.push_back(client->full_name());
        at = s.clients.end() - 1;
        const double n = static_cast<double>(s.clients.size());
        s.mean_mass_kg += (told->mass_kg - s.mean_mass_kg) / n;
        s.mean_height_cm += (told->height_cm - s.mean_height_cm) / n;
    }
    s.members.push_back({e.visit, static_cast<int>(at - s.clients.begin()), row->technician, began(lab, *told),
        side_of(s.design, *told), values_of(*told), {}});
    if (s.equations.empty()) s.equations = equations_of(*told).toStdString();
}

/// It keeps its numbers, and no names.
void close(Study& s, const in_study::Closed& e)
{
    s.closed_on = day_of(e);
    s.members.clear();
    s.people.clear();
    s.clients.clear();
    s.gone = 0;
    s.equations = e.equations;
    for (const auto& [id, lsc] : e.noise_lsc)
        if (const Quantity* of = find_quantity(id)) s.noise_lsc[of] = lsc;
    for (const auto& person : e.people) {
        s.people.push_back(QStringLiteral("person %1").arg(s.people.size() + 1));
        for (const in_study::MemberKept& one : person) {
            Member m;
            m.person = static_cast<int>(s.people.size()) - 1;
            m.who = q(one.who);
            m.at = QDateTime::fromString(q(one.at), Qt::ISODate);
            m.side = one.side;
            m.left_out = q(one.left_out);
            for (const auto& [id, value] : one.values)
                if (const Quantity* of = find_quantity(id)) m.values[of] = value;
            s.members.push_back(std::move(m));
        }
    }
}

/// The study as its entries tell it.
void apply(Study& s, const records::GroupEvent& e, const Lab& lab)
{
    using namespace in_study;
    if (is<Begun>(e)) {
        s.begun_by = e.who;
        s.begun_on = day_of(bench::said<Begun>(e.body));
    } else if (is<Repositioned>(e)) {
        const auto next = bench::said<Repositioned>(e.body);
        if (day_of(next) == lab.today()) s.awaited = Awaited{next.client, e.who};
    } else if (is<Repeat>(e)) {
        take(s, bench::said<Repeat>(e.body), lab);
    } else if (is<LeftOut>(e)) {
        const auto out = bench::said<LeftOut>(e.body);
        if (Member* m = member(s, out.visit)) m->left_out = q(out.reason);
    } else if (is<TakenBack>(e)) {
        if (Member* m = member(s, bench::said<TakenBack>(e.body).visit)) m->left_out.clear();
    } else if (is<GivenUp>(e)) {
        s.given_up = q(bench::said<GivenUp>(e.body).reason);
    } else if (is<Closed>(e)) {
        s.closed_by = e.who;
        close(s, bench::said<Closed>(e.body));
    }
}

} // namespace

const char* word(StudyKind kind)
{
    constexpr const char* words[] = {"repeats", "instruments", "repair", "days"};
    return words[static_cast<int>(kind)];
}

int Study::count(int person, int side) const
{
    return static_cast<int>(std::count_if(members.begin(), members.end(),
        [&](const Member& m) { return m.person == person && m.side == side && m.left_out.isEmpty(); }));
}

int Study::whole_people() const
{
    int n = 0;
    for (int i = 0; i < static_cast<int>(people.size()); ++i)
        n += compares() ? count(i, 0) > 0 && count(i, 1) > 0 : count(i) >= design.times;
    return n;
}

std::optional<int> Study::next_person(const QDate& today) const
{
    const auto had_today = [&](int person) {
        return design.kind == StudyKind::days && std::any_of(members.begin(), members.end(), [&](const Member& m) {
            return m.person == person && m.at.date() == today;
        });
    };
    for (int i = 0; i < static_cast<int>(people.size()); ++i)
        if (!had_today(i) && (compares() ? count(i, 0) == 0 || count(i, 1) == 0 : count(i) < design.times)) return i;
    return std::nullopt;
}

QString Study::next_instrument(long client_id) const
{
    if (design.kind != StudyKind::instruments) return design.instrument;
    const auto at = std::find(clients.begin(), clients.end(), client_id);
    if (at == clients.end()) return people.size() % 2 ? design.second : design.instrument;
    const int person = static_cast<int>(at - clients.begin());
    return count(person, 1) < count(person, 0) ? design.second : design.instrument;
}

Messages check(const Design& d, const Lab& lab)
{
    Messages bad;
    const auto whole = [&](const char* field, const char* title, int v, int least, int most) {
        if (v < least || v > most)
            bad.push_back({"out_of_range", Level::error, field,
                std::string(title) + " is " + std::to_string(v) + "; allowed is " + std::to_string(least) + " to " +
                    std::to_string(most) + "."});
    };
    whole("people", "How many people", d.people, fewest_people, most_people);
    whole("times", "How often each", d.times, fewest_times, most_times);
    const auto fits = [&](const QString& serial) {
        const auto i = lab.instrument(serial.toStdString());
        return i && i->kind->method == d.method;
    };
    if (!fits(d.instrument))
        bad.push_back(say("unknown_choice", "instrument",
            QStringLiteral("The register has no %1 of serial number \"%2\".")
                .arg(QString::fromLatin1(d.method->place), d.instrument)));
    if (d.kind == StudyKind::instruments && (!fits(d.second) || d.second == d.instrument))
        bad.push_back(say("unknown_choice", "second",
            QStringLiteral("Two instruments of one kind are held against each other; the second is \"%1\".")
                .arg(d.second)));
    if (d.kind == StudyKind::repair && (!d.repaired_on.isValid() || d.repaired_on > lab.today()))
        bad.push_back(say("missing_field", "repaired_on",
            QStringLiteral("The day of the repair is missing or to come; a day up to today is allowed.")));
    if (d.operators.isEmpty())
        bad.push_back(say("missing_field", "operators", QStringLiteral("Nobody is named whose repeats count.")));
    for (const QString& name : d.operators)
        if (std::count_if(d.operators.begin(), d.operators.end(),
                [&](const QString& other) { return folded(other) == folded(name); }) > 1) {
            bad.push_back(say("two_of_a_name", "operators",
                QStringLiteral("Two operators are called \"%1\": their repeats could not be told apart. Give one of "
                               "them another name in the lab's people first.")
                    .arg(name)));
            break;
        }
    return bad;
}

std::vector<Study> studies(const Lab& lab)
{
    std::vector<Study> out;
    for (const records::GroupEvent& e : records::events_of(*lab.store, records::study_log())) {
        auto at = std::find_if(out.begin(), out.end(), [&](const Study& s) { return s.id == e.group; });
        if (at == out.end()) {
            const auto design = design_from(bench::said<in_study::Begun>(e.body));
            if (e.kind != QStringLiteral("begun") || !design) continue;
            at = out.insert(out.end(), Study{});
            at->id = e.group;
            at->design = *design;
        }
        apply(*at, e, lab);
    }
    for (Study& s : out)
        std::stable_sort(s.members.begin(), s.members.end(),
            [](const Member& a, const Member& b) { return a.person != b.person ? a.person < b.person : a.at < b.at; });
    std::reverse(out.begin(), out.end());
    return out;
}

std::optional<Study> study(const Lab& lab, long id)
{
    for (Study& s : studies(lab))
        if (s.id == id) return std::move(s);
    return std::nullopt;
}

} // namespace fusain::work

// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/before/schedule.h"

#include <algorithm>
#include <cmath>
#include <random>

namespace fusain::schedule {
namespace {

/// Constraints that are looked away from, to learn which one binds.
using Relaxed = std::set<Constraint>;

/// All orders of the methods that keep dry before wet.
std::vector<std::vector<Method>> orders(std::vector<Method> methods)
{
    std::sort(methods.begin(), methods.end());
    methods.erase(std::unique(methods.begin(), methods.end()), methods.end());
    std::vector<std::vector<Method>> out;
    do {
        if (std::is_sorted(methods.begin(), methods.end(), [](Method a, Method b) { return a->wet < b->wet; }))
            out.push_back(methods);
    } while (std::next_permutation(methods.begin(), methods.end()));
    return out;
}

const Span* opening(const Instrument& i, const Span& test)
{
    const auto at = std::find_if(i.open.begin(), i.open.end(), [&](const Span& s) { return s.holds(test); });
    return at == i.open.end() ? nullptr : &*at;
}

/// Index of the local day a minute lies in.
std::size_t day_index(const Request& r, Minute m)
{
    const auto after = std::upper_bound(r.midnights.begin(), r.midnights.end(), m);
    return after == r.midnights.begin() ? 0 : static_cast<std::size_t>(after - r.midnights.begin()) - 1;
}
Minute since_midnight(const Request& r, Minute m) { return m - r.midnights[day_index(r, m)]; }

constexpr double day_cost = 10; // a day later costs as much as ten minutes of waiting

/// The stretch of the day (calendar-free: the opening span with its leads) a test belongs to.
Span day_of(const Instrument& i, const Span& test)
{
    if (const Span* open = opening(i, test)) return *open;
    return {test.from - 12 * 60, test.to + 12 * 60};
}

bool is_here(const Person& p, Minute m)
{
    return std::any_of(p.here.begin(), p.here.end(), [&](const Span& s) { return s.from <= m && m < s.to; });
}

/// What is short at some moment of a test, the others being `others`. Counting everybody and counting the licensed is
/// enough, since the licensed are among everybody.
std::optional<Constraint> short_of_people(
    const Lab& lab, const Slot& t, const std::vector<const Slot*>& others, bool mind_staff, bool mind_licence)
{
    std::vector<Minute> moments{t.at.from};
    for (const Slot* o : others)
        if (o->at.from > t.at.from && o->at.from < t.at.to) moments.push_back(o->at.from);
    for (const Person& p : lab.staff)
        for (const Span& s : p.here)
            if (s.to > t.at.from && s.to < t.at.to) moments.push_back(s.to);
    for (const Minute m : moments) {
        int running = 1, running_licensed = t.method->licence, here = 0, licensed = 0;
        for (const Slot* o : others)
            if (o->at.from <= m && m < o->at.to) {
                ++running;
                running_licensed += o->method->licence;
            }
        for (const Person& p : lab.staff)
            if (is_here(p, m)) {
                ++here;
                licensed += p.licences.count(t.method) > 0;
            }
        if (mind_licence && t.method->licence && running_licensed > licensed) return Constraint::licence;
        if (mind_staff && running > here) return Constraint::staff;
    }
    return std::nullopt;
}

/// When the first lead of the day must begin for this test; nothing when another comes before it or the instrument is
/// ready already.
std::optional<Minute> first_lead_begins(
    const Instrument& i, const Slot& t, const Span& day, const std::vector<const Slot*>& tests)
{
    if (minutes(i.first_lead) == 0 || (i.ready && i.ready->holds(t.at))) return std::nullopt;
    for (const Slot* o : tests)
        if (o != &t && o->instrument == i.id && day.holds(o->at) && o->at.from < t.at.from) return std::nullopt;
    return t.at.from - minutes(i.each_lead) - minutes(i.first_lead);
}

struct Searcher {
    const Lab& lab;
    const Request& request;
    Relaxed relaxed;
    std::vector<const Slot*> near; ///< tests that could matter, by start

    Searcher(const Lab& l, const Request& r, Relaxed x) : lab(l), request(r), relaxed(std::move(x))
    {
        for (const Slot& t : lab.tests)
            if (t.at.from < request.window.to + 1440 && t.at.to > request.window.from - 1440) near.push_back(&t);
    }
    bool off(Constraint c) const { return relaxed.count(c) > 0; }

    /// The first constraint a test at this place breaks; nothing when it fits. `own`: parts of the same visit already
    /// placed.
    std::optional<Constraint> breaks(const Instrument& i, const Slot& t, const std::vector<Slot>& own) const
    {
        if (!request.window.holds(t.at)) return Constraint::window;
        if (request.not_before && t.at.from < *request.not_before && !off(Constraint::retest))
            return Constraint::retest;
        const Span* open = opening(i, t.at);
        if (!open && !off(Constraint::open_hours)) return Constraint::open_hours;
        const int each = minutes(i.each_lead);
        const Span held{t.at.from - each, t.at.to + i.after_min};
        for (const Slot* o : near) {
            if (o->client == t.client && t.client && !off(Constraint::client_free) &&
                o->at.overlaps({t.at.from - change_min, t.at.to + change_min}))
                return Constraint::client_free;
            if (o->instrument == i.id && !off(Constraint::instrument_free) &&
                held.overlaps({o->at.from - each, o->at.to + i.after_min}))
                return Constraint::instrument_free;
        }
        if (!off(Constraint::lead_time)) {
            const auto begin = first_lead_begins(i, t, open ? *open : day_of(i, t.at), near);
            if (begin.value_or(held.from) < request.now) return Constraint::lead_time;
            // somebody must be there to start it
            if (begin && !off(Constraint::staff) &&
                std::none_of(lab.staff.begin(), lab.staff.end(), [&](const Person& p) { return is_here(p, *begin); }))
                return Constraint::lead_time;
        }
        std::vector<const Slot*> others = near;
        for (const Slot& o : own) others.push_back(&o);
        return short_of_people(lab, t, others, !off(Constraint::staff), !off(Constraint::licence));
    }

    /// Cost of opening an instrument for this visit alone.
    double opening_cost(const Instrument& i, const Span& at) const
    {
        const Span day = day_of(i, at);
        const bool in_use = std::any_of(
            near.begin(), near.end(), [&](const Slot* o) { return o->instrument == i.id && day.holds(o->at); });
        return in_use ? 0 : 0.1 * minutes(i.first_lead);
    }

    double start_cost(Minute start) const
    {
        const auto since = static_cast<double>(since_midnight(request, start));
        double cost = day_cost * static_cast<double>(day_index(request, start));
        if (request.usual_minute) {
            double apart = std::abs(since - *request.usual_minute);
            apart = std::min(apart, 1440 - apart);
            cost += 0.25 * std::max(0.0, apart - 30);
        } else {
            cost += 0.02 * since; // early is easiest to repeat
        }
        return cost;
    }

    /// Best way to place order[k…] after what is placed; improves `best` when it finds a cheaper one.
    void place(const std::vector<Method>& order, std::size_t k, std::vector<Slot>& placed, int waited, double cost,
        std::optional<Proposal>& best) const
    {
        if (best && cost >= best->cost) return;
        if (k == order.size()) {
            best = Proposal{placed, waited, cost, ""};
            return;
        }
        const Minute earliest = placed.back().at.to + change_min;
        const int most = off(Constraint::waiting) ? 8 * 60 : request.max_wait_min - waited;
        for (int wait = 0; wait <= most; wait += grid_min) {
            if (best && cost + wait >= best->cost) break;
            for (const Instrument& i : lab.instruments) {
                if (i.method != order[k]) continue;
                const Slot t{0, request.client, order[k], i.id, {earliest + wait, earliest + wait + i.duration_min}};
                if (breaks(i, t, placed)) continue;
                placed.push_back(t);
                place(order, k + 1, placed, waited + wait, cost + wait + opening_cost(i, t.at), best);
                placed.pop_back();
            }
        }
    }

    /// The best visit that begins at this minute.
    std::optional<Proposal> at(Minute start, const std::vector<std::vector<Method>>& all) const
    {
        std::optional<Proposal> best;
        for (const auto& order : all)
            for (const Instrument& i : lab.instruments) {
                if (i.method != order[0]) continue;
                const Slot t{0, request.client, order[0], i.id, {start, start + i.duration_min}};
                if (breaks(i, t, {})) continue;
                std::vector<Slot> placed{t};
                place(order, 1, placed, 0, start_cost(start) + opening_cost(i, t.at), best);
            }
        return best;
    }

    std::vector<Proposal> all_starts(bool first_only) const { return all_starts(first_only, request.window); }

    /// The best visit for every start within a stretch of the window.
    std::vector<Proposal> all_starts(bool first_only, const Span& within) const
    {
        const auto all = orders(request.methods);
        std::vector<Proposal> out;
        const Minute from = (std::max(within.from, request.window.from) + grid_min - 1) / grid_min * grid_min;
        for (Minute s = from; s < std::min(within.to, request.window.to); s += grid_min)
            if (auto p = at(s, all)) {
                out.push_back(*p);
                if (first_only) break;
            }
        return out;
    }
};

constexpr Constraint may_be_relaxed[] = {Constraint::retest, Constraint::waiting, Constraint::licence,
    Constraint::staff, Constraint::instrument_free, Constraint::lead_time, Constraint::open_hours,
    Constraint::client_free};

void explain(const Lab& lab, const Request& request, Answer& answer)
{
    const auto works = [&](Relaxed r) { return !Searcher(lab, request, std::move(r)).all_starts(true).empty(); };
    for (Constraint c : may_be_relaxed)
        if (works({c})) answer.binding.push_back(c);
    if (answer.binding.empty())
        for (std::size_t a = 0; a < std::size(may_be_relaxed) && answer.binding.empty(); ++a)
            for (std::size_t b = a + 1; b < std::size(may_be_relaxed) && answer.binding.empty(); ++b)
                if (works({may_be_relaxed[a], may_be_relaxed[b]})) {
                    answer.binding = {may_be_relaxed[a], may_be_relaxed[b]};
                    answer.together = true;
                }
    if (answer.binding.empty()) {
        answer.binding = {Constraint::window};
        answer.sentence = "No time fits: the days asked for are too short for these methods.";
        return;
    }
    std::string names;
    for (Constraint c : answer.binding)
        names += (names.empty() ? "" : answer.together ? " and " : " · ") + std::string(title(c));
    answer.sentence = answer.together ? "No time fits. Two things bind together: " + names + "."
                      : answer.binding.size() == 1
                          ? "No time fits. What binds: " + names + "."
                          : "No time fits. Giving up any one of these would open a way: " + names + ".";
}

} // namespace

int minutes(const std::vector<Lead>& leads)
{
    int sum = 0;
    for (const Lead& l : leads) sum += l.minutes;
    return sum;
}

const Instrument* Lab::instrument(const std::string& id) const
{
    const auto at =
        std::find_if(instruments.begin(), instruments.end(), [&](const Instrument& i) { return i.id == id; });
    return at == instruments.end() ? nullptr : &*at;
}

const char* title(Constraint c)
{
    constexpr const char* titles[] = {"opening hours", "the instrument is taken", "the lead time before it",
        "somebody to run the test", "somebody licensed for X-ray", "the client is elsewhere then",
        "the retest interval", "the longest wait allowed", "the days asked for"};
    return titles[static_cast<int>(c)];
}

Outcome<Answer> propose(const Lab& lab, const Request& request, std::size_t wanted)
{
    if (request.methods.empty())
        return Outcome<Answer>::refuse({"missing_field", Level::error, "methods", "Choose at least one method."});
    for (Method m : request.methods)
        if (std::none_of(
                lab.instruments.begin(), lab.instruments.end(), [&](const Instrument& i) { return i.method == m; }))
            return Outcome<Answer>::refuse({"no_instrument", Level::error, "methods",
                std::string("The lab has no instrument for ") + m->title + " in use."});
    if (request.midnights.empty())
        return Outcome<Answer>::refuse({"missing_field", Level::error, "days", "Choose at least one day."});
    Answer answer;
    const Searcher searcher(lab, request, {});
    std::vector<Proposal> found;
    std::optional<Minute> earliest;
    for (std::size_t day = 0; day < request.midnights.size(); ++day) {
        const Span within{request.midnights[day],
            day + 1 < request.midnights.size() ? request.midnights[day + 1] : request.window.to};
        const auto more = searcher.all_starts(false, within);
        if (!earliest && !more.empty()) earliest = more.front().parts.front().at.from;
        found.insert(found.end(), more.begin(), more.end());
        std::stable_sort(
            found.begin(), found.end(), [](const Proposal& a, const Proposal& b) { return a.cost < b.cost; });
        answer.proposals.clear();
        for (const Proposal& p : found) {
            const Minute start = p.parts.front().at.from;
            const auto close = [&](const Proposal& o) { return std::abs(o.parts.front().at.from - start) < 30; };
            const auto same_day = [&](const Proposal& o) {
                return day_index(request, o.parts.front().at.from) == day_index(request, start);
            };
            if (std::any_of(answer.proposals.begin(), answer.proposals.end(), close)) continue;
            // where several days are asked for, at most two times a day are offered
            if (request.midnights.size() > 1 &&
                std::count_if(answer.proposals.begin(), answer.proposals.end(), same_day) >= 2)
                continue;
            answer.proposals.push_back(p);
            if (answer.proposals.size() == wanted) break;
        }
        // a later day can only cost more than what is there already
        if (answer.proposals.size() == wanted &&
            answer.proposals.back().cost <= day_cost * static_cast<double>(day + 1))
            break;
    }
    if (answer.proposals.empty()) {
        explain(lab, request, answer);
        return answer;
    }
    for (Proposal& p : answer.proposals) {
        const Minute start = p.parts.front().at.from;
        const auto add = [&](const std::string& w) { p.because += (p.because.empty() ? "" : ", ") + w; };
        if (start == earliest) add("earliest");
        if (request.usual_minute && std::abs(since_midnight(request, start) - *request.usual_minute) <= 60)
            add("same hour as before");
        if (p.parts.size() > 1) add(p.wait_min == 0 ? "no waiting" : std::to_string(p.wait_min) + " min of waiting");
    }
    return answer;
}

Plan plan_day(const Lab& lab, const std::vector<Request>& requests, int rounds, unsigned seed)
{
    struct State {
        std::vector<std::optional<Proposal>> visits;
        int placed = 0, wait = 0;
        double cost = 0;
        bool better_than(const State& o) const
        {
            return placed != o.placed ? placed > o.placed : wait != o.wait ? wait < o.wait : cost < o.cost;
        }
    };
    const auto lab_of = [&](const State& s) {
        Lab l = lab;
        for (const auto& v : s.visits)
            if (v) l.tests.insert(l.tests.end(), v->parts.begin(), v->parts.end());
        return l;
    };
    const auto measure = [](State& s) {
        s.placed = s.wait = 0;
        s.cost = 0;
        for (const auto& v : s.visits)
            if (v) {
                ++s.placed;
                s.wait += v->wait_min;
                s.cost += v->cost;
            }
    };
    const auto insert = [&](State& s, const std::vector<std::size_t>& which) {
        Lab l = lab_of(s);
        for (std::size_t i : which) {
            const auto found = Searcher(l, requests[i], {}).all_starts(false);
            const auto best = std::min_element(
                found.begin(), found.end(), [](const Proposal& a, const Proposal& b) { return a.cost < b.cost; });
            if (best == found.end()) continue;
            s.visits[i] = *best;
            l.tests.insert(l.tests.end(), best->parts.begin(), best->parts.end());
        }
        measure(s);
    };
    std::vector<std::size_t> all(requests.size());
    for (std::size_t i = 0; i < all.size(); ++i) all[i] = i;
    std::stable_sort(all.begin(), all.end(),
        [&](std::size_t a, std::size_t b) { return requests[a].methods.size() > requests[b].methods.size(); });
    State best;
    best.visits.resize(requests.size());
    insert(best, all);

    std::mt19937 random(seed);
    for (int round = 0; round < rounds && !requests.empty(); ++round) {
        State next = best;
        std::vector<std::size_t> out;
        for (std::size_t i = 0; i < requests.size(); ++i)
            if (!next.visits[i]) out.push_back(i);
        // those who wait are taken out most often, with some neighbours in time
        const std::size_t centre = random() % requests.size();
        for (std::size_t i = 0; i < requests.size() && out.size() < 6; ++i) {
            const std::size_t j = (centre + i) % requests.size();
            if (next.visits[j] && (next.visits[j]->wait_min > 0 || random() % 3 == 0)) out.push_back(j);
        }
        for (std::size_t i : out) next.visits[i].reset();
        std::shuffle(out.begin(), out.end(), random);
        insert(next, out);
        if (next.better_than(best)) best = std::move(next);
    }
    return {best.visits, best.placed, best.wait};
}

std::vector<Start> starts(const Lab& lab)
{
    std::vector<Start> out;
    for (const Instrument& i : lab.instruments) {
        std::vector<const Slot*> mine;
        for (const Slot& t : lab.tests)
            if (t.instrument == i.id) mine.push_back(&t);
        std::sort(mine.begin(), mine.end(), [](const Slot* a, const Slot* b) { return a->at.from < b->at.from; });
        for (const Slot* t : mine) {
            const Span day = day_of(i, t->at);
            const bool first = std::none_of(
                mine.begin(), mine.end(), [&](const Slot* o) { return o->at.from < t->at.from && day.holds(o->at); });
            Minute end = t->at.from;
            const auto back = [&](const std::vector<Lead>& leads, bool is_first) {
                for (auto l = leads.rbegin(); l != leads.rend(); ++l) {
                    out.push_back({i.id, l->words, {end - l->minutes, end}, t->visit, is_first});
                    end -= l->minutes;
                }
            };
            back(i.each_lead, false);
            if (first) back(i.first_lead, true);
        }
    }
    std::stable_sort(out.begin(), out.end(), [](const Start& a, const Start& b) { return a.at.from < b.at.from; });
    return out;
}

constexpr int most_pairs = 8;

std::vector<Conflict> conflicts(const Lab& lab)
{
    std::vector<Conflict> out;
    const auto say = [&](Constraint kind, std::vector<long> visits, std::string text) {
        out.push_back({kind, std::move(visits), std::move(text)});
    };
    for (std::size_t a = 0; a < lab.tests.size(); ++a) {
        const Slot& t = lab.tests[a];
        const Instrument* i = lab.instrument(t.instrument);
        if (!i) {
            say(Constraint::instrument_free, {t.visit}, "The instrument " + t.instrument + " is not in use any more.");
            continue;
        }
        if (!opening(*i, t.at)) say(Constraint::open_hours, {t.visit}, i->name + " is not open then.");
        int pairs = 0; // a test that clashes with very many says so of a few: the others say it of themselves
        for (std::size_t b = a + 1; b < lab.tests.size(); ++b) {
            const Slot& o = lab.tests[b];
            if (o.visit != t.visit && pairs >= most_pairs) continue;
            const auto said = out.size();
            if (o.visit == t.visit) {
                const bool t_first = t.at.from < o.at.from;
                if (t.at.overlaps(o.at))
                    say(Constraint::client_free, {t.visit}, "Two methods of one visit overlap.");
                else if (t_first ? t.method->wet > o.method->wet : o.method->wet > t.method->wet)
                    say(Constraint::client_free, {t.visit},
                        std::string("Wet before dry: ") + (t_first ? t.method : o.method)->title + " comes before " +
                            (t_first ? o.method : t.method)->title + ".");
            } else if (o.instrument == t.instrument &&
                       Span{t.at.from - minutes(i->each_lead), t.at.to + i->after_min}.overlaps(
                           {o.at.from - minutes(i->each_lead), o.at.to + i->after_min})) {
                say(Constraint::instrument_free, {t.visit, o.visit},
                    t.at.overlaps(o.at) ? "Two visits want " + i->name + " at the same time."
                                        : "No time to make " + i->name + " ready between two visits.");
            } else if (o.client == t.client && t.client && t.at.overlaps(o.at)) {
                say(Constraint::client_free, {t.visit, o.visit}, "The same client is booked twice at the same time.");
            }
            if (o.visit != t.visit && out.size() > said) ++pairs;
        }
        std::vector<const Slot*> others;
        for (const Slot& o : lab.tests)
            if (&o != &t) others.push_back(&o);
        const auto begin = first_lead_begins(*i, t, day_of(*i, t.at), others);
        if (begin &&
            std::none_of(lab.staff.begin(), lab.staff.end(), [&](const Person& p) { return is_here(p, *begin); }))
            say(Constraint::lead_time, {t.visit}, "Nobody is there yet when " + i->name + " must be started.");
        const auto lacking = short_of_people(lab, t, others, true, true);
        if (lacking == Constraint::licence)
            say(Constraint::licence, {t.visit}, "Nobody licensed for X-ray is free then.");
        if (lacking == Constraint::staff) say(Constraint::staff, {t.visit}, "More tests than people then.");
    }
    return out;
}

RetestDays retest(Method method, const protocol::HouseRules& house)
{
    const auto chosen = house.find("retest");
    const std::string id = chosen == house.end() ? "by_method" : chosen->second;
    constexpr struct {
        const char* id;
        RetestDays days;
    } fixed[] = {{"weeks_2_4", {14, 28}}, {"weeks_3", {21, 28}}, {"weeks_4_6", {28, 42}}, {"monthly", {30, 37}},
        {"weeks_6", {42, 49}}, {"days_60", {60, 74}}, {"weeks_12", {84, 98}}, {"yearly", {364, 378}}};
    for (const auto& row : fixed)
        if (id == row.id) return row.days;
    return method->retest;
}

} // namespace fusain::schedule

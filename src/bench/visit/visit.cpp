// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/visit/methods.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"

#include <algorithm>
#include <chrono>
#include <cmath>

namespace fusain::bench {

namespace {

/// A finished visit stands as it was given out.
bool stands_when_finished(const std::string& kind)
{
    for (const char* allowed : {"choice", "remark", "acknowledged", "reopened", "attached", "detached"})
        if (kind == allowed) return true;
    return false;
}

const Taking* kind_of(const Visit& v, const std::string& name)
{
    for (const Kinds* kinds : {&shared_kinds(), &v.row().kinds})
        if (const auto at = kinds->find(name); at != kinds->end()) return &at->second;
    return nullptr;
}

constexpr StepRow who_row{"who", "Who is it", [](const Visit& v) { return v.identity_confirmed; }};
constexpr StepRow stops_row{
    "stops", "Nothing forbids it", [](const Visit& v) { return v.stops_asked && !v.stopped(); }};
constexpr StepRow mass_row{"mass", "Mass", [](const Visit& v) { return v.mass_kg.has_value(); }};
constexpr StepRow result_row{"result", "Result", [](const Visit& v) { return v.finished; }};

} // namespace

namespace step {
const Step who = &who_row, stops = &stops_row, mass = &mass_row, result = &result_row;
}

Visit::Visit() : method(methods().front()->method), own_(methods().front()->make(method)) {}

void Visit::start(const BenchRow& by)
{
    method = by.method;
    own_ = MethodHolder(by.make(by.method));
}

const char* word(Trial::Status status)
{
    constexpr const char* words[] = {"running", "taken", "thrown out", "broken"};
    return words[static_cast<int>(status)];
}

Outcome<Visit> Visit::after(const Event& e) const
{
    using After = Outcome<Visit>;
    if (e.seq != last_seq + 1)
        return After::refuse(Message{"log_gap", Level::error, "seq",
            "Event " + std::to_string(e.seq) + " follows " + std::to_string(last_seq) + ": the log has a gap."});
    const Taking* take = kind_of(*this, e.kind);
    if (!take && std::any_of(methods().begin(), methods().end(),
                     [&](const BenchRow* other) { return other->kinds.count(e.kind) > 0; }))
        return After::refuse(not_now(std::string("That does not belong to a visit by ") + row().name + "."));
    if (!take)
        return After::refuse(Message{"unknown_event", Level::error, "kind",
            "The log holds an event \"" + e.kind + "\" that this version does not know."});
    if (finished && log_version >= 2 && e.kind != "finished" && !stands_when_finished(e.kind))
        return After::refuse(
            not_now("The visit is finished. Open it again, with the reason, before anything in it is changed."));
    Visit next = *this;
    if (auto why = (*take)(*this, next, e)) return After::refuse(*why);
    next.last_seq = e.seq;
    return next;
}

std::optional<Message> Visit::refuse(const Event& e) const
{
    const auto next = after(e);
    return next ? std::nullopt : std::optional(next.messages().front());
}

std::optional<Message> Visit::apply(const Event& e)
{
    auto next = after(e);
    if (!next) return next.messages().front();
    *this = std::move(next).take();
    return std::nullopt;
}

std::optional<Message> needs_steps_before(const Visit& v, Step step, const char* words)
{
    for (Step s : v.steps()) {
        if (s == step) break;
        if (!v.done(s)) return not_now(std::string(words) + ": " + s->title + ".");
    }
    return std::nullopt;
}

Step Visit::next_step() const
{
    for (Step s : steps())
        if (s != step::result && !done(s)) return s;
    return step::result;
}

std::vector<int> Visit::reading_numbers() const
{
    std::vector<int> out;
    for (const Trial& t : trials)
        if (t.status == Trial::Status::taken && own_->value(*this, t)) out.push_back(t.number);
    return out;
}

std::vector<double> Visit::readings() const
{
    std::vector<double> out;
    for (int n : reading_numbers()) out.push_back(*own_->value(*this, trial(n)));
    return out;
}

const Trial* Visit::last_taken(std::string_view what) const
{
    for (auto t = trials.rbegin(); t != trials.rend(); ++t)
        if (t->is(what) && t->status == Trial::Status::taken) return &*t;
    return nullptr;
}

const Attached* Visit::attachment(const std::string& sha256) const
{
    for (const Attached& a : attached)
        if (a.sha256 == sha256 && a.taken_away.empty()) return &a;
    return nullptr;
}

double Visit::age_y() const { return age_between(subject.birth_date, day()); }

Outcome<Result> Visit::result() const
{
    auto computed = own_->result(*this);
    if (!computed) return computed;
    Messages messages = computed.messages();
    const auto add = [&](const std::optional<Message>& m) {
        if (m) messages.push_back(*m);
    };
    if (mass_kg) {
        const auto since_last = judgement::judge_mass(*mass_kg, last);
        add(since_last);
        std::vector<judgement::LastVisit> all = weighings;
        all.push_back({*mass_kg, 0});
        if (!since_last || since_last->code != "fast_fall") add(judgement::judge_pace(all));
    }
    if (height_today_cm) add(judgement::judge_height(*height_today_cm, subject.height_cm, age_y()));
    for (const std::string& words : note_words)
        messages.push_back({"noted_before", Level::caution, "", "Noted before the test: " + words});
    Result r = std::move(computed).take();
    if (!as_told) return {std::move(r), std::move(messages)};
    // ladder and story are reckoned anew; every number that was told stands as it was
    r.values = as_told->values;
    for (Doubt& d : r.doubts)
        if (const Value* v = r.find(*d.quantity)) d.budget.value = v->value, d.budget.u = v->u;
    return {std::move(r), as_told->messages};
}

Messages Visit::to_acknowledge() const
{
    Messages out;
    for (const Message& m : result().messages())
        if (m.level == Level::caution && judgement::asks_again(m) &&
            std::none_of(acknowledgements.begin(), acknowledgements.end(), [&](const Acknowledgement& a) {
                return std::find(a.codes.begin(), a.codes.end(), m.code) != a.codes.end();
            }))
            out.push_back(m);
    return out;
}

double age_between(const std::string& birth_date, const std::string& day)
{
    using namespace std::chrono;
    const auto parse = [](const std::string& text) {
        int y = 0;
        unsigned m = 0, d = 0;
        if (std::sscanf(text.c_str(), "%d-%u-%u", &y, &m, &d) != 3) return year_month_day{};
        return year{y} / month{m} / std::chrono::day{d};
    };
    const year_month_day born = parse(birth_date), now = parse(day);
    if (!born.ok() || !now.ok()) return NAN;
    // 29 February has its birthday on 1 March in common years
    const auto birthday = [&](year y) {
        const year_month_day b = y / born.month() / born.day();
        return b.ok() ? sys_days{b} : sys_days{y / March / 1};
    };
    int years = int(now.year()) - int(born.year());
    if (sys_days{now} < birthday(now.year())) --years;
    const sys_days last = birthday(born.year() + std::chrono::years{years}),
                   next = birthday(born.year() + std::chrono::years{years + 1});
    return years + static_cast<double>((sys_days{now} - last).count()) / static_cast<double>((next - last).count());
}

} // namespace fusain::bench

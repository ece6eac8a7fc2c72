// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/practice/drill_runner.h"

#include "bench/analyser/analyser.h"
#include "bench/chamber/chamber.h"
#include "bench/files/tissue_table.h"
#include "bench/methods.h"
#include "bench/tank/tank_take.h"
#include "bench/xray/xray_take.h"
#include "core/air_and_water/water.h"
#include "core/density/density.h"
#include "core/density/displacement.h"
#include "core/density/hydrostatic.h"
#include "report/reading/reading_words.h"
#include "virtual/table/xray_table.h"

#include <algorithm>
#include <cmath>

namespace fusain::desk {
namespace {

using bench::Json, bench::Task;

constexpr double good_air_l = 0.06; ///< less than that left is a good breath out
constexpr double gut_gas_l = 0.100; ///< as the stand-in's bodies have it
constexpr double drill_water_c = 34.6;
constexpr double usual_error = 3; ///< of percent fat
constexpr int poll_ms = 40, silent_ms = 3000;

double fat_percent_of(double density) { return 495 / density - 450; } // Siri 1961, exact for these bodies

/// Percent fat by weighing under water: what a reading of so many kilograms makes of this body.
double fat_under_water(const bench::DrillItem& body, double underwater_kg, double water_c)
{
    const double volume = hydrostatic::body_volume_l(
        body.mass_kg(), underwater_kg, water::density_tanaka_2001(water_c), body.residual_volume_l, gut_gas_l);
    return fat_percent_of(body.mass_kg() / volume);
}

QString fat_words(double percent)
{
    return QStringLiteral("%1%2 % fat")
        .arg(percent < 0 ? QStringLiteral("−") : QStringLiteral("+"))
        .arg(std::abs(percent), 0, 'f', std::abs(percent) < 0.095 ? 2 : 1);
}

QString kg(double v, int decimals = 3) { return Units::get().text(Measure::mass, v, decimals); }

QString choice_words(const std::vector<bench::DrillChoice>& all, const std::string& id)
{
    QString words = q(id);
    for (const auto& c : all)
        if (c.id == id) words = q(c.words);
    while (words.endsWith('.')) words.chop(1);
    return words;
}

/// How far a string lies from another, mean distance sideways (or up and down) over its height.
double mean_mm(const xray::Polyline& a, const xray::Polyline& b)
{
    if (a.empty() || b.empty()) return 0;
    const double from = std::max(a.front().y_mm, b.front().y_mm), to = std::min(a.back().y_mm, b.back().y_mm);
    if (!(to > from)) return 0;
    double sum = 0;
    constexpr int steps = 40;
    for (int i = 0; i <= steps; ++i) {
        const double y = from + (to - from) * i / steps;
        sum += std::abs(xray::x_at(a, y) - xray::x_at(b, y));
    }
    return sum / (steps + 1);
}

} // namespace

DrillRunner::DrillRunner(work::Lab& lab, work::Session& session, DemoRoom& room, DrillStrip& strip, QObject* parent)
    : QObject(parent), lab_(lab), session_(session), room_(room), strip_(strip)
{
    connect(&session_, &work::Session::cue, &room_, &DemoRoom::direct);
    connect(&session_, &work::Session::changed, this, &DrillRunner::on_changed);
    connect(&session_, &work::Session::stored, this, &DrillRunner::on_stored);
    connect(&room_, &DemoRoom::answered, this, &DrillRunner::on_truth);
    connect(&strip_, &DrillStrip::number, this, &DrillRunner::take_number);
    connect(&strip_, &DrillStrip::chosen, this, &DrillRunner::take_choice);
    connect(&strip_, &DrillStrip::done, this, &DrillRunner::take_done);
    connect(&strip_, &DrillStrip::next, this, [this] {
        if (!run_ || !told_) return;
        if (++item_ < static_cast<int>(drill_.items.size())) return set_item();
        if (const auto why = work::end_drill(*lab_.store, run_, who_)) emit trouble(q(why->text));
        strip_.hide();
        emit over(std::exchange(run_, 0));
    });
    connect(&strip_, &DrillStrip::given_up, this, [this] {
        if (!run_) return;
        if (session_.live().trial) session_.throw_out(session_.live().trial, QStringLiteral("practice left"));
        if (const auto why = work::give_up_drill(*lab_.store, run_, who_)) emit trouble(q(why->text));
        todo_.clear();
        asking_ = false;
        strip_.hide();
        emit over(std::exchange(run_, 0));
    });
    poll_.setInterval(poll_ms);
    connect(&poll_, &QTimer::timeout, this, &DrillRunner::on_changed);
}

DrillRunner::~DrillRunner() = default;

std::optional<Message> DrillRunner::begin(const bench::Drill& drill, const QString& who, long run)
{
    if (who.isEmpty())
        return Message{"missing_field", Level::error, "technician", "Say who practises first: at the top right."};
    item_ = 0;
    if (run) {
        for (const work::DrillRun& r : work::drill_runs(*lab_.store))
            if (r.id == run) item_ = std::min(r.next_item(), static_cast<int>(drill.items.size()) - 1);
    } else {
        const auto begun = work::begin_drill(*lab_.store, drill, who);
        if (!begun) return begun.messages().front();
        run = *begun;
    }
    drill_ = drill;
    who_ = who;
    run_ = run;
    set_item();
    return std::nullopt;
}

void DrillRunner::act(const std::string& kind, Json body)
{
    todo_.push_back([this, kind, body = std::move(body)] { session_.act(kind, body); });
}

/// Everything of the item before is put away, then the stage is set piece by piece: each waits until the one before is
/// on the disk.
void DrillRunner::set_item()
{
    asking_ = told_ = staged_ = false;
    target_ = nullptr;
    with_truth_ = nullptr;
    if (scanning_.valid()) scans_left_.push_back(std::exchange(scanning_, {}));
    if (reading_.valid()) readings_left_.push_back(std::exchange(reading_, {}));
    answered_.reset();
    series_.reset();
    history_.reset();
    scanned_.reset();
    air_left_l_.clear();
    todo_.clear();
    strip_.getting_ready(QStringLiteral("PRACTICE  ·  %1  ·  the next body is on its way …").arg(q(drill_.title)));
    if (session_.live().trial) session_.throw_out(session_.live().trial, QStringLiteral("practised"));
    if (session_.is_open() && !session_.visit().ended()) act("given_up", {{"reason", "practised"}});
    session_.set_by_eye(drill_.task == Task::read_swing || drill_.task == Task::choose_runs);
    todo_.push_back([this] { stage(); });
    poll_.start();
    on_changed();
}

void DrillRunner::stage()
{
    const bench::DrillItem& it = item();
    for (const QString& fault : std::exchange(faults_on_, {})) room_.direct(QStringLiteral("fault %1 off").arg(fault));
    room_.direct(QStringLiteral("seed %1").arg(it.seed));
    room_.direct(QStringLiteral("client %1").arg(q(it.body)));
    for (const std::string& fault : it.faults) {
        faults_on_.insert(q(fault));
        room_.direct(QStringLiteral("fault %1 on").arg(q(fault)));
    }
    records::Client c;
    c.given_name = QStringLiteral("Practice");
    c.family_name = QStringLiteral("Body %1-%2").arg(run_).arg(item_ + 1);
    c.sex = it.sex;
    c.height_cm = it.height_cm;
    const QDate born = lab_.today().addDays(-static_cast<qint64>(std::round(it.age_y * 365.25)));
    c.birth_date = born.toString(Qt::ISODate);
    c.consent_on = lab_.today().toString(Qt::ISODate);
    const auto kept = lab_.store->save(c);
    if (!kept) return emit trouble(q(kept.messages().front().text));
    client_ = kept->id;
    if (drill_.task == Task::screen) return screen();
    if (drill_.task == Task::talk) return tell_tests();
    if (drill_.task == Task::place_lines) return scan();
    begin_visit(drill_.method);
}

void DrillRunner::begin_visit(protocol::Method method)
{
    const auto client = lab_.store->client(client_);
    const bench::DrillItem& it = item();
    std::string serial;
    Json more = {{"house", Json::object()}, {"licensed", {who_.toStdString()}}, {"rated_mass_kg", 200}};
    for (const auto& i : lab_.diary->instruments())
        if (bench::row(i.kind).method == method) {
            more["instrument"] = i.serial.toStdString();
            more["profile"] = i.profile.toStdString();
            more["reference"] = i.reference;
        }
    if (const auto why = session_.start(*client, who_, method, more,
            Json{{"stop", Json::array()}, {"noted", Json::array()}, {"protocol", "practice"}}))
        return emit trouble(q(why->text));
    act("identity", {{"cm", it.height_cm}});
    act("mass", {{"kg", it.mass_kg()}, {"source", "typed"}});
    const auto all_of = [](const auto& rows) {
        Json out = Json::array();
        for (const auto& row : rows) out.push_back(row.noted);
        return out;
    };
    if (method == protocol::Method::hydrostatic) {
        target_ = bench::step::trials;
        act("lungs", {{"route", "measured"}, {"rv_l", it.residual_volume_l}});
        room_.direct(QStringLiteral("hang"));
        // the zero is taken as the stand-in has it now: with or without the belt
        todo_.push_back([this] {
            with_truth_ = [this] {
                session_.act("zero", {{"kg", truth_["zero_kg"]}, {"sd_kg", 0.004}, {"source", "typed"}});
                session_.act("water", {{"c", truth_["water_c"]}, {"source", "typed"}});
            };
            room_.ask_tank(QStringLiteral("truth"));
        });
    } else if (method == protocol::Method::impedance) {
        target_ = bench::step::spectrum;
        act("stance", {{"seen", all_of(bench::stance_rows())}, {"left_out", Json::array()}});
    } else if (method == protocol::Method::air_displacement) {
        target_ = drill_.task == Task::choose_runs ? bench::step::runs : bench::step::calibrate;
        act("prepared",
            {{"seen", {"told about the chamber", "pressed the release button"}}, {"left_out", Json::array()}});
        if (drill_.task == Task::choose_runs) {
            act("self_calibrated", {{"source", "typed"}});
            virt::Body body = virt::parse_body(it.body);
            for (const double off : it.runs_off_l)
                act("trial_typed", {{"what", bench::take::run}, {"source", "typed"}, {"l", body.raw_volume_l() + off}});
        }
    } else {
        target_ = bench::step::lines;
        act("lying", {{"seen", all_of(bench::lying_rows())}, {"left_out", Json::array()}});
    }
    todo_.push_back([this] { staged_ = true; });
}

/// Also every few milliseconds while something is awaited.
void DrillRunner::on_changed()
{
    if (!run_) return;
    if (scanning_.valid() && scanning_.wait_for(std::chrono::seconds(0)) == std::future_status::ready) {
        scanned_ = std::make_shared<std::pair<virt::TrueMap, xray::Map>>(scanning_.get());
        begin_visit(drill_.method);
        todo_.pop_back(); // not staged before the map is there
        reading_ = std::async(std::launch::async, [scanned = scanned_] {
            return bench::read_map(scanned->second, virt::stand_in_table(), xray::Half::none);
        });
    }
    while (!todo_.empty() && !session_.has_unwritten() && !with_truth_ && !scanning_.valid()) {
        const auto next = std::move(todo_.front());
        todo_.pop_front();
        next();
    }
    if (reading_.valid() && todo_.empty() && !session_.has_unwritten() &&
        reading_.wait_for(std::chrono::seconds(0)) == std::future_status::ready) {
        auto read = reading_.get();
        if (!read) return emit trouble(q(read.messages().front().text));
        const auto table = bench::shipped_table("stand_in_table_1");
        // the strings lie beside their places at first
        std::mt19937_64 random(static_cast<std::uint64_t>(item().seed));
        std::uniform_real_distribution<double> side(-1, 1);
        xray::Scan off = *read;
        const double mm = item().displaced_mm;
        off.lines.neck_mm += mm * side(random);
        off.lines.pelvis_mm += mm * side(random);
        for (const xray::LineRow& row : xray::line_rows) {
            const double by = mm * 0.5 * side(random);
            for (xray::Spot& s : off.lines.*row.line) s.x_mm += by;
        }
        if (!xray::check(off.lines, scanned_->first.dx_mm * static_cast<double>(scanned_->second.columns()),
                scanned_->first.dy_mm * static_cast<double>(scanned_->second.rows()))
                 .empty())
            off.lines = read->lines;
        off.regions = xray::regions(off.made_of, off.lines);
        Json body = bench::json_of(off, read.messages(), table->table, xray::Half::none, scanned_->second.columns());
        body.update({{"what", bench::take::scan}, {"source", "file"}, {"file", "practice.dcm"},
            {"sha256", std::string(64, '0')}});
        session_.bring(body, bench::signal_of(scanned_->second));
        staged_ = true;
    }
    if (staged_ && !asking_ && !told_ && todo_.empty() && !session_.has_unwritten() && !with_truth_ &&
        (!target_ || session_.visit().next_step() == target_ || drill_.task == Task::choose_runs))
        ready();
}

void DrillRunner::ready()
{
    poll_.stop();
    asking_ = true;
    strip_.ask(drill_, item_, choices());
    clock_.start();
    if (target_)
        emit show_bench(target_);
    else
        emit show_stage();
}

std::vector<bench::DrillChoice> DrillRunner::choices() const
{
    if (drill_.task == Task::screen) {
        std::vector<bench::DrillChoice> out;
        for (const protocol::Verdict v :
            {protocol::Verdict::go, protocol::Verdict::noted, protocol::Verdict::another_day, protocol::Verdict::no})
            out.push_back({v == protocol::Verdict::go ? practice::none : protocol::word(v), protocol::title(v)});
        return out;
    }
    if (drill_.task != Task::choose_runs) return drill_.choices;
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

void DrillRunner::on_stored(const bench::Event& e)
{
    if (!run_ || !asking_) return;
    if (drill_.task == Task::coach && (e.kind == "trial_taken" || e.kind == "trial_thrown_out")) {
        const int number = e.body.value("number", static_cast<int>(session_.visit().trials.size()));
        if (air_left_l_.count(number)) return;
        with_truth_ = [this, number] { air_left_l_[number] = truth_["air_left_l"]; };
        room_.ask_tank(QStringLiteral("truth"));
    }
    if (drill_.task == Task::place_lines && e.kind == "lines") take_done();
}

void DrillRunner::on_truth(const QString& words)
{
    if (!words.startsWith(QStringLiteral("truth ")) || !with_truth_) return;
    for (const QString& one : words.split(' ').mid(1))
        truth_[one.section('=', 0, 0).toStdString()] = one.section('=', 1).toDouble();
    std::exchange(with_truth_, nullptr)();
    on_changed();
}

/// The questions of the method with this client's answers, as the screening would have them.
void DrillRunner::screen()
{
    const bench::DrillItem& it = item();
    answered_.emplace();
    Answered& out = *answered_; // the questions stand in its book
    out.book = lab_.rules.book();
    const protocol::Book& book = out.book;
    screening::Person person;
    person.sex = it.sex;
    person.age_y = it.age_y;
    person.consent = it.consent;
    const screening::Part parts[] = {{drill_.method, 0}};
    const protocol::HouseRules house = lab_.rules.house();
    out.questions = screening::questions(book, house, person, parts);
    out.answers = it.answers;
    // what the drill says nothing of is as the rule wants it
    for (const protocol::Question* question : out.questions) {
        if (out.answers.count(question->id)) continue;
        screening::Answer a;
        if (question->ask == protocol::Ask::clock) a.never = true;
        if (question->ask == protocol::Ask::yes_no) a.yes = false;
        if (question->ask == protocol::Ask::number) a.number = 0;
        out.answers[question->id] = a;
    }
    const auto verdicts = screening::screen(book, house, person, parts, out.answers);
    if (verdicts.empty())
        return answered_.reset(), emit trouble(QStringLiteral("The protocol of this method cannot be read."));
    out.verdict = verdicts.front();
    staged_ = true;
}

/// The tests of a client who comes again, written as their logs would stand, and the change between the last two.
void DrillRunner::tell_tests()
{
    const auto client = lab_.store->client(client_);
    std::string serial, method = protocol::word(drill_.method);
    for (const auto& i : lab_.diary->instruments())
        if (bench::row(i.kind).method == drill_.method) serial = i.serial.toStdString();
    std::vector<records::Store::Whole> all;
    for (const bench::DrillTest& t : item().tests) {
        const QDateTime at(
            lab_.today().addDays(-static_cast<qint64>(t.days_ago)), QTime(t.hour, 0), lab_.diary->zone());
        const std::string utc = at.toUTC().toString(Qt::ISODateWithMs).toStdString();
        const double mass = t.fat_kg + t.fat_free_kg;
        long seq = 0;
        const auto event = [&](const char* kind, Json body) {
            return bench::Event{++seq, utc, who_.toStdString(), kind, std::move(body)};
        };
        records::Store::Whole whole{client_, {}};
        whole.events.push_back(event("started",
            {{"log", 2}, {"client_id", client_}, {"number", client->number.toStdString()},
                {"name", client->full_name().toStdString()}, {"birth_date", client->birth_date.toStdString()},
                {"sex", fusain::word(client->sex)}, {"height_cm", client->height_cm}, {"method", method},
                {"zone", lab_.diary->zone().id().toStdString()},
                {"local", at.toString(QStringLiteral("yyyy-MM-ddTHH:mm")).toStdString()}, {"told_elsewhere", true},
                {"instrument", t.other_instrument ? serial + "-B" : serial}}));
        whole.events.push_back(event("mass", {{"kg", mass}, {"source", "file"}}));
        whole.events.push_back(
            event("brought", {{"values", {{"fat_percent", 100 * t.fat_kg / mass}}}, {"u_fat_percent", usual_error},
                                 {"u_told", false}, {"file", "practice"}, {"sha256", std::string(64, '0')}, {"line", 1},
                                 {"equations", "practice"}, {"hour_known", true}}));
        whole.events.push_back(event("finished", Json::object()));
        all.push_back(std::move(whole));
    }
    if (const auto why = lab_.store->add_whole(all)) return emit trouble(q(why->text));
    history_ = std::make_unique<work::History>(work::History::of(lab_, client_));
    series_ = history_->series(quantity::fat_percent, method);
    if (!series_ || series_->points.size() < 2)
        return emit trouble(QStringLiteral("The tests of this drill cannot be told."));
    staged_ = true;
}

void DrillRunner::scan()
{
    const virt::Body body = virt::parse_body(item().body);
    scanning_ = std::async(std::launch::async, [body, seed = static_cast<unsigned>(item().seed)] {
        std::mt19937_64 random(seed);
        const xray::Table table = virt::stand_in_table();
        auto lying = virt::lie_down(
            body, virt::posture_of(body, random), table.field_width_mm, table.field_height_mm, virt::scan_pixel_mm);
        auto map = virt::scan(lying, table, {}, {}, seed);
        return std::pair{std::move(lying), std::move(map)};
    });
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
        const double cost = fat_under_water(item(), given, water) - fat_under_water(item(), truth, water);
        work::DrillAnswer a;
        a.item = item_;
        a.seconds = took;
        a.numbers = {{given, truth, reader, item().same_as, took}};
        a.cost = fat_words(cost);
        session_.throw_out(session_.live().trial, QStringLiteral("practised"));
        end_item(a,
            QStringLiteral("You read %1; it truly was %2%3. %4 kg off: %5 on this body.")
                .arg(kg(given), kg(truth), reader ? QStringLiteral(", the reader had %1").arg(kg(*reader)) : QString(),
                    QString::number(given - truth, 'f', 3).replace('-', QChar(0x2212)), a.cost),
            !drill_.pass.rms || std::abs(given - truth) <= *drill_.pass.rms);
    };
    room_.ask_tank(QStringLiteral("truth"));
    QTimer::singleShot(silent_ms, this, [this, run = run_, at = item_] {
        if (with_truth_ && run == run_ && at == item_)
            strip_.hint(QStringLiteral("The virtual tank does not answer: leave the drill (F12) and begin it again."));
    });
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
    switch (drill_.task) {
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
            const double volume = item().fat_kg / 0.9007 + item().fat_free_kg / 1.1;
            a.cost = fat_words(
                fat_percent_of(item().mass_kg() / (volume + mean)) - fat_percent_of(item().mass_kg() / volume));
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
    if (how == practice::Called::wrongly && drill_.task == Task::find_fault)
        a.cost = QStringLiteral("a good measurement thrown out, and a client who waits longer");
    if (right && drill_.task != Task::choose_runs) a.cost.clear();
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
    if (drill_.task == Task::coach) {
        const auto off = fat_off();
        if (!session_.visit().result() || !off)
            return strip_.hint(QStringLiteral("There is no result yet: fewer than three trials agree."));
        asking_ = false;
        int good = 0, bad = 0;
        for (const bench::Trial& t : session_.visit().trials) {
            const auto air = air_left_l_.find(t.number);
            if (air == air_left_l_.end()) continue;
            const bool taken = t.status == bench::Trial::Status::taken, well = air->second < good_air_l;
            a.calls.push_back({taken ? practice::none : "air", well ? practice::none : "air", 0});
            good += taken && well;
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
            !drill_.pass.bias || std::abs(*off) <= *drill_.pass.bias);
    }
    if (drill_.task != Task::place_lines || !scanned_) return;
    const bench::LinesSeen* seen = bench::xray_of(session_.visit()).lines(session_.visit());
    if (!seen) return;
    asking_ = false;
    const xray::Lines& truth = scanned_->first.lines;
    const auto add = [&](double mm) { a.numbers.push_back({mm, 0, {}, -1, a.seconds}); };
    add(std::abs(seen->lines.neck_mm - truth.neck_mm));
    add(std::abs(seen->lines.pelvis_mm - truth.pelvis_mm));
    for (const xray::LineRow& row : xray::line_rows) add(mean_mm(seen->lines.*row.line, truth.*row.line));
    const xray::Regions by_truth = scanned_->first.regions(truth), by_hand = scanned_->first.regions(seen->lines);
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
        !drill_.pass.rms || mark.rms <= *drill_.pass.rms);
}

void DrillRunner::end_item(work::DrillAnswer answer, const QString& words, bool good)
{
    asking_ = false;
    told_ = true;
    if (const auto why = work::keep_answer(*lab_.store, run_, answer, who_)) emit trouble(q(why->text));
    strip_.tell(words, good, item_ + 1 == static_cast<int>(drill_.items.size()));
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
// The stage of a drill: body, faults and the steps before, up to where the trainee takes over.
#include "desk/practice/drill_runner.h"

#include "bench/brought/brought_events.h"
#include "bench/files/tissue_table.h"
#include "bench/xray/xray_take.h"
#include "bench/files/scan_file.h"
#include "desk/bench/method_desk.h"
#include "work/xray/beam.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <random>

namespace fusain::desk {
namespace {

namespace event = bench::event;
using bench::Task;

constexpr double usual_error = 3; ///< of percent fat
constexpr int exposure_ms = 30000;

/// The answer to a yes-or-no question that is outside the rule.
bool outside(const protocol::Protocol& protocol, const std::string& question)
{
    const auto rule = std::find_if(
        protocol.rules.begin(), protocol.rules.end(), [&](const protocol::Rule& r) { return r.question == question; });
    return rule == protocol.rules.end() || rule->outside;
}

std::string bytes_of(const std::string& file)
{
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

/// A scan from its file, as the program reads it, beside the lines as they truly are.
Outcome<DrillRunner::Scanned> scanned(const std::string& file)
{
    using Read = Outcome<DrillRunner::Scanned>;
    auto scan = bench::read_scan(bytes_of(file), file);
    if (!scan) return Read::refuse(scan.messages());
    auto truth = bench::read_lines(bytes_of(file + ".lines.json"), file);
    if (!truth) return Read::refuse(truth.messages());
    const auto table = bench::shipped_table("stand_in_table_1");
    auto read = bench::read_map(scan->map, table->table, xray::Half::none);
    if (!read) return Read::refuse(read.messages());
    const Messages cautions = read.messages();
    return DrillRunner::Scanned{std::move(scan).take().map, std::move(read).take(), cautions, std::move(truth).take()};
}

} // namespace

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
    if (drill_->task == Task::screen) return screen();
    if (drill_->task == Task::talk) return tell_tests();
    if (drill_->task == Task::place_lines) return scan();
    begin_visit(drill_->method);
}

void DrillRunner::begin_visit(Method method)
{
    const auto client = lab_.store->client(client_);
    const bench::DrillItem& it = item();
    work::Beginning with;
    for (const auto& i : lab_.diary->instruments())
        if (i.kind->method == method) {
            with.started.instrument = i.serial.toStdString();
            with.started.profile = i.profile.toStdString();
            with.started.reference = i.reference;
            with.of_method = work::begun_by_beam(lab_, *client, i);
        }
    event::Stops stops;
    stops.protocol = "practice";
    if (const auto why = session_.start(*client, who_, method, with, stops)) return emit trouble(q(why->text));
    act(event::Identity{it.height_cm});
    act(event::Mass{it.mass_kg(), "typed"});
    const auto set = desk_of(method).set_drill;
    if (!set)
        return emit trouble(
            QStringLiteral("By %1 there are no drills at the bench.").arg(QString::fromLatin1(method->title)));
    const auto with_truth = [this](const QString& stand_in, std::function<std::vector<bench::Act>(const Truth&)> then) {
        todo_.push_back([this, stand_in, then = std::move(then)] {
            with_truth_ = [this, stand_in, then] {
                try {
                    for (const bench::Act& one : then(truth_)) session_.act(one);
                } catch (const std::out_of_range&) {
                    emit trouble(QStringLiteral("The virtual %1 does not say how it truly is.").arg(stand_in));
                }
            };
            ask_truth(stand_in);
        });
    };
    target_ = set({it, drill_->task, [this](bench::Act what) { act(std::move(what)); },
        [this](const QString& words) { room_.direct(words); }, with_truth});
    todo_.push_back([this] { staged_ = true; });
}

/// The questions of the method with this client's answers, as the screening would have them.
void DrillRunner::screen()
{
    const bench::DrillItem& it = item();
    answered_.emplace(Answered{{}, {}, {}, {drill_->method}});
    Answered& out = *answered_; // the questions stand in its book
    out.book = lab_.rules.book();
    const protocol::Book& book = out.book;
    screening::Person person;
    person.sex = it.sex;
    person.age_y = it.age_y;
    person.consent = it.consent;
    const screening::Part parts[] = {{drill_->method, 0}};
    const protocol::HouseRules house = lab_.rules.house();
    out.questions = screening::questions(book, house, person, parts);
    out.answers = it.answers;
    // what the drill says nothing of is as the rule wants it
    for (const protocol::Question* question : out.questions) {
        if (out.answers.count(question->id)) continue;
        screening::Answer a;
        if (question->ask == protocol::Ask::clock) a.never = true;
        if (question->ask == protocol::Ask::yes_no) a.yes = !outside(*book.protocol(drill_->method), question->id);
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
    std::string serial, method = drill_->method->word;
    for (const auto& i : lab_.diary->instruments())
        if (i.kind->method == drill_->method) serial = i.serial.toStdString();
    std::vector<records::Store::Whole> all;
    for (const bench::DrillTest& t : item().tests) {
        const QDateTime at(
            lab_.today().addDays(-static_cast<qint64>(t.days_ago)), QTime(t.hour, 0), lab_.diary->zone());
        const std::string utc = at.toUTC().toString(Qt::ISODateWithMs).toStdString();
        const double mass = t.fat_kg + t.fat_free_kg;
        long seq = 0;
        const auto add = [&](records::Store::Whole& to, const bench::Act& act) {
            to.events.push_back(bench::logged({++seq, utc, who_.toStdString()}, act));
        };
        event::Started begun = records::beginning_of(*client, drill_->method);
        begun.log = 3;
        begun.zone = lab_.diary->zone().id().toStdString();
        begun.local = at.toString(QStringLiteral("yyyy-MM-ddTHH:mm")).toStdString();
        begun.told_elsewhere = true;
        begun.instrument = t.other_instrument ? serial + "-B" : serial;
        event::Brought brought{{"practice", std::string(64, '0')}};
        brought.values = {{"fat_percent", 100 * t.fat_kg / mass}};
        brought.u_fat_percent = usual_error;
        brought.line = 1;
        brought.equations = "practice";
        records::Store::Whole whole{client_, {}};
        add(whole, begun);
        add(whole, event::Mass{mass, "file"});
        add(whole, brought);
        add(whole, event::Finished{});
        all.push_back(std::move(whole));
    }
    if (const auto why = lab_.store->add_whole(all)) return emit trouble(q(why->text));
    history_ = std::make_unique<work::History>(work::History::of(lab_, client_));
    series_ = history_->series(quantity::fat_percent, method);
    if (!series_ || series_->points.size() < 2)
        return emit trouble(QStringLiteral("The tests of this drill cannot be told."));
    staged_ = true;
}

/// The table scans the body in its own time, into a file beside which the true lines lie.
void DrillRunner::scan()
{
    exposure_ = std::make_unique<QTemporaryDir>();
    exposed_ = false;
    room_.ask(QStringLiteral("table"),
        QStringLiteral("expose %1 %2").arg(item().seed).arg(exposure_->filePath(QStringLiteral("practice.dcm"))));
    patience_.start_once(exposure_ms);
}

/// The body has been scanned: a visit for it, and its map is read.
void DrillRunner::look_at_scan()
{
    if (!exposure_ || exposed_) return;
    const QString file = exposure_->filePath(QStringLiteral("practice.dcm"));
    if (!QFile::exists(file + QStringLiteral(".lines.json"))) return; // written last
    exposed_ = true;
    patience_.stop();
    begin_visit(drill_->method);
    todo_.pop_back(); // not staged before the map is there
    reading_ = std::async(std::launch::async, [file = file.toStdString()] { return scanned(file); });
}

/// The map has been read: it comes to the visit as a file would, with its strings beside their places.
void DrillRunner::look_at_reading()
{
    if (!reading_.valid() || !todo_.empty() || session_.has_unwritten() ||
        reading_.wait_for(std::chrono::seconds(0)) != std::future_status::ready)
        return;
    auto read = reading_.get();
    exposure_.reset();
    if (!read) return emit trouble(q(read.messages().front().text));
    scanned_ = std::move(read).take();
    const xray::Map& map = scanned_->map;
    const auto table = bench::shipped_table("stand_in_table_1");
    std::mt19937_64 random(static_cast<std::uint64_t>(item().seed));
    std::uniform_real_distribution<double> side(-1, 1);
    xray::Scan off = scanned_->read;
    const double mm = item().displaced_mm;
    off.lines.neck_mm += mm * side(random);
    off.lines.pelvis_mm += mm * side(random);
    for (const xray::LineRow& row : xray::line_rows) {
        const double by = mm * 0.5 * side(random);
        for (xray::Spot& s : off.lines.*row.line) s.x_mm += by;
    }
    const bool in_place = xray::check(
        off.lines, map.dx_mm * static_cast<double>(map.columns()), map.dy_mm * static_cast<double>(map.rows()))
                              .empty();
    if (!in_place) off.lines = scanned_->read.lines;
    off.regions = xray::regions(off.made_of, off.lines);
    event::ScanTyped typed;
    static_cast<bench::ScanTaken&>(typed) =
        bench::scan_taken(off, scanned_->cautions, table->table, xray::Half::none, map.columns());
    typed.what = bench::take::scan;
    typed.source = "file";
    typed.file = "practice.dcm";
    typed.sha256 = std::string(64, '0');
    session_.bring(typed, bench::signal_of(map));
    staged_ = true;
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/practice/drill_runner.h"

#include <algorithm>

namespace fusain::desk {
namespace {

using bench::Task;

constexpr int poll_ms = 40, silent_ms = 3000;

} // namespace

DrillRunner::DrillRunner(work::Lab& lab, work::Session& session, StandIns& room, DrillStrip& strip, QObject* parent)
    : QObject(parent), lab_(lab), session_(session), room_(room), strip_(strip), asked_at_(session.clock()),
      poll_(session.clock(), this), patience_(session.clock(), this)
{
    connect(&session_, &work::Session::cue, &room_, &StandIns::direct);
    connect(&session_, &work::Session::changed, this, &DrillRunner::on_changed);
    connect(&session_, &work::Session::stored, this, &DrillRunner::on_stored);
    connect(&room_, &StandIns::answered, this, &DrillRunner::on_truth);
    connect(&strip_, &DrillStrip::number, this, &DrillRunner::take_number);
    connect(&strip_, &DrillStrip::chosen, this, &DrillRunner::take_choice);
    connect(&strip_, &DrillStrip::done, this, &DrillRunner::take_done);
    connect(&strip_, &DrillStrip::next, this, [this] {
        if (!run_ || !told_) return;
        if (++item_ < static_cast<int>(drill_->items.size())) return set_item();
        end_run();
    });
    connect(&strip_, &DrillStrip::given_up, this, [this] {
        if (!run_) return;
        if (session_.live().trial) session_.throw_out(session_.live().trial, QStringLiteral("practice left"));
        end_run();
    });
    connect(&poll_, &bench::Beat::due, this, &DrillRunner::on_changed);
    connect(&patience_, &bench::Beat::due, this, [this] {
        if (with_truth_ || exposure_)
            strip_.hint(
                QStringLiteral("The virtual instrument does not answer: leave the drill (F12) and begin it again."));
    });
}

DrillRunner::~DrillRunner() = default;

std::optional<Message> DrillRunner::begin(const bench::Drill& drill, const QString& who, long run)
{
    if (who.isEmpty())
        return Message{"missing_field", Level::error, "technician", "Say who practises first: at the top right."};
    item_ = 0;
    told_ = false;
    if (run) {
        for (const work::DrillRun& r : work::drill_runs(*lab_.store))
            if (r.id == run) item_ = r.next_item();
    } else {
        const auto begun = work::begin_drill(*lab_.store, drill, who);
        if (!begun) return begun.messages().front();
        run = *begun;
    }
    drill_ = drill;
    who_ = who;
    run_ = run;
    if (item_ >= static_cast<int>(drill_->items.size()))
        end_run(); // it ended between the last answer and its marks
    else
        set_item();
    return std::nullopt;
}

/// With its marks where every item has its answer; else it is given up.
void DrillRunner::end_run()
{
    const bool whole = item_ + (told_ ? 1 : 0) >= static_cast<int>(drill_->items.size());
    const auto why = whole ? work::end_drill(*lab_.store, run_, who_) : work::give_up_drill(*lab_.store, run_, who_);
    if (why) emit trouble(q(why->text));
    todo_.clear();
    asking_ = told_ = false;
    strip_.hide();
    emit over(std::exchange(run_, 0));
}

void DrillRunner::act(bench::Act what)
{
    todo_.push_back([this, what = std::move(what)] { session_.act(what); });
}

/// Everything of the item before is put away, then the stage is set piece by piece: each waits until the one before is
/// on the disk.
void DrillRunner::set_item()
{
    asking_ = told_ = staged_ = false;
    target_ = nullptr;
    with_truth_ = nullptr;
    exposure_.reset();
    exposed_ = false;
    if (reading_.valid()) readings_left_.push_back(std::exchange(reading_, {}));
    answered_.reset();
    series_.reset();
    history_.reset();
    scanned_.reset();
    air_left_l_.clear();
    todo_.clear();
    strip_.getting_ready(QStringLiteral("PRACTICE  ·  %1  ·  the next body is on its way …").arg(q(drill_->title)));
    if (session_.live().trial) session_.throw_out(session_.live().trial, QStringLiteral("practised"));
    if (session_.is_open() && !session_.visit().ended()) act(bench::event::GivenUp{"practised"});
    session_.set_by_eye(drill_->task == Task::read_swing || drill_->task == Task::choose_runs);
    todo_.push_back([this] { stage(); });
    poll_.start(poll_ms);
    on_changed();
}

/// Also every few milliseconds while something is awaited.
void DrillRunner::on_changed()
{
    if (!run_) return;
    look_at_scan();
    while (!todo_.empty() && !session_.has_unwritten() && !with_truth_ && (!exposure_ || exposed_)) {
        const auto next = std::move(todo_.front());
        todo_.pop_front();
        next();
    }
    look_at_reading();
    if (staged_ && !asking_ && !told_ && todo_.empty() && !session_.has_unwritten() && !with_truth_ &&
        (!target_ || session_.visit().next_step() == target_ || drill_->task == Task::choose_runs))
        ready();
}

void DrillRunner::ready()
{
    poll_.stop();
    asking_ = true;
    strip_.ask(*drill_, item_, choices());
    asked_at_.restart();
    if (target_)
        emit show_bench(target_);
    else
        emit show_stage();
}

void DrillRunner::on_stored(const bench::Event& e)
{
    if (!run_ || !asking_) return;
    if (e.is<bench::event::GivenUp>()) return end_run();
    if (drill_->task == Task::coach && (e.is<bench::event::TrialTaken>() || e.is<bench::event::TrialThrownOut>())) {
        const auto said = bench::read<bench::event::TrialTaken>(e.body); // either names its trial
        const int number = said && said->number ? *said->number : static_cast<int>(session_.visit().trials.size());
        if (air_left_l_.count(number)) return;
        with_truth_ = [this, number] { air_left_l_[number] = truth_["air_left_l"]; };
        ask_truth(QStringLiteral("tank"));
    }
    if (drill_->task == Task::place_lines && e.is<bench::event::Lines>()) take_done();
}

/// `with_truth_` is done when it has come.
void DrillRunner::ask_truth(const QString& instrument)
{
    room_.ask(instrument, QStringLiteral("truth"));
    patience_.start_once(silent_ms);
}

void DrillRunner::on_truth(const QString& words)
{
    if (!words.startsWith(QStringLiteral("truth ")) || !with_truth_) return;
    for (const QString& one : words.split(' ').mid(1))
        truth_[one.section('=', 0, 0).toStdString()] = one.section('=', 1).toDouble();
    std::exchange(with_truth_, nullptr)();
    on_changed();
}

} // namespace fusain::desk

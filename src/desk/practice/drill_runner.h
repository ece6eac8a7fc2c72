// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/stage/stand_ins.h"
#include "desk/practice/drill_strip.h"
#include "work/practice/practice.h"
#include "work/reading/history.h"
#include "core/xray/scan.h"

#include <QTemporaryDir>

#include <deque>
#include <future>

namespace fusain::desk {

/// Leads through a drill: sets each item's stage on the real session and the virtual instruments, takes the answer,
/// asks the stand-in for the truth, and keeps both.
class DrillRunner : public QObject {
    Q_OBJECT
public:
    DrillRunner(work::Lab& lab, work::Session& session, StandIns& room, DrillStrip& strip, QObject* parent = nullptr);
    ~DrillRunner() override;
    /// From the first item, or on from where a run was left.
    [[nodiscard]] std::optional<Message> begin(const bench::Drill& drill, const QString& who, long run = 0);
    bool is_running() const { return run_ != 0; }
    const bench::Drill* drill() const { return run_ ? &*drill_ : nullptr; }

    /// Of the screening: what the client said, and what follows.
    struct Answered {
        protocol::Book book; ///< which the questions stand in
        std::vector<const protocol::Question*> questions;
        screening::Answers answers;
        screening::MethodVerdict verdict;
    };
    const std::optional<Answered>& answered() const { return answered_; }
    bool consent() const { return item().consent; }
    /// Of a talk: the tests it is about; their change is read off it.
    const work::Series* series() const { return series_ ? &*series_ : nullptr; }

    /// Of a scan: what the table sent, what the reader makes of it, and where the lines truly lie.
    struct Scanned {
        xray::Map map;
        xray::Scan read;
        Messages cautions;
        xray::Lines truth;
    };

signals:
    void show_bench(fusain::bench::Step step);
    void show_stage(); ///< a screening, or a talk
    void over(long run);
    void trouble(const QString& text);

private:
    void set_item();
    void stage();
    void begin_visit(Method method);
    void act(bench::Act what);
    void on_changed();
    void on_stored(const bench::Event& event);
    void ask_truth(const QString& instrument);
    void on_truth(const QString& words);
    void ready();
    void screen();
    void tell_tests();
    void scan();
    void look_at_scan();
    void look_at_reading();
    void take_number(double kg);
    void take_choice(const QString& id);
    void take_done();
    void end_run();
    void end_item(work::DrillAnswer answer, const QString& words, bool good);
    double seconds() const { return asked_at_.seconds(); }
    const bench::DrillItem& item() const { return drill_->items[static_cast<std::size_t>(item_)]; }
    std::vector<bench::DrillChoice> choices() const;
    /// What percent fat is off by: of the visit as it stands, from the body's own; nothing while there is none.
    std::optional<double> fat_off() const;

    work::Lab& lab_;
    work::Session& session_;
    StandIns& room_;
    DrillStrip& strip_;
    std::optional<bench::Drill> drill_; ///< while one runs
    QString who_;
    long run_ = 0, client_ = 0;
    int item_ = 0;
    bool asking_ = false, told_ = false, staged_ = false;
    bench::Step target_ = nullptr;
    std::deque<std::function<void()>> todo_;
    bench::Since asked_at_;
    std::map<int, double> air_left_l_; ///< coach: of each trial
    std::map<std::string, double> truth_;
    std::function<void()> with_truth_;
    std::set<QString> faults_on_;
    std::optional<Answered> answered_;
    std::unique_ptr<work::History> history_;
    std::optional<work::Series> series_;
    std::unique_ptr<QTemporaryDir> exposure_; ///< where the table puts its scan
    bool exposed_ = false;
    std::optional<Scanned> scanned_;
    std::future<Outcome<Scanned>> reading_;
    std::vector<decltype(reading_)> readings_left_; ///< nobody waits for them any more
    bench::Beat poll_, patience_;                   ///< with the instrument that was asked for the truth
};

} // namespace fusain::desk

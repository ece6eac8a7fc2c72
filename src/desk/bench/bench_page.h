// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench/panels.h"

#include <QStackedWidget>

#include <map>

namespace fusain::desk {

/// The rail of steps with what each has brought.
class Spine : public QWidget {
    Q_OBJECT
public:
    explicit Spine(work::Session& session, QWidget* parent = nullptr);
    void show_step(bench::Step step);

signals:
    void chosen(fusain::bench::Step step);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;

private:
    QString value_of(bench::Step step) const;
    double row_height() const;
    work::Session& session_;
    bench::Step shown_ = bench::step::who;
};

/// Leads through a test, step by step.
class BenchPage : public QWidget {
    Q_OBJECT
public:
    BenchPage(work::Session& session, work::Incoming& incoming, QWidget* parent = nullptr);
    void begin(); ///< shows the first open step
    void show_step(bench::Step step);
    bench::Step step() const { return step_; }

signals:
    void to_result();
    void to_clients();

protected:
    void resizeEvent(QResizeEvent*) override;

private:
    void on_changed();
    void show_so_far();
    bool is_summed(bench::Step step) const; ///< the sum so far stands beside it
    bench::Step next_open() const;          ///< the first open step that has a panel
    Panel* panel(bench::Step step);         ///< made when it is first needed
    work::Session& session_;
    work::Incoming& incoming_;
    bench::Step step_ = bench::step::who;
    QLabel *name_, *who_, *line_trouble_, *caution_;
    Spine* spine_;
    QStackedWidget* panels_;
    std::map<bench::Step, Panel*> by_step_;
    QWidget *rail_, *side_, *side_line_;
    Figure* ladder_;
    QLabel *so_far_note_, *so_far_number_, *so_far_range_, *so_far_doubt_;
    std::optional<Result> so_far_;
};

} // namespace fusain::desk

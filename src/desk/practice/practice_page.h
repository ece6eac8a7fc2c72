// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/practice/drill_runner.h"
#include "desk/screening/answer_list.h"

namespace fusain::desk {

/// The practice bench: what can be practised, how it went, and how it goes over weeks. The stage of drills that need no
/// instrument is here too.
class PracticePage : public QWidget {
    Q_OBJECT
public:
    PracticePage(work::Lab& lab, DrillRunner& runner, QWidget* parent = nullptr);
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }
    void refresh();
    /// The marks of a run that is over.
    void show_run(long run);
    /// A screening's answers or a client's tests, while the drill asks.
    void show_stage();
    /// Somebody new: a name to practise under.
    void ask_name();

signals:
    void trouble(const QString& text);
    void note(const QString& text);
    void named(const QString& name);

private:
    void show_drill();
    void begin(long run = 0);
    const bench::Drill* drill() const;
    QString who() const { return who_ ? who_() : QString(); }
    work::Lab& lab_;
    DrillRunner& runner_;
    std::function<QString()> who_;
    std::vector<bench::Drill> drills_;
    std::vector<work::DrillRun> runs_;
    long shown_run_ = 0, unfinished_ = 0;
    QListWidget* list_;
    QStackedWidget* pages_;
    QLabel *heading_, *bad_, *title_, *about_, *asked_, *marks_, *progress_words_, *stage_title_, *stage_words_;
    QLineEdit* name_;
    Figure *progress_, *change_;
    KeyButton *begin_, *go_on_, *export_, *give_up_;
    AnswerList* answers_;
    Scroll* answers_scroll_;
};

} // namespace fusain::desk

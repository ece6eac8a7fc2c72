// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/screening/answer_list.h"
#include "desk/parts/parts.h"
#include "work/visit/arrival.h"

#include <QStackedWidget>
#include <QVBoxLayout>

namespace fusain::desk {

/// Screening at arrival: one question at a time, clock times judged by the program, a verdict a method.
class ScreeningPage : public QWidget {
    Q_OBJECT
public:
    explicit ScreeningPage(work::Lab& lab, QWidget* parent = nullptr);
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }
    /// Refuses when there is no such booking. A screening of this visit that is there already is shown.
    [[nodiscard]] std::optional<Message> begin(long booking_id);
    work::Arrival& arrival() { return arrival_; }

signals:
    void start_test(long booking_id, fusain::Method method);
    void another_day(long client_id, const std::vector<fusain::Method>& methods);
    void left();
    void trouble(const QString& text);

protected:
    void resizeEvent(QResizeEvent*) override { share_room(); }

private:
    QWidget* make_centre();
    void make_keys(QLayout& first, QLayout& second);
    void connect_answers();
    void connect_ways_on();
    void share_room(); ///< between list, question and verdict
    void show_question(int at);
    void show_consent(); ///< the first question, where it is not on record
    void sign(bool signed_today);
    void ask(); ///< what is known, or what is open
    /// Questions read out together, one key each; what applies is marked.
    void show_page(std::vector<screening::Line> lines, const QString& title, const QString& hint);
    bool seen_to_its_end() const;
    void tell_page();
    void take_page();
    void show_known();
    void show_summary();
    void answer(const screening::Answer& a);
    void take_typed();
    void next_open();
    void keep();
    void start();
    void begin_override();
    void override_with(const QString& reason);
    void redraw();
    QString answer_words(const protocol::Question& q, const screening::Answer& a) const;
    QString summary_words() const;
    QString side_words() const;
    KeyButton* key(const QKeySequence& k, const char* cap, const char* words, const char* name, bool main = false);
    void only(std::initializer_list<QWidget*> shown);

    std::function<QString()> who_;
    work::Arrival arrival_;
    enum class View { consent, known, page, question, summary } view_ = View::known;
    int at_ = 0;
    std::vector<screening::Line> page_;
    std::vector<Mark*> marks_;
    bool together_ = true; ///< what can be read out together is; else each question comes by itself

    QWidget *rail_, *right_;
    AnswerList* list_;
    Scroll *scroll_, *page_room_, *body_room_;
    QWidget* page_lines_;
    QLabel *who_label_, *title_, *hint_, *finding_, *body_, *side_, *trouble_;
    QLineEdit *typed_, *reason_;
    KeyButton *yes_, *no_, *never_, *take_, *still_, *keep_, *override_, *another_, *start_, *again_, *leave_, *back_,
        *page_done_, *singly_;
};

} // namespace fusain::desk

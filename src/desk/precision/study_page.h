// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/precision/study_form.h"
#include "desk/parts/parts.h"
#include "work/study/study.h"

namespace fusain::desk {

/// How well an instrument repeats in this lab, and how it stands beside another: studies under way and in use.
class StudyPage : public QWidget {
    Q_OBJECT
public:
    explicit StudyPage(work::Lab& lab, QWidget* parent = nullptr);
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }
    /// The studies of this instrument.
    void show_for(const records::Instrument& instrument);
    void refresh();
    /// One of them.
    void show_study(long id);

signals:
    void left();
    void measure(long client_id, Method method); ///< a repeat, from the screening on
    void trouble(const QString& text);
    void note(const QString& text);

protected:
    void resizeEvent(QResizeEvent*) override;

private:
    QLayout* make_keys();
    void make_question();
    void make_body();
    void connect_lists();
    void connect_keys();
    enum class Asks { nothing, anew, somebody, pick, reason, use, give_up };
    void ask(Asks what);
    void answered();
    void show_found();
    void show_numbers();
    void measure_now(long client_id, bool anew);
    void done(const std::optional<Message>& why, const QString& well = {});
    const work::Member* member() const; ///< that the list stands on
    const work::Study* now() const;
    QString who() const { return who_ ? who_() : QString(); }

    work::Lab& lab_;
    std::function<QString()> who_;
    records::Instrument instrument_;
    std::vector<work::Study> all_;
    long shown_ = 0, await_ = 0; ///< study; client who is placed anew
    Outcome<std::vector<work::Repeated>> told_ = Outcome<std::vector<work::Repeated>>::refuse(Messages{});
    Outcome<std::vector<work::Compared>> compared_ = Outcome<std::vector<work::Compared>>::refuse(Messages{});
    std::size_t quantity_ = 0;
    std::vector<work::Candidate> found_;
    std::vector<records::Client> people_;
    Asks asks_ = Asks::nothing;
    QStackedWidget* pages_;
    StudyForm* form_;
    QLabel *title_, *stands_on_, *next_, *question_, *said_, *table_;
    QListWidget *studies_, *repeats_;
    QWidget *ask_row_, *body_;
    QBoxLayout* body_layout_;
    QLineEdit* answer_;
    QListWidget* choices_;
    Figure* figure_;
    ChoiceBox* what_;
    KeyButton *new_, *again_, *somebody_, *pick_, *out_, *use_, *give_, *stop_, *yes_, *no_;
};

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/result/beside_view.h"
#include "desk/parts/parts.h"
#include "report/sheets/given.h"
#include "work/visit/session.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QStackedWidget>
#include <QTableWidget>
#include <QTextBrowser>

namespace fusain::desk {

/// The result as a story: the ladder, the choices, where the doubt comes from, what would change it, the sheets.
class ResultPage : public QWidget {
    Q_OBJECT
public:
    ResultPage(work::Lab& lab, work::Session& session, QWidget* parent = nullptr);
    void enter(); ///< the page comes on the screen
    void refresh();
    /// Why the client's sheet may not be given out yet; nothing when it may.
    std::optional<QString> held_back() const;
    /// The next measurement of the same booking, as words on a key; empty when there is none.
    void offer_next(const QString& words);

signals:
    void next_measurement();
    void course();   ///< of the client: change, plan, talk
    void reopened(); ///< the visit is open again: back to the bench

protected:
    void resizeEvent(QResizeEvent*) override { refresh(); }

private:
    void make_left();
    QWidget* make_side();
    QLayout* make_keys();
    void connect_reopening();
    void ask_to_print();
    void print();
    void mail();
    /// Writes a sheet into the lab's folder of sheets, once the visit is finished; else the reason stands on the page.
    void give(bool for_client, std::function<void(const report::Given&)> then);
    report::SheetOf sheet_of(bool for_client) const;
    void fill_choices();
    void fill_doubts();
    const Doubt* doubt() const; ///< the one on the screen
    void fill_what_ifs();
    void fill_steps();
    static void fill_table(QTableWidget* table, const std::vector<QStringList>& rows, std::initializer_list<int> wide,
        std::initializer_list<int> figures);
    void show_left(int page);
    void share_room(); ///< a table needs it more than the picture over it
    struct Chooser {
        QLabel* title = nullptr;
        QComboBox* box = nullptr;
    };
    Chooser& chooser(const std::string& what); ///< made when it is first needed
    work::Lab& lab_;
    work::Session& session_;
    std::optional<Result> result_;
    Messages messages_;
    QLabel* picture_title_;
    Scroll* cautions_room_;
    QLabel *title_, *compared_, *place_, *equation_, *cautions_, *chosen_by_, *said_;
    QWidget* side_;
    std::vector<QWidget*> with_result_; ///< seen only when there is one
    ChoiceBox* doubt_of_;
    Figure *ladder_, *readings_, *budget_, *range_;
    BesideView* beside_;
    KeyButton* beside_key_;
    KeyButton *next_key_, *acknowledge_key_, *reopen_key_;
    QLineEdit* reason_;
    QStackedWidget* left_;
    QTableWidget *steps_, *equations_;
    KeyButton* equations_key_;
    QTextBrowser* science_; ///< the page of docs/science behind a step
    QGridLayout *choices_, *what_ifs_;
    QLabel* what_ifs_title_;
    std::map<std::string, Chooser> choosers_;
    KeyButton* steps_key_;
    bool filling_ = false;
    bool last_for_client_ = true;
};

} // namespace fusain::desk

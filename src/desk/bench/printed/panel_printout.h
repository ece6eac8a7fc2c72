// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/said.h"
#include "desk/bench/panels.h"
#include "work/lab/long_work.h"
#include "work/files/printout_file.h"

#include <QGridLayout>

#include <map>

namespace fusain::desk {

/// What an instrument shows finished: its fields in the paper's order, typed Enter by Enter, or read from a file and
/// held beside the paper, what is doubtful first. What does not fit is named before it is taken.
class PrintoutPanel : public Panel {
    Q_OBJECT
public:
    explicit PrintoutPanel(work::Session& session);
    void enter() override;
    void offer_from(work::Incoming& incoming) override;
    /// Reads a printout in a thread of its own.
    Q_INVOKABLE void read(const QString& path);
    bool is_reading() const { return reading_.is_running(); }

signals:
    void read_done(); ///< or refused

protected:
    void keyPressEvent(QKeyEvent* e) override; ///< Enter, when no field is open: it is taken

private:
    struct Row {
        printout::Field field;
        QWidget* whole = nullptr;
        QLineEdit *number = nullptr, *limits = nullptr;
        QLabel *cut = nullptr, *trouble = nullptr;
        std::string read; ///< what the reader saw
        bool doubtful = false, looked_at = false;
    };
    void make_rows(); ///< of the visit's layout
    void in_order();  ///< what is still to be looked at first
    static void fill(Row& row, const QString& text, const printout::Value& value);
    void type();
    void show_file(const work::PrintoutFile& file);
    void show_cuts(); ///< beside the numbers
    void go_on_from(const Row& row);
    Row* next_open(); ///< the first that is doubtful and was not looked at; null: none
    /// What is typed now; troubles stand at their fields. Nothing: something is no number.
    std::optional<printout::Reading> typed();
    /// Names what does not fit, at its fields too; empty: everything does.
    QStringList misfits(const printout::Reading& reading);
    void judge();
    void take(bool all_the_same);
    void tell_keys();
    /// What came in for this instrument, the one that agrees with the visit first.
    void show_offers();

    struct Offer {
        QWidget* row;
        KeyButton* key;
        QLabel* words;
        QString path;
    };
    work::Incoming* incoming_ = nullptr;
    std::vector<Offer> offers_;
    QLabel* more_offers_;
    bool came_in_ = false; ///< one that agrees with the visit
    QWidget* fields_;
    QVBoxLayout* column_;
    QScrollArea* scroll_;
    QLabel *sure_, *said_, *who_;
    KeyButton *take_, *all_the_same_, *type_, *file_, *stop_;
    std::vector<Row> rows_;
    std::string made_for_; ///< the layout's text that the rows are of
    long made_for_visit_ = 0;
    std::shared_ptr<const work::PrintoutFile> paper_;
    bool tried_ = false;    ///< it was to be taken, and something did not fit
    bool in_field_ = false; ///< this Enter has closed a field
    work::LongWork reading_;
};

} // namespace fusain::desk

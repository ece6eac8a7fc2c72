// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/group.h"
#include "desk/parts/parts.h"
#include "work/lab/lab.h"

#include <QPlainTextEdit>
#include <QTimer>

namespace fusain::desk {

/// A crew is booked in one go: a list of names or numbers, or everybody with one role; so many minutes each, on one
/// instrument or two. All of it or nothing.
class GroupPanel : public QWidget {
    Q_OBJECT
public:
    explicit GroupPanel(work::Lab& lab, QWidget* parent = nullptr);
    void begin(const QDate& day);
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }

signals:
    void cancelled();
    void booked(const QDate& day);

private:
    void fill_instruments();
    void add_role(const QString& role);
    void line_up(); ///< shows who comes when, and what is wrong
    void book();
    work::Lab& lab_;
    std::function<QString()> who_;
    QPlainTextEdit* names_;
    ChoiceBox *role_, *method_;
    QLineEdit *day_, *from_, *each_;
    WrappedRow* lanes_row_;
    std::vector<std::pair<std::string, WordButton*>> lanes_;
    QListWidget* list_;
    QLabel *said_, *trouble_;
    KeyButton *book_, *back_;
    std::vector<schedule::Slot> slots_;
    QTimer soon_;
};

} // namespace fusain::desk

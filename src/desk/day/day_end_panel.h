// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "report/sheets/day_end.h"
#include "work/lab/long_work.h"

namespace fusain::desk {

/// The end of a day: a list for the lab and a sheet for everybody, made beside the window, with how far it is; it can
/// be stopped.
class DayEndPanel : public QWidget {
    Q_OBJECT
public:
    explicit DayEndPanel(work::Lab& lab, QWidget* parent = nullptr);
    void begin(const QDate& day);
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }

signals:
    void left();

private:
    void make();
    void tell(const Outcome<report::DayEnd>& end);
    work::Lab& lab_;
    std::function<QString()> who_;
    QDate day_;
    work::LongWork making_;
    QLabel *title_, *said_, *so_far_;
    QListWidget* list_;
    QLabel* closing_; ///< what is done with the instruments before the lab is left
    KeyButton *make_, *back_;
};

} // namespace fusain::desk

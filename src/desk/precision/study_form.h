// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/study/study.h"

namespace fusain::desk {

/// Beginning a study: of what, whose repeats count, how many; what it will be worth stands beside it.
class StudyForm : public QWidget {
    Q_OBJECT
public:
    explicit StudyForm(work::Lab& lab, QWidget* parent = nullptr);
    void begin(const records::Instrument& instrument, const QString& who);

signals:
    void begun(long study);
    void left();

private:
    work::Design design() const;
    void show_what();
    void save();
    work::Lab& lab_;
    records::Instrument instrument_;
    QString who_;
    QLabel *heading_, *worth_, *dose_;
    ChoiceBox *kind_, *second_;
    QLineEdit *repaired_, *people_, *times_;
    QListWidget* operators_;
    std::map<std::string, QLabel*> troubles_;
    std::vector<QWidget*> of_second_, of_repair_, of_times_;
};

} // namespace fusain::desk

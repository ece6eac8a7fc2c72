// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/practice/drill.h"
#include "desk/parts/parts.h"

namespace fusain::desk {

/// Under the real screens while a drill runs: what is asked, what is seen beside the screen, how it is answered, and
/// afterwards what was true.
class DrillStrip : public QWidget {
    Q_OBJECT
public:
    explicit DrillStrip(QWidget* parent = nullptr);
    void ask(const bench::Drill& drill, int item, const std::vector<bench::DrillChoice>& choices);
    /// What came of the answer.
    void tell(const QString& words, bool good, bool last);
    /// Why it cannot be answered now.
    void hint(const QString& words);
    void getting_ready(const QString& words);

signals:
    void number(double kg);
    void chosen(const QString& id);
    void done();
    void next();
    void given_up();

private:
    QLabel *title_, *asked_, *seen_, *told_;
    NumberField* number_;
    QWidget* number_row_;
    std::vector<KeyButton*> choices_;
    std::vector<QString> ids_;
    KeyButton *done_, *next_, *stop_, *type_;
};

} // namespace fusain::desk

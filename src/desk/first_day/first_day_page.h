// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/lab/lab.h"

namespace fusain::desk {

/// What greets a lab that has nothing yet: its three first steps, what of them is done, and the demo.
class FirstDayPage : public QWidget {
    Q_OBJECT
public:
    explicit FirstDayPage(work::Lab& lab, QWidget* parent = nullptr);
    /// One of the steps is still to be done.
    bool is_needed() const;
    void refresh();

signals:
    void to_people();
    void to_instruments();
    void to_lines();
    void to_client();
    void to_import();
    void to_demo();

private:
    struct Step {
        QLabel *number, *heading, *words, *state;
        KeyButton *key, *also;
    };
    Step make_step(QGridLayout* grid, int n, const char* heading, const char* words, const char* key_words,
        const char* also_key, const char* also_words, const char* name);
    work::Lab& lab_;
    QLabel *title_, *lead_;
    std::vector<Step> steps_;
    QWidget* demo_;
};

} // namespace fusain::desk

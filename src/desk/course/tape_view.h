// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/course/course_view.h"

#include <QLineEdit>

namespace fusain::desk {

/// Folds and girths: every repeat typed where it is taken, what is still missing said beside it.
class TapeView : public CourseView {
    Q_OBJECT
public:
    explicit TapeView(work::Lab& lab);
    void show_reading(const work::Reading& reading) override;

private:
    struct Site {
        std::string id;
        bool fold = false;
        QLineEdit* repeats = nullptr;
        QLabel* state = nullptr;
    };
    /// What was typed; nothing where a text is no number, with the reason at the site.
    std::optional<std::vector<double>> typed(Site& site);
    void look_at_sites();
    void store();
    const work::Reading* reading_ = nullptr;
    long client_ = 0;
    std::vector<Site> sites_;
    ChoiceBox *equation_, *waist_;
    QLineEdit *measurer_, *day_;
    QLabel *so_far_, *before_, *trouble_;
    QVBoxLayout* list_;
    QLabel* girths_head_ = nullptr;
    bool inches_ = false; ///< as the girths stand written
};

} // namespace fusain::desk

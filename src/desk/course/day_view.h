// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/course/course_view.h"

namespace fusain::desk {

/// One day, one body: every method of a visit day side by side, and what they give together.
class DayView : public CourseView {
    Q_OBJECT
public:
    explicit DayView(work::Lab& lab);
    void show_reading(const work::Reading& reading) override;

private:
    void refresh();
    void step(int days);
    std::optional<Result> combined(const std::string& equation, Messages* messages = nullptr) const;
    const work::Reading* reading_ = nullptr;
    work::Ingredients parts_;
    std::vector<report::BesideRow> rows_;
    std::optional<Result> together_;
    bool shown_together_ = false;
    QLabel *title_, *pairs_, *drops_, *differ_, *missing_, *cautions_;
    Figure *beside_, *budget_;
    QGridLayout* table_;
    ChoiceBox* equation_;
    KeyButton *together_key_, *earlier_, *later_;
    QWidget* together_room_;
};

} // namespace fusain::desk

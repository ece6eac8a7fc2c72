// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/course/course_view.h"
#include "report/reading/pictures.h"

namespace fusain::desk {

/// What lying in bed costs, what the days cost, and what is eaten beside it.
class EnergyView : public CourseView {
    Q_OBJECT
public:
    explicit EnergyView(work::Lab& lab);
    void show_reading(const work::Reading& reading) override;

private:
    void refresh();
    void store();
    std::vector<report::DayCost> costs_;
    const work::Reading* reading_ = nullptr;
    long client_ = 0;
    std::optional<Result> result_;
    double resting_ = 0;
    NumberField *activity_, *food_;
    ChoiceBox* school_;
    Figure* days_;
    QGridLayout* table_;
    QLabel *title_, *gap_, *protein_, *deficit_;
};

} // namespace fusain::desk

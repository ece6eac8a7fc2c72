// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/course/course_view.h"
#include "report/reading/pictures.h"

namespace fusain::desk {

/// Muscle and fat against each other, with the client's path, and against whom they are held.
class BalanceView : public CourseView {
    Q_OBJECT
public:
    BalanceView(work::Lab& lab, work::OwnGroup& group);
    void show_reading(const work::Reading& reading) override;

signals:
    void range_chosen(const QString& id);

private:
    void refresh();
    work::OwnGroup& group_;
    const work::Reading* reading_ = nullptr;
    report::BalancePicture picture_;
    Figure *plane_, *range_figure_;
    QLabel *title_, *place_, *bmi_, *group_words_, *cautions_;
    ChoiceBox *range_, *whom_;
};

} // namespace fusain::desk

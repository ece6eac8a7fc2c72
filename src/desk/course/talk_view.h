// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/course/course_view.h"
#include "report/reading/talk.h"

#include <QLineEdit>
#include <QPlainTextEdit>

namespace fusain::desk {

/// Sitting beside the client: one picture and one sentence at a time, arrow keys, answers on keys.
class TalkView : public CourseView {
    Q_OBJECT
public:
    TalkView(work::Lab& lab, work::OwnGroup& group);
    void show_reading(const work::Reading& reading) override;

private:
    void go(int by);
    void show_slide();
    void build();
    void store();
    void give_sheet();
    work::OwnGroup& group_;
    const work::Reading* reading_ = nullptr;
    long client_ = 0, visit_id_ = 0;
    QDate day_;
    std::shared_ptr<const bench::Visit> visit_;
    std::vector<report::Slide> slides_;
    std::vector<report::Answer> answers_;
    int at_ = 0;
    QLabel *sentence_, *more_, *answer_, *count_;
    Figure* picture_;
    QWidget *steps_room_, *answers_room_;
    Scroll* steps_scroll_;
    QLineEdit* steps_[work::most_steps];
    QPlainTextEdit* note_;
    WrappedRow* answer_keys_;
    std::vector<KeyButton*> answer_buttons_;
    KeyButton* quiet_; ///< told with numbers, or without
};

} // namespace fusain::desk

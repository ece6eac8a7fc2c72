// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/course/course_view.h"
#include "report/reading/pictures.h"

namespace fusain::desk {

/// The plan on its time axis: the target is dragged in date and height.
class PlanPlot : public QWidget {
    Q_OBJECT
public:
    explicit PlanPlot(QWidget* parent = nullptr);
    void show_picture(report::PlanPicture picture);
    const report::PlanPicture& picture() const { return picture_; }
    /// Where the target's handle lies on the widget.
    QPointF handle() const;

signals:
    void dragged(int weeks, double percent);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent*) override { place_.reset(); }

private:
    QRectF area() const { return QRectF(rect()).adjusted(2, 4, -2, -2); }
    void drag_to(const QPointF& at);
    report::PlanPicture picture_;
    std::optional<report::PlanPlace> place_; ///< as it was when the handle was taken: it does not run from the hand
};

/// What it takes to come to another body by a date, whether that is safe, and how it goes.
class PlanView : public CourseView {
    Q_OBJECT
public:
    explicit PlanView(work::Lab& lab);
    void show_reading(const work::Reading& reading) override;

signals:
    void book(long client_id, const QDate& from);

private:
    void refresh();
    void agree();
    void book_next();
    plan::Input input() const;
    QDate start() const;
    const work::Reading* reading_ = nullptr;
    long client_ = 0;
    Outcome<Result> answer_ = Outcome<Result>::refuse(Message{});
    std::optional<QDate> next_;
    bool filling_ = false;
    PlanPlot* plot_;
    ChoiceBox *aim_, *lean_, *range_;
    NumberField *percent_, *mass_, *fat_, *weeks_;
    QLabel *title_, *takes_, *only_fat_, *beside_, *bands_, *next_words_, *way_, *stops_;
    QGridLayout* numbers_;
    KeyButton *agree_, *end_, *book_;
    QWidget* form_;
};

} // namespace fusain::desk

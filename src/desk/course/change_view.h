// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/course/course_view.h"
#include "report/reading/pictures.h"

#include <QTableWidget>

#include <set>

namespace fusain::desk {

/// A quantity over time on the screen: the wheel zooms, dragging pans, the visit under the pointer is told, a click
/// holds changes against it, a right click leaves it out.
class ChangePlot : public QWidget {
    Q_OBJECT
public:
    explicit ChangePlot(QWidget* parent = nullptr);
    void show_picture(report::ChangePicture picture);
    void see_all();
    const report::ChangePicture& picture() const { return picture_; }

signals:
    void hold_against(int point);
    void leave_out(int point);

protected:
    void paintEvent(QPaintEvent*) override;
    void wheelEvent(QWheelEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void leaveEvent(QEvent*) override;

private:
    QRectF area() const { return QRectF(rect()).adjusted(2, 6, -2, -2); }
    int em() const { return Theme::get().px(14); }
    int point_at(const QPointF& at) const;
    report::ChangePicture picture_;
    report::ChangeSeen seen_;
    QPointF grabbed_;
    double grabbed_from_ = 0, grabbed_to_ = 0;
    bool dragged_ = false, holding_ = false;
};

/// What changed, what is only noise, and where the mass went.
class ChangeView : public CourseView {
    Q_OBJECT
public:
    explicit ChangeView(work::Lab& lab);
    void show_reading(const work::Reading& reading) override;

private:
    void refresh();
    void fill_list();
    void show_quantity();
    void leave_out(int point);
    const Quantity* chosen() const;
    std::string method() const;
    const work::Reading* reading_ = nullptr;
    std::set<long> left_out_;
    std::optional<work::Series> series_;
    std::optional<change::Moved> moved_;
    QDate around_; ///< day of the visit that changes are held against
    long client_ = 0;
    enum class Against { previous, first, picked } against_ = Against::previous;
    ChoiceBox* method_;
    QTableWidget* list_;
    ChangePlot* plot_;
    Figure* moved_figure_;
    QLabel *title_, *sentence_, *trend_, *moved_words_, *questions_, *remarks_;
    KeyButton *previous_, *first_, *all_, *leave_out_, *bring_back_;
};

} // namespace fusain::desk

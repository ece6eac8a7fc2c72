// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/course/course_view.h"

#include <QButtonGroup>

namespace fusain::desk {

/// One client over time: the day, the balance, the change, tape, energy, plan, and telling it.
class CoursePage : public QWidget {
    Q_OBJECT
public:
    explicit CoursePage(work::Lab& lab, QWidget* parent = nullptr);
    void set_technician(std::function<QString()> who);
    /// `day` invalid: the newest.
    void open(long client_id, const QDate& day = {});
    bool is_open() const { return client_ != 0; }
    long client() const { return client_; }
    void refresh(); ///< reads everything anew
    /// "day", "balance", "change", "tape", "energy", "plan", "talk"
    void show_view(const QString& name);
    const work::Reading& reading() const { return reading_; }

signals:
    void trouble(const QString& text);
    void note(const QString& text);
    void book(long client_id, const QDate& from);

private:
    void take(CourseView* view, const char* name, const char* words, const char* key);
    void show_reading();
    work::Lab& lab_;
    work::OwnGroup group_;
    long client_ = 0;
    QDate day_;
    std::string range_;
    std::unique_ptr<work::History> history_;
    work::Reading reading_;
    QLabel *name_, *facts_;
    QHBoxLayout* tabs_;
    QButtonGroup* group_of_tabs_;
    QStackedWidget* views_;
    std::vector<CourseView*> all_;
    std::vector<WordButton*> buttons_;
};

} // namespace fusain::desk

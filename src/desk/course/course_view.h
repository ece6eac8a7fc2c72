// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/reading/reading.h"

#include <QGridLayout>
#include <QLabel>
#include <QVBoxLayout>

namespace fusain::desk {

/// What every view of a client's course has: it shows a reading, and says when something new was kept.
class CourseView : public QWidget {
    Q_OBJECT
public:
    explicit CourseView(work::Lab& lab, QWidget* parent = nullptr) : QWidget(parent), lab_(lab)
    {
        setFocusPolicy(Qt::StrongFocus);
    }
    /// Null main and empty days are shown as what is missing, with the next step.
    virtual void show_reading(const work::Reading& reading) = 0;
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }

signals:
    void kept(); ///< the client's log has grown: everything is read anew
    void said(const QString& text);
    void trouble(const QString& text);
    void go_to_day(const QDate& day);

protected:
    /// Adds to the client's log under the technician's name; what went wrong is said. True when it is on the disk.
    bool keep(long client_id, records::ClientEvent event)
    {
        event.client_id = client_id;
        event.who = who_ ? who_() : QString();
        if (event.who.isEmpty()) return false;
        if (event.day.isEmpty()) event.day = lab_.today().toString(Qt::ISODate);
        const auto stored = records::keep(*lab_.store, event);
        if (!stored) {
            emit trouble(q(stored.messages().front().text));
            return false;
        }
        emit kept();
        return true;
    }
    work::Lab& lab_;
    std::function<QString()> who_;
};

/// Empties a layout that is filled anew.
inline void empty(QLayout* layout)
{
    while (QLayoutItem* item = layout->takeAt(0)) {
        if (item->widget()) item->widget()->deleteLater();
        if (item->widget()) item->widget()->hide();
        if (item->layout()) empty(item->layout());
        delete item;
    }
}

/// Two columns: a picture with its heading, and what is said of it.
struct TwoColumns {
    QVBoxLayout *left, *right;
};
inline TwoColumns two_columns(QWidget* page, int side_width)
{
    auto* columns = new QHBoxLayout(page);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);
    auto* main = new QWidget;
    auto* left = new QVBoxLayout(main);
    left->setContentsMargins(34, 14, 24, 14);
    columns->addWidget(main, 60);
    columns->addWidget(hairline(true));
    auto* side = new QWidget;
    auto* right = new QVBoxLayout(side);
    right->setContentsMargins(24, 14, 18, 14);
    right->setSpacing(6);
    auto* scroll = new Scroll(side);
    with_theme(page, [scroll, side_width] { scroll->setMaximumWidth(Theme::get().px(side_width)); });
    columns->addWidget(scroll, 40); // where the window is narrow it gives way
    return {left, right};
}

} // namespace fusain::desk

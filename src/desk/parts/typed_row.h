// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"

#include <vector>

namespace fusain::desk {

/// Where a technician types what a display shows: fields side by side, Enter goes on to the next and takes after the
/// last; beside them what comes of it. What was refused stays for correction, what was taken makes room for the next.
class TypedRow : public QWidget {
    Q_OBJECT
public:
    struct Field {
        QString title;
        const char* name; ///< object name of its line
        NumberField* number;
    };
    /// `columns`: fields in so many columns; 0: as many side by side as there is room for.
    explicit TypedRow(std::vector<Field> fields, int columns = 0, QWidget* parent = nullptr);

    void open();
    void close_row();
    bool is_open() const { return !isHidden(); }
    /// Empty again, ready for the next.
    void clear();
    void say(const QString& what_comes_of_it) { sum_->setText(what_comes_of_it); }
    /// A choice that belongs to what is typed, before the fields.
    void put_first(QWidget* widget);

signals:
    void typed(); ///< Enter in the last field
    void edited();
    void left(); ///< Escape

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    std::vector<Field> fields_;
    QLabel* sum_;
};

} // namespace fusain::desk

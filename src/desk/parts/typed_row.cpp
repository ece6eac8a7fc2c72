// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/parts/typed_row.h"

#include "desk/parts/wrapped_row.h"

#include <QGridLayout>
#include <QKeyEvent>
#include <QVBoxLayout>

namespace fusain::desk {

TypedRow::TypedRow(std::vector<Field> fields, int columns, QWidget* parent)
    : QWidget(parent), fields_(std::move(fields)), sum_(label("number"))
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 8, 0, 4);
    column->setSpacing(6);
    auto* side_by_side = columns ? nullptr : new WrappedRow;
    auto* grid = columns ? new QGridLayout : nullptr;
    if (side_by_side) side_by_side->setSpacing(18);
    if (grid) {
        grid->setHorizontalSpacing(18);
        grid->setVerticalSpacing(9);
        grid->setColumnStretch(columns, 1);
    }
    for (std::size_t i = 0; i < fields_.size(); ++i) {
        auto* one = new QWidget;
        auto* c = new QVBoxLayout(one);
        c->setContentsMargins(0, 0, 0, 0);
        c->setSpacing(2);
        auto* title = label("small", fields_[i].title);
        title->setWordWrap(false);
        c->addWidget(title);
        c->addWidget(fields_[i].number);
        if (grid)
            grid->addWidget(one, static_cast<int>(i) / columns, static_cast<int>(i) % columns);
        else
            side_by_side->addWidget(one);
        QLineEdit* line = fields_[i].number->edit();
        line->setObjectName(QString::fromLatin1(fields_[i].name));
        line->installEventFilter(this);
        connect(fields_[i].number, &NumberField::edited, this, &TypedRow::edited);
        connect(line, &QLineEdit::returnPressed, this, [this, i] {
            if (i + 1 < fields_.size())
                fields_[i + 1].number->edit()->setFocus();
            else
                emit typed();
        });
    }
    column->addLayout(grid ? static_cast<QLayout*>(grid) : side_by_side);
    sum_->setObjectName(QStringLiteral("typed_sum"));
    column->addWidget(sum_);
    column->addStretch();
    hide();
}

void TypedRow::put_first(QWidget* widget) { static_cast<QVBoxLayout*>(layout())->insertWidget(0, widget); }

void TypedRow::open()
{
    show();
    fields_.front().number->edit()->setFocus();
}

void TypedRow::close_row()
{
    clear();
    hide();
}

void TypedRow::clear()
{
    for (const Field& f : fields_) f.number->set_metric(std::nullopt);
    sum_->clear();
    if (is_open()) fields_.front().number->edit()->setFocus();
}

bool TypedRow::eventFilter(QObject* watched, QEvent* event)
{
    // Escape closes the row, before it means anything to the window
    if (event->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
        event->accept();
        return true;
    }
    if (event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
        emit left();
        return true;
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/screening/answer_list.h"

#include "desk/parts/theme.h"

#include <QMouseEvent>
#include <QPainter>

#include <algorithm>

namespace fusain::desk {

using look::Voice;

AnswerList::AnswerList(QWidget* parent) : QWidget(parent)
{
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    connect(&Theme::get(), &Theme::changed, this, &AnswerList::lay_out);
}

int AnswerList::row_height() const { return Theme::get().px(44); }
int AnswerList::head_height() const { return Theme::get().px(26); }
QSize AnswerList::sizeHint() const { return {Theme::get().px(300), height_ + 4}; }

void AnswerList::show_rows(std::vector<Row> rows, int current)
{
    rows_ = std::move(rows);
    current_ = current;
    lay_out();
}

void AnswerList::lay_out()
{
    tops_.clear();
    height_ = 0;
    for (std::size_t i = 0; i < rows_.size(); ++i, height_ += row_height()) {
        if (headed(i)) height_ += head_height() + (i ? Theme::get().px(8) : 0);
        tops_.push_back(height_);
    }
    setFixedHeight(sizeHint().height());
    update();
}

QRect AnswerList::place_of(int row) const
{
    const auto i = static_cast<std::size_t>(row);
    if (row < 0 || i >= rows_.size()) return {};
    const int head = headed(i) ? head_height() : 0;
    return {0, tops_[i] - head, width(), row_height() + head};
}

void AnswerList::mousePressEvent(QMouseEvent* e)
{
    const int y = static_cast<int>(e->position().y());
    for (std::size_t i = 0; i < tops_.size(); ++i)
        if (y >= tops_[i] && y < tops_[i] + row_height()) return emit chosen(static_cast<int>(i));
}

void AnswerList::paintEvent(QPaintEvent*)
{
    const Theme& t = Theme::get();
    const look::Palette& c = t.palette();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double h = row_height(), left = 36, room = width() - left - 8;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
        const Row& row = rows_[i];
        const QRectF r(0, tops_[i], width(), h);
        if (headed(i)) {
            const auto open = std::count_if(
                rows_.begin(), rows_.end(), [&](const Row& x) { return x.group == row.group && x.mark == 0; });
            const QRectF head(10, r.top() - t.px(24), width() - 18, t.px(22));
            p.setFont(look::font(Voice::speaks, t.px(14)));
            p.setPen(c.ink);
            p.drawText(head, Qt::AlignLeft | Qt::AlignVCenter, row.group);
            p.setFont(look::font(Voice::text, t.px(13)));
            p.setPen(c.smudge);
            p.drawText(head, Qt::AlignRight | Qt::AlignVCenter,
                open ? QStringLiteral("%1 to ask").arg(open) : QStringLiteral("all asked"));
        }
        if (static_cast<int>(i) == current_) {
            p.fillRect(r, c.sheet);
            p.fillRect(QRectF(0, r.top(), 3, h), c.ink);
        }
        // drawn, not written: glyphs of different fonts do not stand in one column
        const QPointF at(20, r.top() + 3 + (h / 2 - 2) / 2.0); // beside the question's line
        const double size = t.px(row.mark >= 2 ? 6 : 4);
        const QColor mark = row.mark >= 2 ? c.look_here : row.mark == 1 ? c.smudge : c.ink;
        p.setPen(QPen(mark, 1.4));
        p.setBrush(row.mark ? QBrush(mark) : Qt::NoBrush);
        if (row.mark < 2)
            p.drawEllipse(at, size, size);
        else if (row.mark == 2)
            p.drawPolygon(QPolygonF{
                at + QPointF(0, -size), at + QPointF(size, 0), at + QPointF(0, size), at + QPointF(-size, 0)});
        else
            p.drawRect(QRectF(at.x() - size * 0.8, at.y() - size * 0.8, 1.6 * size, 1.6 * size));
        p.setFont(look::font(Voice::text, t.px(14)));
        p.setPen(row.mark == 1 ? c.smudge : c.ink);
        p.drawText(QRectF(left, r.top() + 3, room, h / 2 - 2), Qt::AlignLeft | Qt::AlignVCenter,
            p.fontMetrics().elidedText(row.words, Qt::ElideRight, static_cast<int>(room)));
        p.setFont(look::font(Voice::text, t.px(13)));
        p.setPen(row.mark >= 2 ? c.look_here : c.smudge);
        p.drawText(QRectF(left, r.center().y() - 1, room, h / 2 - 2), Qt::AlignLeft | Qt::AlignVCenter,
            p.fontMetrics().elidedText(row.answer + (row.known ? QStringLiteral("  · as recorded") : QString()),
                Qt::ElideRight, static_cast<int>(room)));
    }
}

} // namespace fusain::desk

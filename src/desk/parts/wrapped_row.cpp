// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/parts/wrapped_row.h"

#include <QWidget>

#include <algorithm>

namespace fusain::desk {

constexpr int between_lines = 6;

WrappedRow::WrappedRow(QWidget* parent) : QLayout(parent)
{
    setContentsMargins(0, 0, 0, 0);
    setSpacing(14);
}

QLayoutItem* WrappedRow::takeAt(int i)
{
    if (i < 0 || i >= count()) return nullptr;
    QLayoutItem* item = items_[static_cast<std::size_t>(i)].release();
    items_.erase(items_.begin() + i);
    return item;
}

std::vector<WrappedRow::Line> WrappedRow::lines(int width) const
{
    std::vector<Line> out;
    for (const auto& item : items_) {
        if (item->isEmpty()) continue;
        const QSize size = item->sizeHint();
        if (out.empty() || out.back().width + spacing() + size.width() > width) out.push_back({{}, -spacing(), 0});
        out.back().items.push_back(item.get());
        out.back().width += spacing() + size.width();
        out.back().height = std::max(out.back().height, size.height());
    }
    return out;
}

int WrappedRow::heightForWidth(int width) const
{
    const QMargins m = contentsMargins();
    int height = m.top() + m.bottom() - between_lines;
    for (const Line& line : lines(width - m.left() - m.right())) height += line.height + between_lines;
    return std::max(0, height);
}

QSize WrappedRow::sizeHint() const
{
    const QMargins m = contentsMargins();
    const auto all = lines(QWIDGETSIZE_MAX);
    return all.empty() ? QSize() : QSize(all[0].width + m.left() + m.right(), all[0].height + m.top() + m.bottom());
}

QSize WrappedRow::minimumSize() const
{
    const QMargins m = contentsMargins();
    QSize size;
    for (const auto& item : items_)
        if (!item->isEmpty()) size = size.expandedTo(item->minimumSize());
    return size.grownBy(m);
}

void WrappedRow::setGeometry(const QRect& room)
{
    QLayout::setGeometry(room);
    const QRect inside = room.marginsRemoved(contentsMargins());
    int y = inside.top();
    for (const Line& line : lines(inside.width())) {
        int x = inside.left();
        for (QLayoutItem* item : line.items) {
            const QSize size = item->sizeHint();
            item->setGeometry({QPoint(x, y + (line.height - size.height()) / 2), size});
            x += size.width() + spacing();
        }
        y += line.height + between_lines;
    }
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/clients/client_list.h"

#include "desk/parts/theme.h"
#include "work/lab/lab.h"

#include <QPainter>
#include <QStyledItemDelegate>

namespace fusain::desk {
namespace {

using look::Voice;

constexpr int page = 30; // clients read at a time, more than a screen full

class ClientDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override
    {
        return {100, Theme::get().px(54)};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& o, const QModelIndex& i) const override
    {
        const Theme& t = Theme::get();
        const look::Palette& c = t.palette();
        p->save();
        const bool chosen = o.state & QStyle::State_Selected;
        if (chosen) {
            p->fillRect(o.rect, c.sheet);
            p->fillRect(QRect(o.rect.left(), o.rect.top(), 3, o.rect.height()), c.ink);
        }
        const QRect r = o.rect.adjusted(t.px(16), t.px(6), -t.px(10), -t.px(5));
        p->setFont(look::font(Voice::text, t.px(16), chosen));
        p->setPen(c.ink);
        p->drawText(r, Qt::AlignLeft | Qt::AlignTop,
            p->fontMetrics().elidedText(i.data(Qt::DisplayRole).toString(), Qt::ElideRight, r.width() - t.px(46)));
        p->setFont(look::font(Voice::measured, t.px(13)));
        p->setPen(c.smudge);
        p->drawText(r, Qt::AlignRight | Qt::AlignTop, i.data(Qt::UserRole + 1).toString());
        p->setFont(look::font(Voice::text, t.px(13)));
        p->drawText(r, Qt::AlignLeft | Qt::AlignBottom,
            p->fontMetrics().elidedText(i.data(Qt::UserRole + 2).toString(), Qt::ElideRight, r.width()));
        p->restore();
    }
};

} // namespace

int age_of(const records::Client& c)
{
    return static_cast<int>(
        bench::age_between(c.birth_date.toStdString(), work::clock_now().date().toString(Qt::ISODate).toStdString()));
}

QAbstractItemDelegate* client_delegate(QObject* parent) { return new ClientDelegate(parent); }

QVariant ClientList::data(const QModelIndex& index, int role) const
{
    const records::Client& c = at(index.row());
    switch (role) {
    case Qt::DisplayRole: return c.full_name();
    case Qt::UserRole + 1: return c.number;
    case Qt::UserRole + 2:
        return QStringLiteral("%1 · %2 y")
            .arg(c.role.isEmpty() ? QStringLiteral("no role noted") : c.role)
            .arg(age_of(c));
    default: return {};
    }
}

void ClientList::search(const QString& words, bool archived)
{
    beginResetModel();
    words_ = words;
    archived_ = archived;
    clients_ = store_->find_clients(words, page, 0, archived);
    total_ = store_->count_clients(words, archived);
    endResetModel();
}

void ClientList::fetchMore(const QModelIndex&)
{
    auto more = store_->find_clients(words_, page, rowCount(), archived_);
    if (more.empty()) {
        total_ = rowCount();
        return;
    }
    beginInsertRows({}, rowCount(), rowCount() + static_cast<int>(more.size()) - 1);
    clients_.insert(clients_.end(), std::make_move_iterator(more.begin()), std::make_move_iterator(more.end()));
    endInsertRows();
}

int ClientList::row_of(long id) const
{
    for (std::size_t i = 0; i < clients_.size(); ++i)
        if (clients_[i].id == id) return static_cast<int>(i);
    return -1;
}

} // namespace fusain::desk

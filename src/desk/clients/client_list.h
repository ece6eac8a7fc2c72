// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/store/store.h"

#include <QAbstractItemDelegate>
#include <QAbstractListModel>

namespace fusain::desk {

/// The clients found, read from the lab in pages as they are scrolled to.
class ClientList : public QAbstractListModel {
    Q_OBJECT
public:
    explicit ClientList(std::shared_ptr<records::Store> store, QObject* parent = nullptr)
        : QAbstractListModel(parent), store_(std::move(store))
    {
    }
    int rowCount(const QModelIndex& = {}) const override { return static_cast<int>(clients_.size()); }
    QVariant data(const QModelIndex& index, int role) const override;
    bool canFetchMore(const QModelIndex& parent) const override { return !parent.isValid() && rowCount() < total_; }
    void fetchMore(const QModelIndex& parent) override;
    void search(const QString& words, bool archived);
    int total() const { return total_; }
    const records::Client& at(int row) const { return clients_[static_cast<std::size_t>(row)]; }
    int row_of(long id) const;

private:
    std::shared_ptr<records::Store> store_;
    std::vector<records::Client> clients_;
    QString words_;
    bool archived_ = false;
    int total_ = 0;
};

/// A client on two lines: name and number, role and age.
QAbstractItemDelegate* client_delegate(QObject* parent);
/// On the lab's today.
int age_of(const records::Client& client);

} // namespace fusain::desk

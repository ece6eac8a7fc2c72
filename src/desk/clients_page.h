// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts.h"
#include "records/store.h"

#include <QAbstractListModel>
#include <QComboBox>
#include <QListView>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace fusain::desk {

class ClientList : public QAbstractListModel {
    Q_OBJECT
public:
    int rowCount(const QModelIndex& = {}) const override { return static_cast<int>(clients_.size()); }
    QVariant data(const QModelIndex& index, int role) const override;
    void show(std::vector<records::Client> clients);
    const records::Client& at(int row) const { return clients_[static_cast<std::size_t>(row)]; }
    int row_of(long id) const;

private:
    std::vector<records::Client> clients_;
};

/// Adding or changing a client: every field is checked, what is wrong is said at the field, the rest stays.
class ClientForm : public QWidget {
    Q_OBJECT
public:
    ClientForm(std::shared_ptr<records::Store> store, QWidget* parent = nullptr);
    void edit(const records::Client& client); ///< id 0: a new one

signals:
    void saved(long client_id);
    void cancelled();

private:
    void save();
    QLabel* trouble_for(const std::string& field);
    std::shared_ptr<records::Store> store_;
    records::Client client_;
    QLabel* heading_;
    QLineEdit *given_, *family_, *birth_, *role_, *phone_, *note_;
    QComboBox* sex_;
    NumberField* height_;
    std::map<std::string, QLabel*> troubles_;
    QLabel* general_;
};

/// Find a client by part of a name or number, open the record, add one.
class ClientsPage : public QWidget {
    Q_OBJECT
public:
    ClientsPage(std::shared_ptr<records::Store> store, QWidget* parent = nullptr);
    void refresh();
    void select(long client_id);
    void focus_search() { search_->setFocus(); search_->selectAll(); }

signals:
    void start_visit(long client_id);
    void open_visit(long visit_id);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void search();
    void show_client();
    QWidget* visit_line(const records::VisitRow& row);
    std::shared_ptr<records::Store> store_;
    QLineEdit* search_;
    QLabel* count_;
    QListView* list_;
    ClientList* model_;
    QStackedWidget* right_;
    QLabel *name_, *facts_, *note_, *trouble_;
    QVBoxLayout* visits_;
    KeyButton *start_, *edit_;
    ClientForm* form_;
    long shown_ = 0;
};

} // namespace fusain::desk

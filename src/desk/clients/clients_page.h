// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/clients/client_list.h"
#include "desk/clients/client_form.h"
#include "desk/clients/import_page.h"
#include "records/people/also_held.h"
#include "work/lab/lab.h"

#include <QComboBox>
#include <QListView>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace fusain::desk {

/// Find a client by part of a name or number, open the record, add one.
class ClientsPage : public QWidget {
    Q_OBJECT
public:
    explicit ClientsPage(work::Lab& lab, QWidget* parent = nullptr);
    ~ClientsPage() override;
    void refresh();
    void set_technician(std::function<QString()> who)
    {
        import_->set_technician(who);
        who_ = std::move(who);
    }
    void select(long client_id);
    void add();
    void import();
    long shown() const { return shown_; } ///< 0: none
    void focus_search()
    {
        search_->setFocus();
        search_->selectAll();
    }

signals:
    void start_visit(long client_id, fusain::Method method);
    void open_visit(long visit_id);
    void book(long client_id);
    void course(long client_id);
    void note(const QString& text);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    QWidget* make_list();
    void make_record();
    QLayout* make_keys();
    void connect_all();
    void search();
    void show_client();
    QWidget* visit_line(const records::VisitRow& row, const records::Snapshot* told, int files);
    void show_more(bool on);
    void begin_merge();
    void end_merge(bool really);
    void hand_out();
    void archive();
    void look_before_erasing();
    void ask_to_erase();
    void erase();
    void name_copies();
    work::Lab& lab_;
    std::shared_ptr<records::Store> store_;
    std::function<QString()> who_;
    QLineEdit* search_;
    QLabel* count_;
    QListView* list_;
    ClientList* model_;
    QStackedWidget* right_;
    QLabel *name_, *facts_, *note_, *trouble_;
    QVBoxLayout* visits_;
    std::vector<KeyButton*> starts_;
    std::vector<Method> start_methods_; ///< of the keys that are shown, the usual one first
    void order_starts();
    KeyButton *book_, *course_key_, *edit_, *more_, *merge_, *merge_yes_, *archive_, *export_, *erase_;
    WordButton* archived_;
    QWidget* more_row_;
    QLineEdit* erase_number_;
    WordButton* erase_copies_;
    struct Looking;
    std::shared_ptr<Looking> looking_;
    records::AlsoHeld held_; ///< what else holds the person who is to be deleted
    ClientForm* form_;
    ImportPage* import_;
    QWidget* record_ = nullptr;
    long shown_ = 0, merging_ = 0;
};

} // namespace fusain::desk

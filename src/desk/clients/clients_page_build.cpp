// SPDX-License-Identifier: GPL-3.0-or-later
// How the page of clients is put together.
#include "desk/clients/clients_page.h"

#include "bench/visit/methods.h"
#include "records/visits/attached.h"
#include "records/store/overview.h"
#include "report/sheets/sheets.h"

#include <QDate>
#include <QFileInfo>
#include <QFormLayout>
#include <QKeyEvent>

#include <algorithm>
#include <set>

namespace fusain::desk {

ClientsPage::ClientsPage(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), store_(lab.store), search_(new QLineEdit), count_(label("small")),
      list_(new QListView), model_(new ClientList(lab.store, this)), right_(new Pages)
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);

    columns->addWidget(make_list());
    columns->addWidget(hairline(true));

    make_record();
    form_ = new ClientForm(store_);
    import_ = new ImportPage(store_);
    right_->addWidget(record_);
    right_->addWidget(form_);
    right_->addWidget(import_);
    columns->addWidget(right_, 1);

    connect_all();
    search();
}

QWidget* ClientsPage::make_list()
{
    auto* left = new QWidget;
    left->setFixedWidth(370);
    auto* l = new QVBoxLayout(left);
    l->setContentsMargins(22, 24, 10, 16);
    l->addWidget(label("title", QStringLiteral("Who comes?")));
    search_->setObjectName(QStringLiteral("search"));
    search_->setPlaceholderText(QStringLiteral("part of a name, number or phone"));
    search_->installEventFilter(this);
    l->addWidget(search_);
    l->addWidget(count_);
    list_->setObjectName(QStringLiteral("clients"));
    list_->setModel(model_);
    list_->setItemDelegate(client_delegate(list_));
    list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    list_->setUniformItemSizes(true);
    l->addWidget(list_, 1);
    auto* add =
        new KeyButton(QKeySequence(QStringLiteral("Ctrl+N")), QStringLiteral("Ctrl N"), QStringLiteral("add a client"));
    add->setObjectName(QStringLiteral("add_client"));
    l->addWidget(add);
    auto* from_list = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+I")), QStringLiteral("Ctrl I"), QStringLiteral("import clients, results"));
    from_list->setObjectName(QStringLiteral("import_list"));
    archived_ = new WordButton(QStringLiteral("archived"), 14);
    archived_->setObjectName(QStringLiteral("show_archived"));
    auto* low = new WrappedRow;
    low->addWidget(from_list);
    low->addWidget(archived_);
    l->addLayout(low);
    connect(add, &QAbstractButton::clicked, this, &ClientsPage::add);
    connect(from_list, &QAbstractButton::clicked, this, &ClientsPage::import);
    return left;
}

/// The record of whoever is chosen.
void ClientsPage::make_record()
{
    auto* record = record_ = new QWidget;
    auto* r = new QVBoxLayout(record);
    r->setContentsMargins(34, 26, 34, 16);
    name_ = label("title");
    name_->setObjectName(QStringLiteral("client_name"));
    facts_ = label("small");
    note_ = label("text");
    r->addWidget(name_);
    r->addWidget(facts_);
    r->addWidget(note_);
    r->addSpacing(12);
    r->addLayout(make_keys());
    more_row_ = new QWidget;
    auto* mcol = new QVBoxLayout(more_row_);
    mcol->setContentsMargins(0, 4, 0, 0);
    auto* mrow = new WrappedRow;
    mrow->setSpacing(12);
    const auto more_key = [&](const char* k, const char* cap, const char* words, const char* name) {
        auto* b =
            new KeyButton(QKeySequence(QString::fromLatin1(k)), QString::fromLatin1(cap), QString::fromLatin1(words));
        b->setObjectName(QString::fromLatin1(name));
        mrow->addWidget(b);
        return b;
    };
    merge_ = more_key("Ctrl+M", "Ctrl M", "merge", "merge_client");
    archive_ = more_key("Ctrl+Shift+A", "Ctrl Shift A", "archive", "archive_client");
    export_ = more_key("Ctrl+Shift+E", "Ctrl Shift E", "hand out everything", "export_client");
    erase_ = more_key("Ctrl+Shift+Delete", "Ctrl Shift Del", "delete", "erase_client");
    mcol->addLayout(mrow);
    erase_number_ = new QLineEdit;
    erase_number_->setObjectName(QStringLiteral("erase_number"));
    erase_number_->setMaximumWidth(Theme::get().px(420));
    erase_number_->hide();
    erase_copies_ = new WordButton(QString(), 14);
    erase_copies_->setObjectName(QStringLiteral("erase_copies"));
    erase_copies_->setShortcut(QKeySequence(QStringLiteral("Ctrl+K")));
    connect(erase_copies_, &QAbstractButton::toggled, this, &ClientsPage::name_copies);
    erase_copies_->hide();
    mcol->addWidget(erase_copies_, 0, Qt::AlignLeft);
    mcol->addWidget(erase_number_);
    more_row_->hide();
    r->addWidget(more_row_);
    merge_yes_ = new KeyButton(QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"),
        QStringLiteral("merge into this record"));
    merge_yes_->setObjectName(QStringLiteral("merge_yes"));
    merge_yes_->set_main(true);
    merge_yes_->hide();
    r->addWidget(merge_yes_);
    trouble_ = label("trouble");
    trouble_->hide();
    r->addWidget(trouble_);
    r->addSpacing(16);
    auto* visit_box = new QWidget;
    visits_ = new QVBoxLayout(visit_box);
    visits_->setContentsMargins(0, 0, 8, 0);
    visits_->setSpacing(0);
    r->addWidget(new Scroll(visit_box), 1);
    trouble_->setObjectName(QStringLiteral("client_said"));
}

QLayout* ClientsPage::make_keys()
{
    auto* keys = new WrappedRow;
    // a key a method that has a bench here, in the order of their list
    constexpr const char* keys_of[][2] = {{"Ctrl+Return", "Ctrl ⏎"}, {"Alt+Return", "Alt ⏎"},
        {"Ctrl+Shift+Return", "Ctrl ⇧ ⏎"}, {"Alt+Shift+Return", "Alt ⇧ ⏎"}};
    for (const bench::BenchRow* row : bench::methods()) {
        const bool has_key = starts_.size() < std::size(keys_of); // what follows is only clicked
        auto* start =
            new KeyButton(has_key ? QKeySequence(QString::fromLatin1(keys_of[starts_.size()][0])) : QKeySequence(),
                has_key ? QString::fromUtf8(keys_of[starts_.size()][1]) : QString(),
                QString::fromLatin1(row->method->place));
        start->set_main(starts_.empty());
        connect(start, &QAbstractButton::clicked, this, [this, at = starts_.size()] {
            if (shown_ && at < start_methods_.size()) emit start_visit(shown_, start_methods_[at]);
        });
        starts_.push_back(start);
        keys->addWidget(start);
    }
    edit_ = new KeyButton(QKeySequence(Qt::Key_F2), QStringLiteral("F2"), QStringLiteral("change"));
    book_ = new KeyButton(QKeySequence(QStringLiteral("Ctrl+B")), QStringLiteral("Ctrl B"), QStringLiteral("book"));
    book_->setObjectName(QStringLiteral("book_client"));
    more_ = new KeyButton(QKeySequence(Qt::Key_F4), QStringLiteral("F4"), QStringLiteral("more"));
    more_->setObjectName(QStringLiteral("more"));
    course_key_ = new KeyButton(QKeySequence(Qt::Key_F3), QStringLiteral("F3"), QStringLiteral("course, plan, tell"));
    course_key_->setObjectName(QStringLiteral("course_client"));
    for (auto* k : {course_key_, book_, edit_, more_}) keys->addWidget(k);
    return keys;
}

void ClientsPage::connect_all()
{
    connect(search_, &QLineEdit::textChanged, this, &ClientsPage::search);
    connect(search_, &QLineEdit::returnPressed, this, [this] { list_->setFocus(); });
    connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this, &ClientsPage::show_client);
    connect(list_, &QListView::clicked, this, [this] { right_->setCurrentIndex(0); });
    connect(edit_, &QAbstractButton::clicked, this, [this] {
        if (const auto c = store_->client(shown_)) form_->edit(*c);
        right_->setCurrentWidget(form_);
    });
    connect(form_, &ClientForm::saved, this, [this](long id) {
        search_->clear();
        search();
        select(id);
        right_->setCurrentIndex(0);
        list_->setFocus();
    });
    connect(form_, &ClientForm::cancelled, this, [this] { right_->setCurrentIndex(0); });
    connect(form_, &ClientForm::open_record, this, [this](long id) {
        if (const auto c = store_->client(id)) {
            archived_->setChecked(c->archived);
            search_->setText(c->number);
            select(id);
        }
        right_->setCurrentIndex(0);
    });
    connect(import_, &ImportPage::left, this, [this] { right_->setCurrentIndex(0); });
    connect(import_, &ImportPage::done, this, [this](const QString& words) {
        right_->setCurrentIndex(0);
        search_->clear();
        search();
        emit note(words);
    });
    connect(archived_, &QAbstractButton::toggled, this, &ClientsPage::search);
    connect(book_, &QAbstractButton::clicked, this, [this] {
        if (shown_) emit book(shown_);
    });
    connect(course_key_, &QAbstractButton::clicked, this, [this] {
        if (shown_) emit course(shown_);
    });
    connect(more_, &QAbstractButton::clicked, this, [this] { show_more(more_row_->isHidden()); });
    connect(merge_, &QAbstractButton::clicked, this, &ClientsPage::begin_merge);
    connect(merge_yes_, &QAbstractButton::clicked, this, [this] { end_merge(true); });
    connect(archive_, &QAbstractButton::clicked, this, &ClientsPage::archive);
    connect(export_, &QAbstractButton::clicked, this, &ClientsPage::hand_out);
    connect(erase_, &QAbstractButton::clicked, this, &ClientsPage::look_before_erasing);
    connect(erase_number_, &QLineEdit::returnPressed, this, &ClientsPage::erase);
    connect(&Units::get(), &Units::changed, this, &ClientsPage::show_client);
}

} // namespace fusain::desk

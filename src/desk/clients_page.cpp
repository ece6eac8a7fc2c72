// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/clients_page.h"

#include "report/sheets.h"

#include <QDate>
#include <QFormLayout>
#include <QKeyEvent>
#include <QPainter>
#include <QScrollArea>
#include <QStyle>
#include <QStyledItemDelegate>

namespace fusain::desk {
namespace {

using look::Voice;

QString today() { return QDate::currentDate().toString(Qt::ISODate); }

int age_of(const records::Client& c) { return static_cast<int>(bench::age_between(c.birth_date.toStdString(), today().toStdString())); }

class ClientDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {100, Theme::get().px(54)}; }
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
        p->drawText(r, Qt::AlignLeft | Qt::AlignTop, p->fontMetrics().elidedText(i.data(Qt::DisplayRole).toString(), Qt::ElideRight, r.width() - t.px(46)));
        p->setFont(look::font(Voice::measured, t.px(13)));
        p->setPen(c.smudge);
        p->drawText(r, Qt::AlignRight | Qt::AlignTop, i.data(Qt::UserRole + 1).toString());
        p->setFont(look::font(Voice::text, t.px(13)));
        p->drawText(r, Qt::AlignLeft | Qt::AlignBottom, p->fontMetrics().elidedText(i.data(Qt::UserRole + 2).toString(), Qt::ElideRight, r.width()));
        p->restore();
    }
};

} // namespace

QVariant ClientList::data(const QModelIndex& index, int role) const
{
    const records::Client& c = at(index.row());
    switch (role) {
    case Qt::DisplayRole: return c.full_name();
    case Qt::UserRole + 1: return c.number;
    case Qt::UserRole + 2: return QStringLiteral("%1 · %2 y").arg(c.role.isEmpty() ? QStringLiteral("no role noted") : c.role).arg(age_of(c));
    default: return {};
    }
}

void ClientList::show(std::vector<records::Client> clients)
{
    beginResetModel();
    clients_ = std::move(clients);
    endResetModel();
}

int ClientList::row_of(long id) const
{
    for (std::size_t i = 0; i < clients_.size(); ++i)
        if (clients_[i].id == id) return static_cast<int>(i);
    return -1;
}

ClientForm::ClientForm(std::shared_ptr<records::Store> store, QWidget* parent)
    : QWidget(parent), store_(std::move(store)), heading_(label("title")), given_(new QLineEdit), family_(new QLineEdit), birth_(new QLineEdit), role_(new QLineEdit), phone_(new QLineEdit), note_(new QLineEdit), sex_(new ChoiceBox), height_(new NumberField("height_cm", Measure::length)), general_(label("trouble"))
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(34, 26, 34, 20);
    column->addWidget(heading_);
    column->addSpacing(10);
    auto* form = new QFormLayout;
    form->setHorizontalSpacing(18);
    form->setVerticalSpacing(8);
    form->setLabelAlignment(Qt::AlignLeft);
    const auto row = [&](const char* title, const char* field, QWidget* input, const char* name) {
        input->setObjectName(QString::fromLatin1(name));
        input->setMaximumWidth(420);
        auto* box = new QWidget;
        auto* v = new QVBoxLayout(box);
        v->setContentsMargins(0, 0, 0, 0);
        v->setSpacing(2);
        v->addWidget(input);
        troubles_[field] = label("trouble");
        troubles_[field]->hide();
        v->addWidget(troubles_[field]);
        auto* words = label("small", QString::fromUtf8(title));
        words->setContentsMargins(0, 7, 0, 0);
        form->addRow(words, box);
    };
    birth_->setPlaceholderText(QStringLiteral("year-month-day"));
    sex_->addItem(QStringLiteral("choose"), QString());
    sex_->addItem(QStringLiteral("female"), QStringLiteral("female"));
    sex_->addItem(QStringLiteral("male"), QStringLiteral("male"));
    row("Given name", "given_name", given_, "given_name");
    row("Family name", "family_name", family_, "family_name");
    row("Date of birth", "birth_date", birth_, "birth_date");
    row("Sex used by the equations", "sex", sex_, "sex");
    row("Height, measured", "height_cm", height_, "height_box");
    row("Role", "role", role_, "role");
    row("Phone", "phone", phone_, "phone");
    row("Note", "note", note_, "note");
    column->addLayout(form);
    general_->hide();
    column->addWidget(general_);
    column->addSpacing(14);
    auto* keys = new QHBoxLayout;
    auto* save_button = new KeyButton(QKeySequence(QStringLiteral("Ctrl+S")), QStringLiteral("Ctrl S"), QStringLiteral("keep"));
    save_button->setObjectName(QStringLiteral("save_client"));
    save_button->set_main(true);
    auto* cancel = new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("leave without keeping"));
    keys->addWidget(save_button);
    keys->addSpacing(14);
    keys->addWidget(cancel);
    keys->addStretch();
    column->addLayout(keys);
    column->addStretch();
    connect(save_button, &QAbstractButton::clicked, this, &ClientForm::save);
    connect(cancel, &QAbstractButton::clicked, this, &ClientForm::cancelled);
}

void ClientForm::edit(const records::Client& client)
{
    client_ = client;
    heading_->setText(client.id ? QStringLiteral("Change the record of %1").arg(client.full_name()) : QStringLiteral("Add a client"));
    given_->setText(client.given_name);
    family_->setText(client.family_name);
    birth_->setText(client.birth_date);
    role_->setText(client.role);
    phone_->setText(client.phone);
    note_->setText(client.note);
    sex_->setCurrentIndex(client.id ? (client.sex == Sex::female ? 1 : 2) : 0);
    height_->set_metric(client.height_cm > 0 ? std::optional<double>(client.height_cm) : std::nullopt);
    for (auto& [field, trouble] : troubles_) trouble->hide();
    general_->hide();
    given_->setFocus();
}

void ClientForm::save()
{
    for (auto& [field, trouble] : troubles_) trouble->hide();
    general_->hide();
    records::Client c = client_;
    c.given_name = given_->text().trimmed();
    c.family_name = family_->text().trimmed();
    c.birth_date = birth_->text().trimmed();
    c.role = role_->text().trimmed();
    c.phone = phone_->text().trimmed();
    c.note = note_->text().trimmed();
    c.sex = sex_->currentData().toString() == "male" ? Sex::male : Sex::female;
    const auto height = height_->metric();
    c.height_cm = height.value_or(170); // its own message is shown at the field
    Messages bad = records::check(c, today());
    if (sex_->currentData().toString().isEmpty()) bad.push_back({"missing_field", Level::error, "sex", "Choose which sex the equations use."});
    for (const Message& m : bad) {
        const auto at = troubles_.find(m.field);
        if (at == troubles_.end()) continue;
        at->second->setText(q(m.text));
        at->second->show();
    }
    if (!bad.empty() || !height) return;
    const auto stored = store_->save(c);
    if (!stored) {
        general_->setText(q(stored.messages().front().text));
        general_->show();
        return;
    }
    emit saved(stored->id);
}

ClientsPage::ClientsPage(std::shared_ptr<records::Store> store, QWidget* parent) : QWidget(parent), store_(std::move(store)), search_(new QLineEdit), count_(label("small")), list_(new QListView), model_(new ClientList), right_(new QStackedWidget)
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);

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
    model_->setParent(this);
    list_->setObjectName(QStringLiteral("clients"));
    list_->setModel(model_);
    list_->setItemDelegate(new ClientDelegate(list_));
    list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    list_->setUniformItemSizes(true);
    l->addWidget(list_, 1);
    auto* add = new KeyButton(QKeySequence(QStringLiteral("Ctrl+N")), QStringLiteral("Ctrl N"), QStringLiteral("add a client"));
    add->setObjectName(QStringLiteral("add_client"));
    l->addWidget(add);
    columns->addWidget(left);
    columns->addWidget(hairline(true));

    auto* record = new QWidget;
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
    auto* keys = new QHBoxLayout;
    start_ = new KeyButton(QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"), QStringLiteral("weigh under water"));
    start_->setObjectName(QStringLiteral("start_visit"));
    start_->set_main(true);
    edit_ = new KeyButton(QKeySequence(Qt::Key_F2), QStringLiteral("F2"), QStringLiteral("change the record"));
    keys->addWidget(start_);
    keys->addSpacing(16);
    keys->addWidget(edit_);
    keys->addStretch();
    r->addLayout(keys);
    trouble_ = label("trouble");
    trouble_->hide();
    r->addWidget(trouble_);
    r->addSpacing(16);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    auto* visit_box = new QWidget;
    visits_ = new QVBoxLayout(visit_box);
    visits_->setContentsMargins(0, 0, 8, 0);
    visits_->setSpacing(0);
    scroll->setWidget(visit_box);
    r->addWidget(scroll, 1);
    form_ = new ClientForm(store_);
    right_->addWidget(record);
    right_->addWidget(form_);
    columns->addWidget(right_, 1);

    connect(search_, &QLineEdit::textChanged, this, &ClientsPage::search);
    connect(search_, &QLineEdit::returnPressed, this, [this] { list_->setFocus(); });
    connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this, &ClientsPage::show_client);
    connect(list_, &QListView::clicked, this, [this] { right_->setCurrentIndex(0); });
    connect(add, &QAbstractButton::clicked, this, [this] {
        form_->edit({});
        right_->setCurrentWidget(form_);
    });
    connect(edit_, &QAbstractButton::clicked, this, [this] {
        if (const auto c = store_->client(shown_)) form_->edit(*c);
        right_->setCurrentWidget(form_);
    });
    connect(start_, &QAbstractButton::clicked, this, [this] { if (shown_) emit start_visit(shown_); });
    connect(form_, &ClientForm::saved, this, [this](long id) {
        search_->clear();
        search();
        select(id);
        right_->setCurrentIndex(0);
        list_->setFocus();
    });
    connect(form_, &ClientForm::cancelled, this, [this] { right_->setCurrentIndex(0); });
    connect(&Units::get(), &Units::changed, this, &ClientsPage::show_client);
    search();
}

bool ClientsPage::eventFilter(QObject* watched, QEvent* event)
{
    if (watched == search_ && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            const int row = std::clamp(list_->currentIndex().row() + (key == Qt::Key_Down ? 1 : -1), 0, std::max(0, model_->rowCount() - 1));
            list_->setCurrentIndex(model_->index(row));
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

void ClientsPage::refresh()
{
    const long id = shown_;
    search();
    select(id);
}

void ClientsPage::select(long id)
{
    const int row = model_->row_of(id);
    if (row >= 0) list_->setCurrentIndex(model_->index(row));
    show_client();
}

void ClientsPage::search()
{
    model_->show(store_->find_clients(search_->text()));
    const int n = model_->rowCount();
    count_->setText(n == 0 ? QStringLiteral("Nobody by that name or number. Ctrl N adds a client.") : n == 1 ? QStringLiteral("1 client") : QStringLiteral("%1 clients").arg(n));
    if (n > 0) list_->setCurrentIndex(model_->index(0));
    else show_client();
}

void ClientsPage::show_client()
{
    while (QLayoutItem* item = visits_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    const QModelIndex at = list_->currentIndex();
    const bool any = at.isValid() && at.row() < model_->rowCount();
    for (QWidget* w : {static_cast<QWidget*>(start_), static_cast<QWidget*>(edit_), static_cast<QWidget*>(facts_), static_cast<QWidget*>(note_)}) w->setVisible(any);
    if (!any) {
        shown_ = 0;
        name_->setText(QStringLiteral("No client chosen"));
        return;
    }
    const records::Client& c = model_->at(at.row());
    shown_ = c.id;
    name_->setText(c.full_name());
    facts_->setText(QStringLiteral("number %1  ·  %2%3  ·  born %4, %5 y  ·  %6  ·  equations: %7%8")
                        .arg(c.number, c.role, c.role.isEmpty() ? QStringLiteral("no role noted") : QString(), report::date_words(c.birth_date.toStdString()))
                        .arg(age_of(c))
                        .arg(Units::get().text(Measure::length, c.height_cm, 1), QString::fromLatin1(word(c.sex)), c.phone.isEmpty() ? QString() : QStringLiteral("  ·  ") + c.phone));
    note_->setText(c.note);
    note_->setVisible(!c.note.isEmpty());
    const auto rows = store_->visits_of(c.id);
    visits_->addWidget(label("heading", rows.empty() ? QStringLiteral("No visit yet") : QStringLiteral("Visits")));
    visits_->addSpacing(6);
    for (const auto& row : rows) {
        visits_->addWidget(visit_line(row));
        visits_->addWidget(hairline(false));
    }
    visits_->addStretch();
}

QWidget* ClientsPage::visit_line(const records::VisitRow& row)
{
    auto* line = new QWidget;
    auto* h = new QHBoxLayout(line);
    h->setContentsMargins(0, 7, 0, 7);
    const auto visit = store_->replay(row.id);
    auto* date = label("text", report::date_words(row.started_at.toStdString()));
    date->setMinimumWidth(Theme::get().px(150));
    date->setWordWrap(false);
    h->addWidget(date);
    QString words = row.finished ? QStringLiteral("hydrostatic") : QStringLiteral("hydrostatic, not finished");
    const auto result = visit ? visit->result() : Outcome<hydrostatic::Result>::refuse(visit.messages());
    if (visit && visit->stopped()) words = QStringLiteral("stopped for safety");
    auto* number = label("number", result ? QStringLiteral("%1 % fat ± %2").arg(result->value[hydrostatic::fat_percent], 0, 'f', 1).arg(result->fat_budget.u, 0, 'f', 1) : QString());
    number->setWordWrap(false);
    auto* masses = label("small", result ? QStringLiteral("%1 fat, %2 fat-free").arg(Units::get().text(Measure::mass, result->value[hydrostatic::fat_mass], 1), Units::get().text(Measure::mass, result->value[hydrostatic::fat_free_mass], 1)) : words);
    h->addWidget(number);
    h->addSpacing(16);
    h->addWidget(masses, 1);
    auto* open = new KeyButton({}, QStringLiteral("⏎"), row.finished ? QStringLiteral("open") : QStringLiteral("go on"));
    h->addWidget(open);
    connect(open, &QAbstractButton::clicked, this, [this, id = row.id] { emit open_visit(id); });
    return line;
}

} // namespace fusain::desk

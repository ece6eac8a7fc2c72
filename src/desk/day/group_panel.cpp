// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/day/group_panel.h"

#include "records/base/clock.h"

#include <QBoxLayout>
#include <QGridLayout>

#include <algorithm>

namespace fusain::desk {

constexpr int pause_ms = 200;

GroupPanel::GroupPanel(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), names_(new QPlainTextEdit), role_(new ChoiceBox), method_(new ChoiceBox),
      day_(new QLineEdit), from_(new QLineEdit), each_(new QLineEdit), lanes_row_(new WrappedRow),
      list_(list_of_words()), said_(label("small")), trouble_(label("trouble"))
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(34, 22, 34, 16);
    columns->setSpacing(34);
    auto* left = new QVBoxLayout;
    left->setSpacing(6);
    left->addWidget(label("title", QStringLiteral("A crew in one go")));
    left->addWidget(label("small", QStringLiteral("Who comes, in this order: a name or a number a line")));
    names_->setObjectName(QStringLiteral("group_names"));
    names_->setTabChangesFocus(true);
    left->addWidget(names_, 1);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(12);
    grid->setVerticalSpacing(5);
    grid->setColumnStretch(2, 1);
    left->addLayout(grid);
    const auto row = [&](const QString& words, QWidget* field, const char* name) {
        const int at = grid->rowCount();
        auto* w = label("small", words);
        w->setWordWrap(false);
        grid->addWidget(w, at, 0);
        grid->addWidget(field, at, 1, Qt::AlignLeft);
        field->setObjectName(QString::fromLatin1(name));
    };
    row(QStringLiteral("Add everybody who is"), role_, "group_role");
    row(QStringLiteral("Measured by"), method_, "group_method");
    row(QStringLiteral("Day"), day_, "group_day");
    row(QStringLiteral("First client at"), from_, "group_from");
    row(QStringLiteral("Minutes each"), each_, "group_each");
    for (ChoiceBox* box : {role_, method_}) {
        box->setMinimumContentsLength(18);
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    }
    day_->setMaximumWidth(130);
    from_->setMaximumWidth(80);
    each_->setMaximumWidth(60);
    left->addWidget(label("small", QStringLiteral("On (Alt Shift 1, 2 …)")));
    left->addLayout(lanes_row_);
    columns->addLayout(left, 5);
    columns->addWidget(hairline(true));
    auto* right = new QVBoxLayout;
    right->setSpacing(6);
    right->addWidget(label("heading", QStringLiteral("Who comes when")));
    said_->setObjectName(QStringLiteral("group_said"));
    right->addWidget(said_);
    list_->setObjectName(QStringLiteral("group_list"));
    right->addWidget(list_, 1);
    trouble_->setObjectName(QStringLiteral("group_trouble"));
    right->addWidget(trouble_);
    auto* keys = new WrappedRow;
    keys->setSpacing(8);
    book_ = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"), QStringLiteral("book all of them"));
    book_->setObjectName(QStringLiteral("group_book"));
    book_->set_main(true);
    back_ = new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("back to the day"));
    keys->addWidget(book_);
    keys->addWidget(back_);
    right->addLayout(keys);
    columns->addLayout(right, 6);

    // thirty names in a lab of thousands are looked up once somebody pauses, not at every key
    soon_.setSingleShot(true);
    connect(names_, &QPlainTextEdit::textChanged, &soon_, [this] { soon_.start(pause_ms); });
    connect(&soon_, &QTimer::timeout, this, &GroupPanel::line_up);
    connect(role_, &QComboBox::activated, this, [this] {
        add_role(role_->currentData().toString());
        role_->setCurrentIndex(0);
    });
    connect(method_, &QComboBox::activated, this, [this] {
        fill_instruments();
        line_up();
    });
    for (QLineEdit* e : {day_, from_, each_}) connect(e, &QLineEdit::textChanged, this, &GroupPanel::line_up);
    connect(book_, &QAbstractButton::clicked, this, &GroupPanel::book);
    connect(back_, &QAbstractButton::clicked, this, &GroupPanel::cancelled);
}

void GroupPanel::begin(const QDate& day)
{
    const QSignalBlocker quiet_day(day_), quiet_from(from_), quiet_each(each_), quiet_names(names_);
    names_->clear();
    day_->setText(day.toString(Qt::ISODate));
    from_->setText(QStringLiteral("08:00"));
    each_->setText(QStringLiteral("10"));
    role_->clear();
    role_->addItem(QStringLiteral("choose a role"), QString());
    for (const QString& r : lab_.store->roles()) role_->addItem(r, r);
    method_->clear();
    for (Method m : all_methods()) method_->addItem(QString::fromLatin1(m->title), QString::fromLatin1(m->word));
    fill_instruments();
    line_up();
    names_->setFocus();
}

void GroupPanel::fill_instruments()
{
    while (QLayoutItem* item = lanes_row_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    lanes_.clear();
    const auto method = method_of(method_->currentData().toString().toStdString());
    for (const records::Instrument& i : lab_.diary->instruments()) {
        if (!i.in_use || i.kind->method != method) continue;
        auto* w = toggle(i.name, 16);
        w->setShortcut(QKeySequence(QStringLiteral("Alt+Shift+%1").arg(lanes_.size() + 1)));
        w->setChecked(lanes_.empty());
        connect(w, &QAbstractButton::toggled, this, &GroupPanel::line_up);
        lanes_.emplace_back(i.serial.toStdString(), w);
        lanes_row_->addWidget(w);
    }
}

void GroupPanel::add_role(const QString& role)
{
    if (role.isEmpty()) return;
    QStringList lines = names_->toPlainText().split('\n', Qt::SkipEmptyParts);
    for (const records::Client& c : lab_.store->clients_of_role(role))
        if (!lines.contains(c.full_name())) lines << c.full_name();
    names_->setPlainText(lines.join('\n'));
}

void GroupPanel::line_up()
{
    soon_.stop();
    list_->clear();
    slots_.clear();
    said_->clear();
    QStringList trouble;
    const auto method = method_of(method_->currentData().toString().toStdString());
    if (!method) return;
    schedule::Group g{*method};
    for (const QString& line : names_->toPlainText().split('\n', Qt::SkipEmptyParts)) {
        const QString words = line.trimmed();
        if (words.isEmpty()) continue;
        auto found = lab_.store->find_clients(words, 50); // "Le Goff" begins others' names too
        const auto begin_so = found.size();
        std::erase_if(found, [&](const records::Client& c) {
            return found.size() > 1 && c.number != words && c.full_name().compare(words, Qt::CaseInsensitive) != 0;
        });
        if (found.size() != 1)
            trouble << (begin_so == 0 ? QStringLiteral("◆ nobody is called \"%1\"").arg(words)
                                      : QStringLiteral("◆ %1 people fit \"%2\": write the whole name or the number")
                                            .arg(std::max(begin_so, found.size()))
                                            .arg(words));
        else if (std::count(g.clients.begin(), g.clients.end(), found.front().id))
            trouble << QStringLiteral("◆ twice in the list: %1").arg(words);
        else
            g.clients.push_back(found.front().id);
    }
    for (const auto& [serial, button] : lanes_)
        if (button->isChecked()) g.instruments.push_back(serial);
    const QDate day = QDate::fromString(day_->text().trimmed(), Qt::ISODate);
    const QTime at = QTime::fromString(from_->text().trimmed(), QStringLiteral("HH:mm"));
    bool number = false;
    g.each_min = each_->text().trimmed().toInt(&number);
    if (!day.isValid())
        trouble << QStringLiteral("◆ the day is \"%1\"; write year-month-day").arg(day_->text());
    else if (!at.isValid())
        trouble << QStringLiteral("◆ the time is \"%1\"; write hours:minutes, 08:00").arg(from_->text());
    else if (!number)
        trouble << QStringLiteral("◆ minutes each are \"%1\"; write a number").arg(each_->text());
    else if (lanes_.empty())
        trouble << QStringLiteral("◆ there is no instrument in use for this");
    else if (!g.clients.empty()) {
        g.from = records::minute_at(day, at, lab_.diary->zone());
        if (g.from < records::minute_of(lab_.now())) trouble << QStringLiteral("◆ that time has passed");
        schedule::Lab planning = lab_.planning(day, day);
        const auto placed = schedule::line_up(planning, g);
        if (!placed) {
            trouble << QStringLiteral("◆ ") + q(placed.messages().front().text);
        } else {
            slots_ = *placed;
            const auto clock = [&](schedule::Minute m) {
                return records::local_of(m, lab_.diary->zone()).toString(QStringLiteral("HH:mm"));
            };
            planning.tests.insert(planning.tests.end(), slots_.begin(), slots_.end());
            for (const schedule::Start& s : schedule::starts(planning))
                if (s.first && std::count(g.instruments.begin(), g.instruments.end(), s.instrument))
                    list_->addItem(QStringLiteral("%1   %2: %3")
                                       .arg(clock(s.at.from), lab_.instrument_name(s.instrument), q(s.words)));
            for (const schedule::Slot& s : slots_) {
                const auto soon = lab_.diary->too_soon(s.client, s.method, day, 0);
                list_->addItem(QStringLiteral("%1   %2, %3%4")
                                   .arg(clock(s.at.from), lab_.name_of(s.client), lab_.instrument_name(s.instrument),
                                       soon ? QStringLiteral("\n◆ ") + q(soon->text) : QString()));
                if (soon) trouble << QStringLiteral("◆ too soon for %1: take the line out").arg(lab_.name_of(s.client));
            }
            said_->setText(QStringLiteral("%1 people, %2 to %3. The quality check comes before the first.")
                               .arg(slots_.size())
                               .arg(clock(slots_.front().at.from), clock(std::max_element(slots_.begin(), slots_.end(),
                                                                       [](const auto& a, const auto& b) {
                                                                           return a.at.to < b.at.to;
                                                                       })->at.to)));
        }
    } else {
        said_->setText(QStringLiteral("Write who comes, or add everybody with one role."));
    }
    trouble_->setText(trouble.join('\n'));
    trouble_->setVisible(!trouble.isEmpty());
    book_->setEnabled(!slots_.empty() && trouble.isEmpty());
}

void GroupPanel::book()
{
    if (soon_.isActive()) line_up(); // what is booked is what stands there
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty() || slots_.empty() || !book_->isEnabled()) return;
    std::vector<records::Booking> all;
    for (const schedule::Slot& s : slots_) {
        records::Booking b;
        b.client_id = s.client;
        b.made_by = who;
        b.note = QStringLiteral("group");
        b.parts = {s};
        all.push_back(std::move(b));
    }
    const QDate day = records::local_of(slots_.front().at.from, lab_.diary->zone()).date();
    const auto stored = lab_.diary->book_all(all);
    if (!stored) {
        line_up();
        trouble_->setText(QStringLiteral("◆ Nobody was booked: %1").arg(q(stored.messages().front().text)));
        return trouble_->show();
    }
    lab_.say_changed();
    emit booked(day);
}

} // namespace fusain::desk

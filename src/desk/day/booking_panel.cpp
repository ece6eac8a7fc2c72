// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/day/day_page.h"

#include "records/base/clock.h"
#include "report/sheets/sheets.h"

#include <QKeyEvent>

namespace fusain::desk {

BookingPanel::BookingPanel(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), search_(new QLineEdit), from_(new QLineEdit), days_(new QLineEdit),
      clients_(list_of_words()), times_(list_of_words()),
      title_(label("title", QStringLiteral("Who comes, and what for?"))), said_(label("small")),
      trouble_(label("trouble")), history_(label("small"))
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(34, 22, 34, 16);
    columns->setSpacing(34);
    auto* left = new QVBoxLayout;
    left->setSpacing(6);
    left->addWidget(title_);
    left->addWidget(label("small", QStringLiteral("Client")));
    search_->setObjectName(QStringLiteral("book_search"));
    search_->setPlaceholderText(QStringLiteral("part of a name, number or phone"));
    left->addWidget(search_);
    clients_->setObjectName(QStringLiteral("book_clients"));
    clients_->setMaximumHeight(Theme::get().px(190));
    left->addWidget(clients_);
    left->addWidget(history_);
    left->addSpacing(10);
    left->addWidget(label("small", QStringLiteral("Methods, in the order they are done (Alt Shift 1 to 4)")));
    auto* row = new WrappedRow;
    int n = 0;
    for (Method m : all_methods()) {
        auto* w = toggle(QString::fromLatin1(m->title), 16);
        ++n;
        w->setObjectName(QStringLiteral("method_") + QString::fromLatin1(m->word));
        w->setShortcut(QKeySequence(QStringLiteral("Alt+Shift+%1").arg(n)));
        w->setToolTip(QStringLiteral("Alt Shift %1").arg(n));
        connect(w, &QAbstractButton::toggled, this, &BookingPanel::propose);
        methods_.push_back(w);
        row->addWidget(w);
    }
    left->addLayout(row);
    left->addSpacing(10);
    auto* when = new QHBoxLayout;
    from_->setObjectName(QStringLiteral("book_from"));
    from_->setMaximumWidth(130);
    days_->setObjectName(QStringLiteral("book_days"));
    days_->setMaximumWidth(60);
    days_->setText(QStringLiteral("7"));
    when->setSpacing(8);
    when->addWidget(label("small", QStringLiteral("From day")));
    when->addWidget(from_);
    when->addWidget(label("small", QStringLiteral("look at")));
    when->addWidget(days_);
    auto* days_words = label("small", QStringLiteral("days"));
    when->addWidget(days_words);
    when->addStretch();
    left->addLayout(when);
    left->addStretch(1);
    columns->addLayout(left, 5);
    columns->addWidget(hairline(true));
    auto* right = new QVBoxLayout;
    right->setSpacing(6);
    right->addWidget(label("heading", QStringLiteral("Times")));
    said_->setObjectName(QStringLiteral("book_said"));
    right->addWidget(said_);
    times_->setObjectName(QStringLiteral("book_times"));
    times_->setSpacing(4);
    right->addWidget(times_, 1);
    trouble_->setObjectName(QStringLiteral("book_trouble"));
    trouble_->hide();
    right->addWidget(trouble_);
    auto* keys = new WrappedRow;
    keys->setSpacing(8);
    book_ = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"), QStringLiteral("book this time"));
    book_->setObjectName(QStringLiteral("book_time"));
    book_->set_main(true);
    back_ = new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("back to the day"));
    keys->addWidget(book_);
    keys->addWidget(back_);
    right->addLayout(keys);
    columns->addLayout(right, 6);
    for (auto* l : findChildren<QLabel*>())
        if (l != said_ && l != trouble_ && l != title_) l->setWordWrap(false);

    connect(search_, &QLineEdit::textChanged, this, &BookingPanel::search);
    connect(search_, &QLineEdit::returnPressed, this, [this] {
        if (clients_->count()) methods_.front()->setFocus();
    });
    connect(clients_, &QListWidget::currentRowChanged, this, [this](int at) {
        client_ = at >= 0 && at < static_cast<int>(found_.size()) ? found_[static_cast<std::size_t>(at)] : 0;
        propose();
    });
    connect(from_, &QLineEdit::editingFinished, this, &BookingPanel::propose);
    connect(days_, &QLineEdit::editingFinished, this, &BookingPanel::propose);
    connect(book_, &QAbstractButton::clicked, this, [this] { take(times_->currentRow()); });
    connect(times_, &QListWidget::itemActivated, this, [this] { take(times_->currentRow()); });
    connect(back_, &QAbstractButton::clicked, this, &BookingPanel::cancelled);
}

void BookingPanel::begin(long client_id, const QDate& from, const std::vector<Method>& methods)
{
    {
        const QSignalBlocker quiet(search_);
        const auto c = lab_.store->client(client_id);
        search_->setText(c ? c->number : QString());
    }
    from_->setText(from.toString(Qt::ISODate));
    for (std::size_t i = 0; i < methods_.size(); ++i) {
        const QSignalBlocker quiet(methods_[i]);
        methods_[i]->setChecked(std::find(methods.begin(), methods.end(), all_methods()[i]) != methods.end());
    }
    client_ = client_id;
    search();
    if (client_id)
        methods_.front()->setFocus();
    else
        search_->setFocus();
}

void BookingPanel::search()
{
    const long before = client_;
    const QSignalBlocker quiet(clients_);
    clients_->clear();
    found_.clear();
    int row = 0;
    for (const records::Client& c : lab_.store->find_clients(search_->text(), 40)) {
        if (c.id == before) row = static_cast<int>(found_.size());
        found_.push_back(c.id);
        clients_->addItem(QStringLiteral("%1   %2   %3").arg(c.full_name(), c.number, c.role));
    }
    clients_->setFixedHeight(Theme::get().px(44) * std::clamp(static_cast<int>(found_.size()), 1, 4));
    clients_->setCurrentRow(row);
    client_ = found_.empty() ? 0 : found_[static_cast<std::size_t>(row)];
    propose();
}

void BookingPanel::propose()
{
    times_->clear();
    proposals_.clear();
    trouble_->hide();
    said_->setText(QString());
    book_->setEnabled(false);
    history_->setText(QString());
    const auto client = lab_.store->client(client_);
    if (!client) return said_->setText(QStringLiteral("Nobody by that name. Add the client first (Alt 2)."));
    title_->setText(QStringLiteral("Book %1").arg(client->full_name()));
    const auto past = lab_.diary->past(client_);
    if (!past.empty()) {
        QStringList words;
        for (std::size_t i = 0; i < past.size() && i < 3; ++i)
            words << QStringLiteral("%1 %2 (%3:%4)")
                         .arg(records::date_words(past[i].day), QString::fromLatin1(past[i].method->title))
                         .arg(past[i].minute_of_day / 60, 2, 10, QChar('0'))
                         .arg(past[i].minute_of_day % 60, 2, 10, QChar('0'));
        history_->setText(QStringLiteral("Before: ") + words.join(QStringLiteral(" · ")));
    }
    std::vector<Method> chosen;
    for (std::size_t i = 0; i < methods_.size(); ++i)
        if (methods_[i]->isChecked()) chosen.push_back(all_methods()[i]);
    if (chosen.empty())
        return said_->setText(
            QStringLiteral("Choose the methods; times are then proposed in the order the methods need."));
    const QDate from = QDate::fromString(from_->text().trimmed(), Qt::ISODate);
    bool number = false;
    const int days = days_->text().trimmed().toInt(&number);
    if (!from.isValid()) {
        trouble_->setText(QStringLiteral("The day is \"%1\"; write year-month-day.").arg(from_->text()));
        return trouble_->show();
    }
    if (!number || days < 1 || days > 62) {
        trouble_->setText(QStringLiteral("Days to look at: \"%1\"; allowed is 1 to 62.").arg(days_->text()));
        return trouble_->show();
    }
    const QDate to = from.addDays(days - 1);
    schedule::Request request = lab_.request(*client, chosen, from, to);
    const auto answer = schedule::propose(lab_.planning(from, to), request, 6);
    if (!answer) {
        trouble_->setText(q(answer.messages().front().text));
        return trouble_->show();
    }
    if (answer->proposals.empty()) {
        QString words = q(answer->sentence);
        if (request.not_before) {
            const QDate earliest = records::local_of(*request.not_before, lab_.diary->zone()).date();
            const bool binds = std::find(answer->binding.begin(), answer->binding.end(),
                                   schedule::Constraint::retest) != answer->binding.end();
            if (binds)
                words += QStringLiteral("\n\nThe last test by one of these methods is too fresh: a change by then "
                                        "would be smaller than the method's own noise. The house rules allow it from "
                                        "%1 on; under two weeks is refused whatever they say.")
                             .arg(records::date_words(earliest));
        }
        return said_->setText(words);
    }
    said_->setText(QStringLiteral("Best first: little waiting, the hour of earlier visits, early rather than late."));
    for (const schedule::Proposal& p : answer->proposals) {
        const QDateTime at = records::local_of(p.parts.front().at.from, lab_.diary->zone());
        QStringList parts;
        for (const schedule::Slot& s : p.parts)
            parts << QStringLiteral("%1 %2").arg(
                records::local_of(s.at.from, lab_.diary->zone()).toString(QStringLiteral("HH:mm")),
                lab_.instrument_name(s.instrument));
        auto* item = new QListWidgetItem(
            QStringLiteral("%1, %2 to %3%4\n%5")
                .arg(QLocale(QLocale::English, QLocale::UnitedKingdom)
                         .toString(at.date(), QStringLiteral("dddd d MMMM")),
                    at.toString(QStringLiteral("HH:mm")),
                    records::local_of(p.parts.back().at.to, lab_.diary->zone()).toString(QStringLiteral("HH:mm")),
                    p.because.empty() ? QString() : QStringLiteral("  ·  ") + q(p.because),
                    parts.join(QStringLiteral("  →  "))));
        times_->addItem(item);
    }
    proposals_ = answer->proposals;
    times_->setCurrentRow(0);
    book_->setEnabled(true);
}

void BookingPanel::take(int row)
{
    if (row < 0 || row >= static_cast<int>(proposals_.size())) return;
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty()) return;
    records::Booking b;
    b.client_id = client_;
    b.made_by = who;
    b.parts = proposals_[static_cast<std::size_t>(row)].parts;
    const auto stored = lab_.diary->book(b);
    if (!stored) { // another window was faster
        const QString words = q(stored.messages().front().text);
        propose();
        trouble_->setText(QStringLiteral("◆ That time was taken meanwhile: %1 Choose another.").arg(words));
        return trouble_->show();
    }
    lab_.say_changed();
    emit booked(stored->id);
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
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

bool ClientsPage::eventFilter(QObject* watched, QEvent* event)
{
    if (watched == search_ && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            const int row = std::clamp(
                list_->currentIndex().row() + (key == Qt::Key_Down ? 1 : -1), 0, std::max(0, model_->rowCount() - 1));
            list_->setCurrentIndex(model_->index(row));
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

void ClientsPage::add()
{
    form_->edit({});
    right_->setCurrentWidget(form_);
}

void ClientsPage::import()
{
    import_->begin();
    right_->setCurrentWidget(import_);
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
    model_->search(search_->text(), archived_->isChecked());
    const int n = model_->total();
    count_->setText(n == 0   ? QStringLiteral("Nobody by that name or number. Ctrl N adds a client.")
                    : n == 1 ? QStringLiteral("1 client")
                             : QStringLiteral("%1 clients").arg(n));
    if (n > 0)
        list_->setCurrentIndex(model_->index(0));
    else
        show_client();
}

void ClientsPage::show_more(bool on)
{
    looking_.reset();
    more_row_->setVisible(on);
    erase_number_->hide();
    erase_copies_->hide();
    if (!merging_) trouble_->hide();
}

void ClientsPage::begin_merge()
{
    const auto c = store_->client(shown_);
    if (!c) return;
    merging_ = c->id;
    trouble_->setText(QStringLiteral("Merging %1 (number %2). Choose the record that stays; every visit goes there.")
                          .arg(c->full_name(), c->number));
    trouble_->show();
    more_row_->hide();
    search_->setText(c->family_name);
    focus_search();
    show_client();
}

void ClientsPage::end_merge(bool really)
{
    const long away = merging_;
    if (!really || !away || shown_ == away) return;
    const auto why = records::merge(*store_, shown_, away);
    if (why) {
        trouble_->setText(QStringLiteral("◆ ") + q(why->text));
        merging_ = 0;
        return show_client();
    }
    merging_ = 0;
    const long kept = shown_;
    search();
    select(kept);
    trouble_->setText(QStringLiteral("Merged: one record, every visit kept. The old number still finds it."));
    trouble_->show();
    lab_.say_changed();
}

void ClientsPage::archive()
{
    auto c = store_->client(shown_);
    if (!c) return;
    c->archived = !c->archived;
    const auto stored = store_->save(*c);
    show_more(false);
    search();
    trouble_->setText(
        !stored       ? q(stored.messages().front().text)
        : c->archived ? QStringLiteral("%1 is archived: kept with every visit, out of the list.").arg(c->full_name())
                      : QStringLiteral("%1 is back on the list.").arg(c->full_name()));
    trouble_->show();
}

void ClientsPage::hand_out()
{
    const auto place = records::export_person(*store_, shown_, lab_.folder() + QStringLiteral("/handed-out"));
    show_more(false);
    trouble_->setText(place ? QStringLiteral("Everything the lab holds on this person is in %1.").arg(*place)
                            : QStringLiteral("◆ ") + q(place.messages().front().text));
    trouble_->show();
}

/// The lab's own methods, the one that is measured most first; all of them in a lab that has registered no instrument.
void ClientsPage::order_starts()
{
    std::set<Method> own;
    for (const records::Instrument& i : lab_.diary->instruments())
        if (const auto method = i.kind->method; method && i.in_use) own.insert(*method);
    start_methods_.clear();
    for (const bench::BenchRow* row : bench::methods())
        if (own.empty() || own.count(row->method)) start_methods_.push_back(row->method);
    const auto used = records::methods_used(*lab_.store);
    const auto times = [&](Method m) {
        const auto at = used.find(QString::fromLatin1(m->word));
        return at == used.end() ? 0 : at->second;
    };
    if (!own.empty()) // nobody's usual one before there is a lab
        std::stable_sort(
            start_methods_.begin(), start_methods_.end(), [&](Method a, Method b) { return times(a) > times(b); });
    for (std::size_t i = 0; i < starts_.size() && i < start_methods_.size(); ++i) {
        const QString place = QString::fromLatin1(start_methods_[i]->place);
        starts_[i]->set_words(place);
        starts_[i]->setProperty("place", place); // whichever key it is on
        starts_[i]->setObjectName(i == 0 ? QStringLiteral("start_visit") : QStringLiteral("start_") + place);
    }
}

void ClientsPage::show_client()
{
    if (!merging_) trouble_->hide();
    while (QLayoutItem* item = visits_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    const QModelIndex at = list_->currentIndex();
    const bool any = at.isValid() && at.row() < model_->rowCount();
    for (QWidget* w : {static_cast<QWidget*>(facts_), static_cast<QWidget*>(note_)}) w->setVisible(any);
    for (QWidget* w : {static_cast<QWidget*>(edit_), static_cast<QWidget*>(book_), static_cast<QWidget*>(more_),
             static_cast<QWidget*>(course_key_)})
        w->setVisible(any && !merging_);
    order_starts();
    for (std::size_t i = 0; i < starts_.size(); ++i)
        starts_[i]->setVisible(any && !merging_ && i < start_methods_.size());
    merge_yes_->setVisible(any && merging_ && model_->at(at.row()).id != merging_);
    if (!any) {
        shown_ = 0;
        name_->setText(QStringLiteral("No client chosen"));
        return;
    }
    const records::Client& c = model_->at(at.row());
    shown_ = c.id;
    name_->setText(c.full_name());
    facts_->setText(QStringLiteral("number %1  ·  %2%3  ·  born %4, %5 y  ·  %6  ·  equations: %7%8")
                        .arg(c.number, c.role, c.role.isEmpty() ? QStringLiteral("no role noted") : QString(),
                            records::date_words(c.birth_date.toStdString()))
                        .arg(age_of(c))
                        .arg(Units::get().text(Measure::height, c.height_cm, 1), QString::fromLatin1(word(c.sex)),
                            c.phone.isEmpty() ? QString() : QStringLiteral("  ·  ") + c.phone));
    QStringList more;
    more << (c.consent_on.isEmpty()
                 ? QStringLiteral("◆ no signed consent on record")
                 : QStringLiteral("consent of %1").arg(records::date_words(c.consent_on.toStdString())));
    if (age_of(c) < 18)
        more << (c.guardian_consent_on.isEmpty() ? QStringLiteral("◆ under 18, no guardian's consent")
                                                 : QStringLiteral("guardian %1").arg(c.guardian));
    for (const QString& fact : c.facts) more << QString(fact).replace('_', ' ');
    for (const auto& [title, value] : {std::pair{"conditions", c.conditions}, std::pair{"medicines", c.medicines},
             std::pair{"sport", c.sport}, std::pair{"goal", c.goal}})
        if (!value.isEmpty()) more << QStringLiteral("%1: %2").arg(QString::fromLatin1(title), value);
    if (!c.note.isEmpty()) more << c.note;
    note_->setText(more.join(QStringLiteral("  ·  ")));
    archive_->set_words(c.archived ? QStringLiteral("back from the archive") : QStringLiteral("archive"));
    bool booked = false;
    for (const records::Booking& b : lab_.diary->bookings_of(c.id)) {
        if (b.state != records::BookingState::booked && b.state != records::BookingState::arrived) continue;
        if (!booked) visits_->addWidget(label("heading", QStringLiteral("Booked")));
        booked = true;
        const QDateTime when = records::local_of(b.from(), lab_.diary->zone());
        visits_->addWidget(label("text",
            QStringLiteral("%1, %2   %3%4")
                .arg(records::date_words(when.date()), when.toString(QStringLiteral("HH:mm")), work::methods_words(b),
                    b.sheet_sent_at.isEmpty() ? QString() : QStringLiteral("   ·   sheet sent"))));
    }
    if (booked) visits_->addSpacing(10);
    const auto rows = store_->visits_of(c.id);
    const auto told = store_->snapshots_of(c.id);
    const auto kept = records::attached::counts(store_->database(), c.id);
    visits_->addWidget(label("heading", rows.empty() ? QStringLiteral("No visit yet") : QStringLiteral("Visits")));
    visits_->addSpacing(6);
    for (const auto& row : rows) {
        const auto mine = told.find(row.id);
        visits_->addWidget(visit_line(row, mine != told.end() && row.measured() ? &mine->second : nullptr,
            kept.count(row.id) ? kept.at(row.id) : 0));
        visits_->addWidget(hairline(false));
    }
    visits_->addStretch();
}

/// What became of a visit that tells nothing yet, or nothing any more.
static QString fate_of(const records::VisitRow& row, const records::Store& store)
{
    const auto visit = store.replay(row.id);
    if (!visit) return q(visit.messages().front().text);
    if (visit->stopped()) return QStringLiteral("stopped for safety");
    if (!visit->given_up.empty()) return QStringLiteral("given up: %1").arg(q(visit->given_up));
    if (!row.finished) return QStringLiteral("not finished");
    return visit->result() ? QStringLiteral("what was told cannot be read: open it")
                           : QStringLiteral("no result with these choices");
}

QWidget* ClientsPage::visit_line(const records::VisitRow& row, const records::Snapshot* told, int files)
{
    auto* line = new QWidget;
    auto* h = new QHBoxLayout(line);
    h->setContentsMargins(0, 7, 0, 7);
    const auto method = method_of(row.method.toStdString());
    const QString name = (method ? QString::fromLatin1((*method)->title) : row.method) +
                         (told && told->told_elsewhere ? QStringLiteral(", told elsewhere") : QString());
    const Value* fat = told ? told->result.find(quantity::fat_percent) : nullptr;
    auto* number = label(
        "number", fat ? QStringLiteral("%1 % fat ± %2").arg(fat->value, 0, 'f', 1).arg(fat->u, 0, 'f', 1) : QString());
    number->setWordWrap(false);
    auto* masses =
        label("small", fat ? QStringLiteral("%1 fat, %2 fat-free")
                                 .arg(Units::get().text(Measure::mass, told->result[quantity::fat_mass].value, 1),
                                     Units::get().text(Measure::mass, told->result[quantity::fat_free_mass].value, 1))
                           : fate_of(row, *store_));
    if (files)
        masses->setText(masses->text() + (files == 1 ? QStringLiteral("  ·  one file kept")
                                                     : QStringLiteral("  ·  %1 files kept").arg(files)));
    auto* when = new QVBoxLayout;
    when->setSpacing(0);
    for (const auto& [voice, text] :
        {std::pair{"text", report::day_words(row.started_at, lab_.diary->zone())}, {"small", name}}) {
        auto* one = label(voice, text);
        one->setMinimumWidth(Theme::get().px(165));
        one->setWordWrap(false);
        when->addWidget(one);
    }
    h->addLayout(when);
    h->addWidget(number);
    h->addSpacing(16);
    h->addWidget(masses, 1);
    auto* open =
        new KeyButton({}, QStringLiteral("⏎"), row.finished ? QStringLiteral("open") : QStringLiteral("go on"));
    h->addWidget(open);
    connect(open, &QAbstractButton::clicked, this, [this, id = row.id] { emit open_visit(id); });
    return line;
}

} // namespace fusain::desk

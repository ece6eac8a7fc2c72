// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/result/result_page.h"

#include "desk/bench/density_choices.h"
#include "records/base/clock.h"
#include "core/body/reference.h"
#include "report/words/catalogue.h"
#include "report/page/figures.h"
#include "report/words/method_words.h"
#include "report/sheets/sheets.h"

#include "work/visit/visit_end.h"
#include <QDir>
#include <QFileInfo>
#include <QHeaderView>
#include <QPrintDialog>
#include <QPrinter>
#include <QVBoxLayout>

#include <cmath>

namespace fusain::desk {

namespace {

QString number(double v, int decimals) { return QString::number(v, 'f', decimals).replace('-', QChar(0x2212)); }

} // namespace

void ResultPage::show_left(int page)
{
    left_->setCurrentIndex(page);
    share_room();
    steps_key_->set_words(page == 1   ? QStringLiteral("the picture")
                          : page == 3 ? QStringLiteral("back to the steps")
                                      : QStringLiteral("every step"));
    equations_key_->set_words(page == 4 ? QStringLiteral("the picture") : QStringLiteral("every equation"));
    beside_key_->set_words(page == 2 ? QStringLiteral("the picture") : QStringLiteral("beside another method"));
}

void ResultPage::share_room()
{
    const bool picture = left_->currentIndex() == 0;
    range_->setVisible(result_ && picture);
    const int wide = std::max(1, cautions_room_->viewport()->width());
    cautions_room_->setFixedHeight(std::min(cautions_->heightForWidth(wide) + 2, height() * (picture ? 30 : 12) / 100));
}

ResultPage::Chooser& ResultPage::chooser(const std::string& what)
{
    Chooser& c = choosers_[what];
    if (c.box) return c;
    c.box = new ChoiceBox;
    c.box->setObjectName(QStringLiteral("choose_") + q(what));
    c.box->setMinimumContentsLength(16);
    c.box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    c.title = label("small");
    choices_->setColumnStretch(1, 1);
    connect(c.box, &QComboBox::activated, this, [this, what, box = c.box] {
        if (filling_) return;
        session_.act(bench::event::Choice{what, box->currentData().toString().toStdString()});
    });
    return c;
}

void ResultPage::fill_choices()
{
    filling_ = true;
    const bench::Visit& v = session_.visit();
    std::vector<ChoiceList> lists = desk_of(v).choices(v);
    lists.push_back(choice_list("range", "Range", v.range, reference::sets(),
        [](const reference::RangeSet& r) { return QString::fromUtf8(r.title); }));
    for (auto& [what, c] : choosers_) {
        choices_->removeWidget(c.title);
        choices_->removeWidget(c.box);
        c.title->hide();
        c.box->hide();
    }
    int row = 0;
    for (const ChoiceList& list : lists) {
        Chooser& c = chooser(list.what);
        c.title->setText(list.title);
        c.box->clear();
        for (const auto& [id, words] : list.options) {
            c.box->addItem(words, q(id));
            if (id == list.now) c.box->setCurrentIndex(c.box->count() - 1);
        }
        choices_->addWidget(c.title, row, 0);
        choices_->addWidget(c.box, row++, 1);
        c.title->show();
        c.box->show();
    }
    if (v.choices.empty()) {
        chosen_by_->setText(QStringLiteral("The house defaults. A change is kept with your name and the time."));
    } else {
        const bench::Choice& c = v.choices.back();
        chosen_by_->setText(QStringLiteral("Last changed by %1, %2 at %3: %4, before %5.")
                                .arg(q(c.who), records::date_words(c.at_utc), report::time_words(c.at_utc),
                                    q(c.what).replace('_', ' '), c.from.empty() ? QStringLiteral("unset") : q(c.from)));
    }
    filling_ = false;
}

/// Every headline quantity, with its doubt; percent fat first.
void ResultPage::fill_doubts()
{
    const QVariant chosen = doubt_of_->currentData();
    doubt_of_->clear();
    if (!result_) return;
    for (const Doubt& d : result_->doubts) {
        const bool mass = d.quantity->kind == UnitKind::mass;
        const QString words =
            mass ? Units::get().text(Measure::mass, d.budget.u, 2)
                 : QStringLiteral("%1 %2").arg(d.budget.u, 0, 'f', d.quantity->decimals).arg(q(d.quantity->unit));
        const bool first = d.quantity == &quantity::fat_percent;
        doubt_of_->insertItem(first ? 0 : doubt_of_->count(),
            QStringLiteral("of %1, ± %2").arg(q(d.quantity->title).toLower(), words), q(d.quantity->id));
    }
    doubt_of_->setCurrentIndex(std::max(0, doubt_of_->findData(chosen)));
}

const Doubt* ResultPage::doubt() const
{
    if (!result_) return nullptr;
    for (const Doubt& d : result_->doubts)
        if (doubt_of_->currentData() == q(d.quantity->id)) return &d;
    return nullptr;
}

void ResultPage::fill_what_ifs()
{
    while (QLayoutItem* item = what_ifs_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    int row = 0;
    const auto all = session_.visit().what_ifs();
    what_ifs_title_->setVisible(!all.empty());
    for (const auto& w : all) {
        // what moves another quantity names it, which takes a line of its own
        what_ifs_->addWidget(label("text", q(w.title)), row, 0, 1, w.of ? 2 : 1);
        if (w.of) what_ifs_->setRowMinimumHeight(row++, Theme::get().px(20));
        const double by = w.of ? w.change : w.fat_percent_change;
        const QString what =
            w.of ? QStringLiteral(" %1 %2").arg(q(w.of->unit), q(w.of->title).section(',', 0, 0).toLower())
                 : QStringLiteral(" % fat");
        auto* change = label(w.is_mistake && std::abs(w.fat_percent_change) >= 1 ? "trouble" : "number",
            (by > 0 ? QStringLiteral("+") : QString()) + number(by, w.of ? w.of->decimals : 1) + what);
        change->setWordWrap(false);
        what_ifs_->setRowMinimumHeight(row, Theme::get().px(22));
        what_ifs_->addWidget(change, row++, 1, Qt::AlignRight);
    }
    what_ifs_->setColumnStretch(0, 1);
}

void ResultPage::fill_table(QTableWidget* table, const std::vector<QStringList>& rows, std::initializer_list<int> wide,
    std::initializer_list<int> figures)
{
    table->clear();
    table->setColumnCount(static_cast<int>(rows.front().size()));
    table->setHorizontalHeaderLabels(rows.front());
    table->setRowCount(static_cast<int>(rows.size()) - 1);
    for (int row = 0; row < table->rowCount(); ++row)
        for (int i = 0; i < table->columnCount(); ++i) {
            const QString& words = rows[static_cast<std::size_t>(row) + 1][i];
            const bool figure = std::count(figures.begin(), figures.end(), i);
            auto* item = new QTableWidgetItem(figure ? words + QChar(0x2002) : words); // room to the words after it
            item->setToolTip(words);
            if (figure) {
                item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
                item->setFont(look::font(look::Voice::measured, Theme::get().px(13)));
            }
            table->setItem(row, i, item);
        }
    for (int i = 0; i < table->columnCount(); ++i)
        table->horizontalHeader()->setSectionResizeMode(
            i, std::count(wide.begin(), wide.end(), i) ? QHeaderView::Stretch : QHeaderView::ResizeToContents);
    table->verticalHeader()->setMinimumSectionSize(Theme::get().px(25));
    table->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
}

void ResultPage::fill_steps()
{
    std::vector<QStringList> rows = {{"step", "what", "value", "± u", "from"}};
    if (result_)
        for (const StoryStep& s : result_->story)
            rows.push_back({q(s.symbol), q(s.title), number(s.value, s.decimals) + ' ' + q(s.unit),
                s.u > 0 ? number(s.u, std::min(s.decimals + 1, 5)) : QString(), q(s.source)});
    fill_table(steps_, rows, {1, 4}, {2, 3});
    if (!result_) return;
    const auto equations = report::words_of(session_.visit()).equations(session_.visit(), *result_);
    const int last = static_cast<int>(equations.front().size()) - 1;
    fill_table(equations_, equations, {1, 2, last}, {3, 4, last - 1});
}

void ResultPage::offer_next(const QString& words)
{
    next_key_->set_words(words);
    next_key_->setVisible(!words.isEmpty());
}

void ResultPage::enter()
{
    said_->clear(); // of another visit
    beside_->look(session_);
    refresh();
}

void ResultPage::refresh()
{
    if (!session_.is_open() || !isVisible()) return;
    const bench::Visit& v = session_.visit();
    const auto outcome = v.result();
    result_.reset();
    if (outcome) result_ = *outcome;
    messages_ = outcome.messages();
    for (QWidget* w : with_result_) w->setVisible(result_.has_value());
    const Theme& t = Theme::get();
    side_->setFixedWidth(std::min(t.px(404), static_cast<int>(0.42 * width())));
    ladder_->setMinimumHeight(
        result_ ? static_cast<int>(2.7 * t.px(15)) * static_cast<int>(result_->ladder.size()) : 0);
    ladder_->setMaximumHeight(t.px(330));
    if (result_ && result_->ladder.empty()) ladder_->hide(); // not every method climbs down one
    range_->setFixedHeight(t.px(92));
    const auto& words = report::words_of(v);
    const Result* told = result_ ? &*result_ : nullptr;
    const QString picture = words.picture.title(v, told);
    picture_title_->setText(picture);
    picture_title_->setVisible(result_ && !picture.isEmpty());
    readings_->setVisible(result_ && !picture.isEmpty());
    readings_->setFixedHeight(t.px(14 * words.picture.rows(v, told)));
    fill_doubts();
    budget_->setFixedHeight(t.px(doubt() ? 24.5 * report::budget_rows(doubt()->budget) : 0));
    QString cautions;
    for (const Message& m : messages_)
        cautions += (cautions.isEmpty() ? QStringLiteral("◆ ") : QStringLiteral("\n◆ ")) + q(m.text);
    const auto last = session_.comparability();
    compared_->setText(last && last->comparable ? q(last->sentence) : QString());
    compared_->setVisible(!compared_->text().isEmpty());
    if (last && !last->comparable)
        cautions += (cautions.isEmpty() ? QStringLiteral("◆ ") : QStringLiteral("\n◆ ")) + q(last->sentence);
    cautions_->setText(cautions);
    acknowledge_key_->setVisible(!v.to_acknowledge().empty());
    reopen_key_->setVisible(v.finished && v.log_version >= 2 && v.row().origin != bench::Origin::elsewhere);
    cautions_room_->setVisible(!cautions.isEmpty());
    share_room();
    if (!v.given_up.empty()) {
        title_->setText(QStringLiteral("Given up: no result. %1").arg(q(v.given_up)));
        place_->clear();
    } else if (v.stopped()) {
        title_->setText(QStringLiteral("Stopped for safety: no result"));
        place_->clear();
    } else if (!result_) {
        title_->setText(QStringLiteral("No result with these choices"));
        place_->clear();
        equation_->clear();
    } else {
        const double fat = (*result_)[quantity::fat_percent].value;
        title_->setText(QStringLiteral("%1 % fat, %2")
                            .arg(number(fat, 1), report::likely_range(fat, result_->budget(quantity::fat_percent).u)));
        const auto* set = reference::find(v.range);
        const auto place = set ? reference::place(*set, v.subject.sex, v.age_y(), fat) : std::nullopt;
        const QString place_words = place ? q(place->sentence) + QStringLiteral(", ") + QString::fromUtf8(set->title)
                                          : QStringLiteral("no range for this age and sex in the chosen reference");
        place_->setText(
            QStringLiteral("%1  ·  %2").arg(place_words, report::doubt_words(v, (*result_)[quantity::fat_percent])));
        equation_->setText(words.sum(v, *result_, mass_unit()));
    }
    fill_choices();
    fill_what_ifs();
    fill_steps();
    beside_->show_result(v, result_);
    beside_key_->setVisible(!beside_->is_empty());
    if (beside_->is_empty() && left_->currentIndex() == 2) show_left(0);
    for (Figure* f : {ladder_, readings_, budget_, range_}) f->update();
}

std::optional<QString> ResultPage::held_back() const
{
    const auto why = work::not_to_be_told(session_.visit());
    if (!why) return std::nullopt;
    return QStringLiteral("◆ %1 To give it out all the same, press A: it is kept with your name.").arg(q(why->text));
}

report::SheetOf ResultPage::sheet_of(bool for_client) const
{
    return {session_.visit_id(), &session_.visit(), for_client};
}

/// A sheet is written of what is on the disk.
void ResultPage::give(bool for_client, std::function<void(const report::Given&)> then)
{
    if (for_client)
        if (const auto why = held_back()) return said_->setText(*why);
    session_.finish([this, for_client, then = std::move(then)] {
        const auto given = report::give_sheet(lab_, sheet_of(for_client), session_.technician());
        if (!given) return said_->setText(q(given.messages().front().text));
        last_for_client_ = for_client;
        then(*given);
    });
}

void ResultPage::mail()
{
    give(true, [this](const report::Given& given) {
        const auto path = report::mail_sheet(lab_, sheet_of(true), given, session_.technician());
        said_->setText(path ? QStringLiteral("In the outbox: %1").arg(*path) : q(path.messages().front().text));
    });
}

void ResultPage::ask_to_print()
{
    if (last_for_client_)
        if (const auto why = held_back()) return said_->setText(*why);
    session_.finish([this] { print(); });
}

void ResultPage::print()
{
    QPrinter printer(QPrinter::HighResolution);
    printer.setPageSize(QPageSize(QPageSize::A4));
    printer.setFullPage(true);
    if (last_for_client_) printer.setCopyCount(2); // one for the client, one for the lab
    QPrintDialog dialog(&printer, this);
    dialog.setWindowTitle(
        last_for_client_ ? QStringLiteral("Print the client's sheet") : QStringLiteral("Print the lab sheet"));
    if (dialog.exec() != QDialog::Accepted) return;
    report::paint_on(report::sheet_of(lab_, sheet_of(last_for_client_)), printer);
    said_->setText(QStringLiteral("Sent to the printer."));
}

} // namespace fusain::desk

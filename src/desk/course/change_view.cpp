// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/change_view.h"

#include "report/reading/reading_words.h"
#include "work/reading/quantities_file.h"

#include <QHeaderView>

#include <algorithm>

namespace fusain::desk {
ChangeView::ChangeView(work::Lab& lab)
    : CourseView(lab), method_(new ChoiceBox), list_(new QTableWidget), plot_(new ChangePlot), title_(label("heading")),
      sentence_(label("text")), trend_(label("small")), moved_words_(label("text")), questions_(label("small")),
      remarks_(label("small"))
{
    const TwoColumns c = two_columns(this, 400);
    title_->setObjectName(QStringLiteral("change_title"));
    sentence_->setObjectName(QStringLiteral("change_sentence"));
    trend_->setObjectName(QStringLiteral("change_trend"));
    moved_words_->setObjectName(QStringLiteral("moved"));
    questions_->setObjectName(QStringLiteral("lean_questions"));
    remarks_->setObjectName(QStringLiteral("change_remarks"));
    c.left->addWidget(title_);
    c.left->addWidget(sentence_);
    c.left->addWidget(plot_, 3);
    c.left->addWidget(trend_);
    auto* keys = new WrappedRow;
    keys->setSpacing(10);
    const auto key = [&](int k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(QKeySequence(k), QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        keys->addWidget(b);
        return b;
    };
    previous_ = key(Qt::Key_P, "P", "since last time", "against_previous");
    first_ = key(Qt::Key_F, "F", "since the first", "against_first");
    all_ = key(Qt::Key_A, "A", "see all", "see_all");
    leave_out_ = key(Qt::Key_X, "X", "leave it out", "leave_out");
    bring_back_ = key(Qt::Key_B, "B", "bring back", "bring_back");
    auto* save = key(Qt::Key_S, "S", "CSV and JSON", "save_quantities");
    connect(save, &QAbstractButton::clicked, this, [this] {
        if (!reading_) return;
        const auto saved = work::save_quantities(*reading_->history, lab_.folder() + QStringLiteral("/handed-out"));
        saved ? emit said(QStringLiteral("Kept as %1, and as JSON beside it.").arg(*saved))
              : emit trouble(q(saved.messages().front().text));
    });
    c.left->addLayout(keys);
    moved_figure_ = new Figure([this](QPainter& p, const QRectF& area) {
        if (moved_) report::draw_moved(p, area, *moved_, Theme::get().palette(), Theme::get().px(14), mass_unit());
    });

    method_->setObjectName(QStringLiteral("change_method"));
    c.right->addWidget(method_);
    list_->setObjectName(QStringLiteral("change_list"));
    list_->setColumnCount(3);
    list_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    list_->verticalHeader()->hide();
    list_->setShowGrid(false);
    list_->setSelectionBehavior(QAbstractItemView::SelectRows);
    list_->setSelectionMode(QAbstractItemView::SingleSelection);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    list_->setWordWrap(true);
    list_->setMinimumHeight(180);
    c.right->addWidget(list_, 1);
    c.right->addSpacing(6);
    c.right->addWidget(label("heading", QStringLiteral("Where the mass went")));
    c.right->addWidget(moved_figure_);
    c.right->addWidget(moved_words_);
    c.right->addWidget(questions_);
    c.right->addWidget(remarks_);
    connect(method_, &QComboBox::activated, this, &ChangeView::refresh);
    connect(list_, &QTableWidget::currentCellChanged, this, &ChangeView::show_quantity);
    connect(previous_, &QAbstractButton::clicked, this, [this] {
        against_ = Against::previous;
        refresh();
    });
    connect(first_, &QAbstractButton::clicked, this, [this] {
        against_ = Against::first;
        refresh();
    });
    connect(all_, &QAbstractButton::clicked, plot_, &ChangePlot::see_all);
    connect(bring_back_, &QAbstractButton::clicked, this, [this] {
        left_out_.clear();
        refresh();
    });
    connect(plot_, &ChangePlot::hold_against, this, [this](int point) {
        if (!series_) return;
        against_ = Against::picked;
        around_ = series_->points[static_cast<std::size_t>(point)]->day;
        refresh();
    });
    connect(plot_, &ChangePlot::leave_out, this, &ChangeView::leave_out);
    connect(leave_out_, &QAbstractButton::clicked, this, [this] { leave_out(plot_->picture().around); });
    connect(&Units::get(), &Units::changed, this, &ChangeView::refresh);
    connect(&Theme::get(), &Theme::changed, this, &ChangeView::refresh);
}

void ChangeView::leave_out(int point)
{
    if (!series_ || series_->points.size() < 2 || point < 0 || point >= static_cast<int>(series_->points.size()))
        return;
    if (const long visit = series_->points[static_cast<std::size_t>(point)]->visit_id) left_out_.insert(visit);
    if (against_ == Against::picked) against_ = Against::previous;
    refresh();
}

std::string ChangeView::method() const { return method_->currentData().toString().toStdString(); }

const Quantity* ChangeView::chosen() const
{
    const QTableWidgetItem* item = list_->currentRow() < 0 ? nullptr : list_->item(list_->currentRow(), 0);
    if (!item || !reading_) return nullptr;
    for (const Quantity* one : reading_->history->quantities(method()))
        if (item->data(Qt::UserRole).toString() == QString::fromUtf8(one->id)) return one;
    return nullptr;
}

void ChangeView::show_reading(const work::Reading& reading)
{
    reading_ = &reading;
    if (client_ != reading.history->client().id) {
        client_ = reading.history->client().id;
        left_out_.clear();
        against_ = Against::previous;
        plot_->see_all();
    }
    const QVariant was = method_->currentData();
    method_->clear();
    for (const std::string& m : reading.history->methods()) method_->addItem(work::title_of(m), q(m));
    int at = method_->findData(was);
    if (at < 0 && reading.main) at = method_->findData(q(reading.main->method));
    method_->setCurrentIndex(std::max(0, at));
    refresh();
}

/// Which point of a series changes are held against, and the newest one they are looked at from.
static int around_of(const work::Series& s, bool first, const std::optional<QDate>& picked)
{
    const int last = static_cast<int>(s.points.size()) - 1;
    if (picked)
        for (int i = 0; i <= last; ++i)
            if (s.points[static_cast<std::size_t>(i)]->day == *picked) return i;
    return first ? 0 : std::max(0, last - 1);
}

void ChangeView::fill_list()
{
    const QSignalBlocker quiet(list_);
    const QString was = list_->currentRow() >= 0 && list_->item(list_->currentRow(), 0)
                            ? list_->item(list_->currentRow(), 0)->data(Qt::UserRole).toString()
                            : QString::fromUtf8(quantity::fat_percent.id);
    list_->setRowCount(0);
    list_->setHorizontalHeaderLabels({QStringLiteral("what"), QStringLiteral("now"), QStringLiteral("change")});
    const report::MassUnit unit = mass_unit();
    int select = 0;
    for (const Quantity* what : reading_->history->quantities(method())) {
        const auto s = reading_->history->series(*what, method(), left_out_);
        if (!s) continue;
        const int row = list_->rowCount(), last = static_cast<int>(s->points.size()) - 1;
        list_->insertRow(row);
        const int around = around_of(
            *s, against_ == Against::first, against_ == Against::picked ? std::optional(around_) : std::nullopt);
        QString change = QStringLiteral("–");
        bool real = false;
        if (around < last) {
            const change::Step step = s->step(around, last);
            real = s->repeatability && step.comparable() && step.verdict != change::Verdict::within_noise;
            change = !step.comparable() ? QStringLiteral("not comparable")
                                        : report::change_words(*what, *step.change, unit) +
                                              (real ? step.verdict == change::Verdict::rise ? QStringLiteral(", rose")
                                                                                            : QStringLiteral(", fell")
                                                  : s->repeatability ? QStringLiteral(", noise")
                                                                     : QString());
        }
        const QString cells[] = {
            QString::fromUtf8(what->title), report::value_words(*what, *s->points.back()->value(*what), unit), change};
        for (int i = 0; i < 3; ++i) {
            auto* item = new QTableWidgetItem(cells[i]);
            item->setToolTip(cells[i]);
            item->setData(Qt::UserRole, QString::fromUtf8(what->id));
            item->setFont(
                look::font(i ? look::Voice::measured : look::Voice::text, Theme::get().px(i ? 12 : 14), real));
            list_->setItem(row, i, item);
        }
        if (was == QString::fromUtf8(what->id)) select = row;
    }
    list_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int i : {1, 2}) list_->horizontalHeader()->setSectionResizeMode(i, QHeaderView::ResizeToContents);
    list_->verticalHeader()->setMinimumSectionSize(Theme::get().px(25));
    list_->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    if (list_->rowCount()) list_->setCurrentCell(select, 0);
}

void ChangeView::refresh()
{
    if (!reading_ || !isVisible()) return;
    fill_list();
    show_quantity();
}

void ChangeView::show_quantity()
{
    if (!reading_ || !isVisible()) return;
    const work::History& h = *reading_->history;
    const report::MassUnit unit = mass_unit();
    const Quantity* what = chosen();
    series_ = what ? h.series(*what, method(), left_out_) : std::nullopt;
    moved_.reset();
    for (QLabel* l : {sentence_, trend_, moved_words_, questions_, remarks_}) l->clear();
    bring_back_->setVisible(!left_out_.empty());
    if (!series_) {
        title_->setText(QStringLiteral("Nothing measured yet that could change."));
        plot_->show_picture({});
        moved_figure_->setFixedHeight(0);
        return;
    }
    const int last = static_cast<int>(series_->points.size()) - 1;
    const int around = around_of(
        *series_, against_ == Against::first, against_ == Against::picked ? std::optional(around_) : std::nullopt);
    plot_->show_picture(report::change_picture(*series_, around, Theme::get().palette(), unit));
    const work::Measurement& now = *series_->points.back();
    title_->setText(QStringLiteral("%1 by %2: %3")
                        .arg(QString::fromUtf8(what->title), work::title_of(method()),
                            last == 0 ? QStringLiteral("one test so far")
                                      : report::verdict_words(*series_, series_->step(std::min(around, last), last))));
    sentence_->setText(
        last == 0        ? QStringLiteral("A change needs two tests. The next one is best made at the same hour "
                                                 "and in the same way.")
        : around == last ? QStringLiteral("Held against the newest test: each other one shows how far it was from it.")
                         : report::change_sentence(*series_, series_->step(around, last), unit));
    QStringList small{report::trend_sentence(*series_, unit)};
    if (series_->repeatability) small << report::repeatability_sentence(*what, *series_->repeatability, unit);
    small.removeAll(QString());
    trend_->setText(small.join(QStringLiteral("  ")));
    // where the mass went, by the same two tests
    const work::Measurement& then = *series_->points[static_cast<std::size_t>(around)];
    if (around < last) moved_ = work::moved(h, then, now);
    moved_figure_->setFixedHeight(moved_ ? Theme::get().px(96) : 0);
    moved_words_->setText(
        moved_ ? report::moved_sentence(*moved_, unit)
        : last == 0 || method() == work::by_tape
            ? QStringLiteral("It takes two tests of one method that tell fat.")
            : QStringLiteral("Not told for these two: %1.")
                  .arg(report::why_words(series_->step(around, last).why, then, now).join(QStringLiteral("; "))));
    if (moved_ && moved_->fat_free_kg <= -moved_->fat_free_band_kg)
        questions_->setText(QStringLiteral("Fat-free mass went down. To talk about, in this order:\n· ") +
                            report::lean_questions().join(QStringLiteral("\n· ")));
    questions_->setVisible(!questions_->text().isEmpty());
    QStringList remarks;
    int anew = 0, later = 0;
    for (const work::Measurement& m : h.all()) {
        if (m.method != method()) continue;
        anew += !m.recomputed_from.empty();
        later += m.future;
    }
    if (anew)
        remarks << QStringLiteral("%1 of these tests %2 reckoned anew under today's equations, from the log.")
                       .arg(anew)
                       .arg(anew == 1 ? QStringLiteral("was") : QStringLiteral("were"));
    if (later) remarks << QStringLiteral("◆ %1 dated after today: left out, the clock was wrong.").arg(later);
    if (!left_out_.empty())
        remarks << QStringLiteral("%1 left out by hand (X, or a right click on a visit).").arg(left_out_.size());
    remarks_->setText(remarks.join('\n'));
    moved_figure_->update();
}

} // namespace fusain::desk

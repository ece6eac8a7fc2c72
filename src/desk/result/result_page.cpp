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

ResultPage::ResultPage(work::Lab& lab, work::Session& session, QWidget* parent)
    : QWidget(parent), lab_(lab), session_(session), title_(label("title")), compared_(label("small")),
      place_(label("small")), equation_(label("number")), cautions_(label("trouble")), chosen_by_(label("small")),
      said_(label("small"))
{
    title_->setObjectName(QStringLiteral("result_title"));
    equation_->setObjectName(QStringLiteral("equation"));
    said_->setObjectName(QStringLiteral("said"));
    setFocusPolicy(Qt::StrongFocus);
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);
    auto* main = new QWidget;
    auto* m = new QVBoxLayout(main);
    m->setContentsMargins(34, 22, 28, 16);
    m->addWidget(title_);
    m->addWidget(place_);
    range_ = new Figure([this](QPainter& p, const QRectF& area) {
        if (!result_) return;
        const bench::Visit& v = session_.visit();
        const auto* set = reference::find(v.range);
        const double fat = (*result_)[quantity::fat_percent].value;
        report::draw_range(p, area, fat, result_->budget(quantity::fat_percent).u,
            set ? reference::place(*set, v.subject.sex, v.age_y(), fat) : std::nullopt, Theme::get().palette(),
            Theme::get().px(14));
    });
    m->addWidget(with_result_.emplace_back(range_));
    compared_->setObjectName(QStringLiteral("compared"));
    m->addWidget(compared_);
    m->addWidget(cautions_room_ = new Scroll(cautions_));

    make_left();
    m->addWidget(left_, 1);
    columns->addWidget(main, 1);
    columns->addWidget(hairline(true));

    columns->addWidget(make_side());
    connect(&session_, &work::Session::changed, this, &ResultPage::refresh);
    connect(&Units::get(), &Units::changed, this, &ResultPage::refresh);
    connect(&Theme::get(), &Theme::changed, this, &ResultPage::refresh);
}

/// How the number came about, its steps, beside another method, every equation.
void ResultPage::make_left()
{
    left_ = new Pages;
    auto* pictures = new QWidget;
    auto* pv = new QVBoxLayout(pictures);
    pv->setContentsMargins(0, 8, 12, 0);
    pv->addWidget(with_result_.emplace_back(label("heading", QStringLiteral("How the number came about"))));
    pv->addSpacing(8);
    ladder_ = new Figure([this](QPainter& p, const QRectF& area) {
        if (result_)
            report::draw_ladder(p, area, result_->ladder, Theme::get().palette(), Theme::get().px(15), mass_unit());
    });
    pv->addWidget(with_result_.emplace_back(ladder_), 1);
    pv->addWidget(with_result_.emplace_back(equation_));
    pv->addSpacing(8);
    pv->addWidget(picture_title_ = label("heading"));
    readings_ = new Figure([this](QPainter& p, const QRectF& area) {
        report::words_of(session_.visit())
            .picture.draw(p, area, session_.visit(), result_ ? &*result_ : nullptr, Theme::get().palette(),
                Theme::get().px(14), mass_unit());
    });
    pv->addWidget(readings_);
    pv->addStretch();
    left_->addWidget(new Scroll(pictures));
    const auto table = [](const char* name) {
        auto* t = new QTableWidget;
        t->setObjectName(QString::fromLatin1(name));
        t->setEditTriggers(QAbstractItemView::NoEditTriggers);
        t->verticalHeader()->hide();
        t->setShowGrid(false);
        t->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        t->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        t->setSelectionMode(QAbstractItemView::SingleSelection);
        t->setSelectionBehavior(QAbstractItemView::SelectRows);
        t->setWordWrap(true);
        return t;
    };
    steps_ = table("steps");
    steps_->setToolTip(QStringLiteral("Double-click or ⏎ on a step: what it computes, and why."));
    equations_ = table("equations");
    left_->addWidget(steps_);
    beside_ = new BesideView;
    left_->addWidget(beside_);
    science_ = new QTextBrowser;
    science_->setObjectName(QStringLiteral("science"));
    science_->setFrameShape(QFrame::NoFrame);
    science_->setOpenLinks(false);
    left_->addWidget(science_);
    left_->addWidget(equations_);
    const auto explain = [this](int row) {
        if (!result_ || row < 0 || row >= static_cast<int>(result_->story.size())) return;
        science_->setMarkdown(
            report::science_page(result_->story[static_cast<std::size_t>(row)].symbol, session_.visit()));
        show_left(3);
    };
    connect(steps_, &QTableWidget::cellDoubleClicked, this, [explain](int row) { explain(row); });
    connect(steps_, &QTableWidget::cellActivated, this, [explain](int row) { explain(row); });
}

/// What was chosen, the doubt, what if, and the keys.
QWidget* ResultPage::make_side()
{
    auto* side = new QWidget;
    side->setObjectName(QStringLiteral("side"));
    auto* s = new QVBoxLayout(side);
    s->setContentsMargins(24, 22, 14, 8);
    s->setSpacing(4);
    s->addWidget(label("heading", QStringLiteral("What we chose")));
    choices_ = new QGridLayout;
    choices_->setVerticalSpacing(5);
    choices_->setHorizontalSpacing(12);
    s->addLayout(choices_);
    s->addWidget(chosen_by_);
    s->addSpacing(8);
    s->addWidget(with_result_.emplace_back(label("heading", QStringLiteral("Where the doubt comes from"))));
    doubt_of_ = new ChoiceBox;
    doubt_of_->setObjectName(QStringLiteral("doubt_of"));
    s->addWidget(with_result_.emplace_back(doubt_of_));
    budget_ = new Figure([this](QPainter& p, const QRectF& area) {
        if (const Doubt* d = doubt())
            report::draw_budget(p, area, d->budget, Theme::get().palette(), Theme::get().px(14));
    });
    connect(doubt_of_, &QComboBox::activated, this, &ResultPage::refresh);
    s->addWidget(with_result_.emplace_back(budget_));
    s->addSpacing(8);
    s->addWidget(what_ifs_title_ = label("heading", QStringLiteral("What if")));
    what_ifs_ = new QGridLayout;
    what_ifs_->setVerticalSpacing(3);
    s->addLayout(what_ifs_);
    s->addStretch();
    side_ = new QWidget;
    auto* right = new QVBoxLayout(side_);
    right->setContentsMargins(0, 0, 0, 14);
    right->addWidget(new Scroll(side), 1);
    auto* bottom = new QVBoxLayout;
    bottom->setContentsMargins(24, 0, 14, 0);
    bottom->addWidget(said_);
    bottom->addLayout(make_keys());
    bottom->addWidget(reason_);
    right->addLayout(bottom);
    return side_;
}

QLayout* ResultPage::make_keys()
{
    auto* keys = new WrappedRow;
    keys->setSpacing(8);
    const auto key = [&](const QKeySequence& sequence, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(sequence, QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        keys->addWidget(b);
        return b;
    };
    auto* client_key = key(QKeySequence(Qt::Key_P), "P", "client's sheet", "client_sheet");
    auto* lab_key = key(QKeySequence(Qt::Key_L), "L", "lab sheet", "lab_sheet");
    steps_key_ = key(QKeySequence(Qt::Key_D), "D", "every step", "every_step");
    auto* print_key = key(QKeySequence(QStringLiteral("Ctrl+P")), "Ctrl P", "print", "print");
    auto* mail_key = key(QKeySequence(Qt::Key_M), "M", "e-mail", "mail_sheet");
    equations_key_ = key(QKeySequence(Qt::Key_E), "E", "every equation", "every_equation");
    auto* course_key = key(QKeySequence(Qt::Key_C), "C", "change, plan, tell", "show_course");
    connect(course_key, &QAbstractButton::clicked, this, [this] {
        if (session_.held()) return emit course(); // another window gives it out
        // what is read over time is what was told: a result on the screen is told first
        if (!session_.visit().finished && session_.visit().result()) {
            if (const auto why = held_back()) return said_->setText(*why);
        }
        session_.finish([this] { emit course(); });
    });
    connect(equations_key_, &QAbstractButton::clicked, this, [this] { show_left(left_->currentIndex() == 4 ? 0 : 4); });
    beside_key_ = key(QKeySequence(Qt::Key_B), "B", "beside another method", "show_beside");
    next_key_ = key(QKeySequence(Qt::Key_N), "N", "", "next_measurement");
    connect(beside_key_, &QAbstractButton::clicked, this, [this] { show_left(left_->currentIndex() == 2 ? 0 : 2); });
    next_key_->hide();
    acknowledge_key_ = key(QKeySequence(Qt::Key_A), "A", "give it out all the same", "acknowledge");
    reopen_key_ = key(QKeySequence(Qt::Key_O), "O", "open it again", "reopen");
    connect_reopening();
    connect(next_key_, &QAbstractButton::clicked, this, &ResultPage::next_measurement);
    client_key->set_main(true);
    const auto sheet = [this](bool client) {
        give(client, [this](const report::Given& given) { said_->setText(report::given_words(given)); });
    };
    connect(client_key, &QAbstractButton::clicked, this, [sheet] { sheet(true); });
    connect(lab_key, &QAbstractButton::clicked, this, [sheet] { sheet(false); });
    connect(print_key, &QAbstractButton::clicked, this, &ResultPage::ask_to_print);
    connect(mail_key, &QAbstractButton::clicked, this, &ResultPage::mail);
    connect(steps_key_, &QAbstractButton::clicked, this, [this] { show_left(left_->currentIndex() == 1 ? 0 : 1); });
    return keys;
}

/// A result that asks to be measured again is given out by name; a finished visit is opened again with a reason.
void ResultPage::connect_reopening()
{
    reason_ = new QLineEdit;
    reason_->setObjectName(QStringLiteral("reopen_reason"));
    reason_->setPlaceholderText(QStringLiteral("why it is opened again"));
    reason_->hide();
    connect(acknowledge_key_, &QAbstractButton::clicked, this, [this] {
        bench::Json codes = bench::Json::array();
        for (const Message& open : session_.visit().to_acknowledge()) codes.push_back(open.code);
        if (!codes.empty()) session_.act("acknowledged", {{"codes", codes}});
    });
    connect(reopen_key_, &QAbstractButton::clicked, this, [this] {
        reason_->show();
        reason_->setFocus();
    });
    connect(reason_, &QLineEdit::returnPressed, this, [this] {
        session_.act("reopened", {{"reason", reason_->text().trimmed().toStdString()}});
        reason_->clear();
        reason_->hide();
        setFocus(Qt::OtherFocusReason);
    });
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        if (e.kind == "reopened") emit reopened();
    });
}

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
        session_.act("choice", {{"what", what}, {"to", box->currentData().toString().toStdString()}});
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

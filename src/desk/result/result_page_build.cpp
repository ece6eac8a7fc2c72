// SPDX-License-Identifier: GPL-3.0-or-later
// How the result page is put together.
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
        std::vector<std::string> codes;
        for (const Message& open : session_.visit().to_acknowledge()) codes.push_back(open.code);
        if (!codes.empty()) session_.act(bench::event::Acknowledged{codes});
    });
    connect(reopen_key_, &QAbstractButton::clicked, this, [this] {
        reason_->show();
        reason_->setFocus();
    });
    connect(reason_, &QLineEdit::returnPressed, this, [this] {
        session_.act(bench::event::Reopened{reason_->text().trimmed().toStdString()});
        reason_->clear();
        reason_->hide();
        setFocus(Qt::OtherFocusReason);
    });
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        if (e.is<bench::event::Reopened>()) emit reopened();
    });
}

} // namespace fusain::desk

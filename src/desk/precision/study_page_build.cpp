// SPDX-License-Identifier: GPL-3.0-or-later
// How the page of studies is put together.
#include "desk/precision/study_page.h"

#include "bench/visit/methods.h"
#include "report/precision/study_words.h"
#include "work/study/in_force.h"

#include <QDesktopServices>
#include <QUrl>
#include <QVBoxLayout>

namespace fusain::desk {

StudyPage::StudyPage(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), pages_(new Pages), form_(new StudyForm(lab)), title_(label("title")),
      stands_on_(label("text")), next_(label("heading")), question_(label("text")), said_(label("text")),
      table_(label("text")), studies_(list_of_words()), repeats_(list_of_words()), ask_row_(new QWidget),
      answer_(new QLineEdit), choices_(list_of_words()), what_(new ChoiceBox)
{
    auto* whole = new QVBoxLayout(this);
    whole->setContentsMargins(0, 0, 0, 0);
    whole->addWidget(pages_);
    auto* page = new QWidget;
    auto* v = new QVBoxLayout(page);
    v->setContentsMargins(34, 26, 34, 12);
    v->setSpacing(5);
    v->addWidget(title_);
    v->addWidget(stands_on_);
    studies_->setObjectName(QStringLiteral("studies"));
    v->addWidget(studies_);
    next_->setObjectName(QStringLiteral("study_next"));
    v->addSpacing(4);
    v->addWidget(next_);
    auto* keys = make_keys();
    make_question();
    v->addWidget(ask_row_);

    make_body();
    v->addWidget(body_, 1);
    v->addLayout(keys);
    v->addStretch();
    pages_->addWidget(new Scroll(page)); // where it is narrow and the text large, nothing lies on the keys
    pages_->addWidget(form_);
    with_theme(this, [this] {
        figure_->setFixedHeight(Theme::get().px(230));
        body_->setMinimumHeight(Theme::get().px(300));
        choices_->setFixedHeight(Theme::get().px(120));
        table_->setMinimumWidth(0);
    });

    connect_lists();
    connect_keys();
    setFocusPolicy(Qt::StrongFocus);
    ask(Asks::nothing);
}

QLayout* StudyPage::make_keys()
{
    auto* keys = new WrappedRow;
    const auto key = [&](const QKeySequence& k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(k, QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        keys->addWidget(b);
        return b;
    };
    again_ = key(Qt::Key_R, "R", "again, placed anew", "study_again");
    somebody_ = key(Qt::Key_S, "S", "somebody else", "study_somebody");
    pick_ = key(Qt::Key_P, "P", "pick from what was measured", "study_pick");
    out_ = key(Qt::Key_X, "X", "leave this one out", "study_out");
    use_ = key(Qt::Key_U, "U", "use it from now on", "study_use");
    give_ = key(QKeySequence(QStringLiteral("Ctrl+P")), "Ctrl P", "sheet and files", "study_give");
    stop_ = key(QKeySequence(Qt::Key_Delete), "Del", "give it up", "study_stop");
    new_ = key(Qt::Key_N, "N", "begin a study", "study_new");
    auto* back = key(QKeySequence(Qt::Key_Escape), "Esc", "back", "study_back");
    connect(
        back, &QAbstractButton::clicked, this, [this] { asks_ == Asks::nothing ? emit left() : ask(Asks::nothing); });
    return keys;
}

void StudyPage::make_question()
{
    auto* a = new QVBoxLayout(ask_row_);
    a->setContentsMargins(0, 4, 0, 4);
    question_->setObjectName(QStringLiteral("study_question"));
    answer_->setObjectName(QStringLiteral("study_answer"));
    choices_->setObjectName(QStringLiteral("study_choices"));
    a->addWidget(question_);
    a->addWidget(answer_);
    a->addWidget(choices_);
    auto* yes_no = new WrappedRow;
    yes_ = new KeyButton(Qt::Key_Return, QStringLiteral("Enter"), QString());
    yes_->setObjectName(QStringLiteral("study_yes"));
    yes_->set_main(true);
    no_ = new KeyButton(QKeySequence(), QStringLiteral("Esc"), QStringLiteral("not now"));
    no_->setObjectName(QStringLiteral("study_no"));
    yes_no->addWidget(yes_);
    yes_no->addWidget(no_);
    a->addLayout(yes_no);
}

/// The repeats, and beside them what they are worth.
void StudyPage::make_body()
{
    body_ = new QWidget;
    auto* body = body_layout_ = new QBoxLayout(QBoxLayout::LeftToRight, body_);
    body->setContentsMargins(0, 0, 0, 0);
    body->setSpacing(22);
    repeats_->setObjectName(QStringLiteral("repeats"));
    body->addWidget(repeats_);
    auto* numbers = new QWidget;
    auto* n = new QVBoxLayout(numbers);
    n->setContentsMargins(0, 0, 10, 0);
    what_->setObjectName(QStringLiteral("study_quantity"));
    what_->setFocusPolicy(Qt::ClickFocus);
    n->addWidget(what_, 0, Qt::AlignLeft);
    said_->setObjectName(QStringLiteral("study_said"));
    n->addWidget(said_);
    figure_ = new Figure([this](QPainter& p, const QRectF& area) {
        const work::Study* s = now();
        const int em = Theme::get().px(13);
        if (s && told_ && quantity_ < told_->size())
            report::draw_repeats(
                p, area, *s, (*told_)[quantity_], Theme::get().palette(), em, member() ? member()->visit_id : 0);
        else if (s && compared_ && quantity_ < compared_->size())
            report::draw_agreement(p, area, (*compared_)[quantity_], Theme::get().palette(), em);
    });
    n->addWidget(figure_);
    table_->setTextFormat(Qt::RichText);
    table_->setObjectName(QStringLiteral("study_table"));
    n->addWidget(table_);
    n->addStretch();
    body->addWidget(new Scroll(numbers), 1);
}

void StudyPage::connect_lists()
{
    connect(new_, &QAbstractButton::clicked, this, [this] {
        if (who().isEmpty()) return;
        form_->begin(instrument_, who());
        pages_->setCurrentWidget(form_);
    });
    connect(form_, &StudyForm::begun, this, [this](long id) {
        pages_->setCurrentIndex(0);
        show_study(id);
        setFocus(Qt::OtherFocusReason);
    });
    connect(form_, &StudyForm::left, this, [this] {
        pages_->setCurrentIndex(0);
        setFocus(Qt::OtherFocusReason);
    });
    connect(no_, &QAbstractButton::clicked, this, [this] { ask(Asks::nothing); });
    connect(yes_, &QAbstractButton::clicked, this, &StudyPage::answered);
    connect(answer_, &QLineEdit::returnPressed, this, &StudyPage::answered);
    connect(answer_, &QLineEdit::textEdited, this, &StudyPage::show_found);
    connect(studies_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0 && row < static_cast<int>(all_.size())) show_study(all_[static_cast<std::size_t>(row)].id);
    });
    connect(repeats_, &QListWidget::currentRowChanged, this, [this] {
        const work::Study* s = now();
        out_->setEnabled(s && s->open() && member());
        out_->set_words(member() && !member()->left_out.isEmpty() ? QStringLiteral("take it back in")
                                                                  : QStringLiteral("leave this one out"));
        figure_->update();
    });
    connect(what_, &QComboBox::activated, this, [this](int row) {
        quantity_ = static_cast<std::size_t>(std::max(0, row));
        show_numbers();
    });
}

void StudyPage::connect_keys()
{
    connect(again_, &QAbstractButton::clicked, this, [this] {
        const work::Study* s = now();
        const auto person = s ? s->next_person(lab_.today()) : std::nullopt;
        if (!person) return;
        await_ = s->clients[static_cast<std::size_t>(*person)];
        ask(Asks::anew);
    });
    connect(somebody_, &QAbstractButton::clicked, this, [this] { ask(Asks::somebody); });
    connect(pick_, &QAbstractButton::clicked, this, [this] { ask(Asks::pick); });
    connect(out_, &QAbstractButton::clicked, this, [this] {
        if (!member() || who().isEmpty()) return;
        if (member()->left_out.isEmpty()) return ask(Asks::reason);
        done(work::take_back(lab_, shown_, member()->visit_id, who()));
    });
    connect(use_, &QAbstractButton::clicked, this, [this] { ask(Asks::use); });
    connect(stop_, &QAbstractButton::clicked, this, [this] { ask(Asks::give_up); });
    connect(give_, &QAbstractButton::clicked, this, [this] {
        const work::Study* s = now();
        if (!s) return;
        const auto path = report::give_study(*s, lab_);
        if (!path) return emit trouble(q(path.messages().front().text));
        emit note(QStringLiteral("Kept as %1, with its repeats and results as CSV beside it.").arg(*path));
    });
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/precision/study_page.h"

#include "bench/visit/methods.h"
#include "report/precision/study_words.h"
#include "work/study/in_force.h"

#include <QDesktopServices>
#include <QUrl>
#include <QVBoxLayout>

namespace fusain::desk {
namespace {

Outcome<std::vector<work::Repeated>> nothing_told() { return Outcome<std::vector<work::Repeated>>::refuse(Messages{}); }
Outcome<std::vector<work::Compared>> nothing_compared()
{
    return Outcome<std::vector<work::Compared>>::refuse(Messages{});
}

QString table_words(const std::vector<QStringList>& rows)
{
    QString out = QStringLiteral("<table cellspacing='0'>");
    for (std::size_t i = 0; i < rows.size(); ++i) {
        out += QStringLiteral("<tr>");
        for (int k = 0; k < rows[i].size(); ++k)
            out += QStringLiteral("<%1 align='%2' style='padding:2px 16px 2px 0;%3'>%4</%1>")
                       .arg(i ? QStringLiteral("td") : QStringLiteral("th"),
                           k ? QStringLiteral("right") : QStringLiteral("left"),
                           i ? QString()
                             : QStringLiteral("font-weight:normal;color:%1").arg(Theme::get().palette().smudge.name()),
                           rows[i][k].toHtmlEscaped());
        out += QStringLiteral("</tr>");
    }
    return out + QStringLiteral("</table>");
}

} // namespace

StudyPage::StudyPage(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), told_(nothing_told()), compared_(nothing_compared()), pages_(new Pages),
      form_(new StudyForm(lab)), title_(label("title")), stands_on_(label("text")), next_(label("heading")),
      question_(label("text")), said_(label("text")), table_(label("text")), studies_(list_of_words()),
      repeats_(list_of_words()), ask_row_(new QWidget), answer_(new QLineEdit), choices_(list_of_words()),
      what_(new ChoiceBox)
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

/// Where it is narrow the repeats stand over the numbers.
void StudyPage::resizeEvent(QResizeEvent*)
{
    const Theme& t = Theme::get();
    const bool narrow = width() < t.px(720);
    body_layout_->setDirection(narrow ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
    repeats_->setMinimumWidth(narrow ? 0 : t.px(262));
    repeats_->setMaximumWidth(narrow ? QWIDGETSIZE_MAX : t.px(262));
    repeats_->setMinimumHeight(0);
    repeats_->setMaximumHeight(narrow ? t.px(84) : QWIDGETSIZE_MAX);
}

const work::Study* StudyPage::now() const
{
    for (const work::Study& s : all_)
        if (s.id == shown_) return &s;
    return nullptr;
}

const work::Member* StudyPage::member() const
{
    const work::Study* s = now();
    const QListWidgetItem* item = repeats_->currentItem();
    if (!s || !item || item->data(Qt::UserRole).isNull()) return nullptr;
    return &s->members[static_cast<std::size_t>(item->data(Qt::UserRole).toInt())];
}

void StudyPage::show_for(const records::Instrument& instrument)
{
    if (instrument_.id != instrument.id) shown_ = 0;
    instrument_ = instrument;
    pages_->setCurrentIndex(0);
    ask(Asks::nothing);
    refresh();
    setFocus(Qt::OtherFocusReason);
}

void StudyPage::refresh()
{
    all_ = work::studies(lab_);
    std::erase_if(all_, [&](const work::Study& s) {
        return s.design.instrument != instrument_.serial && s.design.second != instrument_.serial;
    });
    if (!now()) shown_ = all_.empty() ? 0 : all_.front().id;
    title_->setText(QStringLiteral("What its numbers are worth: %1").arg(instrument_.name));
    const auto method = bench::row(instrument_.kind).method;
    const auto known = method ? work::InForce(lab_).repeatability(quantity::fat_percent, protocol::word(*method),
                                    instrument_.serial.toStdString(), lab_.now(), {})
                              : std::nullopt;
    stands_on_->setText(
        known ? QStringLiteral("A change of percent fat counts from %1 on. %2")
                    .arg(report::spread_words(quantity::fat_percent, precision::change_factor * known->rms_sd),
                        report::repeatability_sentence(quantity::fat_percent, *known))
              : QString());
    {
        const QSignalBlocker quiet(studies_);
        studies_->clear();
        for (const work::Study& s : all_) studies_->addItem(report::study_line(s, lab_));
        for (std::size_t i = 0; i < all_.size(); ++i)
            if (all_[i].id == shown_) studies_->setCurrentRow(static_cast<int>(i));
    }
    studies_->setVisible(all_.size() > 1);
    studies_->setFixedHeight(Theme::get().px(std::min<int>(4, static_cast<int>(all_.size())) * 26 + 8));
    show_study(shown_);
}

void StudyPage::show_study(long id)
{
    if (id != shown_) {
        shown_ = id;
        quantity_ = 0;
        ask(Asks::nothing);
        return refresh();
    }
    const work::Study* s = now();
    told_ = s && !s->compares() ? work::repeated(*s) : nothing_told();
    compared_ = s && s->compares() ? work::compared(*s, lab_) : nothing_compared();
    const bool open = s && s->open(), results = told_ || compared_;
    next_->setText(s ? report::next_words(*s, lab_)
                     : QStringLiteral("Nobody has studied yet how well it repeats here. Fifteen people, three times "
                                      "each, say what a change is worth."));
    const auto person = open ? s->next_person(lab_.today()) : std::nullopt;
    again_->setVisible(person.has_value());
    for (KeyButton* b : {somebody_, pick_, out_, use_, stop_}) b->setVisible(open);
    use_->setEnabled(results);
    give_->setVisible(s != nullptr);
    const bool whole = open && results && !person && s->whole_people() >= s->design.people;
    again_->set_main(person.has_value());
    somebody_->set_words(s && s->people.empty() ? QStringLiteral("the first person") : QStringLiteral("somebody else"));
    somebody_->set_main(open && !person && static_cast<int>(s->people.size()) < s->design.people);
    use_->set_main(whole);
    new_->set_main(!open);

    const QSignalBlocker quiet(repeats_);
    const int row = repeats_->currentRow();
    repeats_->clear();
    repeats_->setVisible(s && !s->members.empty());
    int shown = -1;
    const Quantity* of = told_       ? (*told_)[std::min(quantity_, told_->size() - 1)].quantity
                         : compared_ ? (*compared_)[std::min(quantity_, compared_->size() - 1)].quantity
                                     : &quantity::fat_percent;
    for (std::size_t i = 0; s && i < s->members.size(); ++i) {
        const work::Member& m = s->members[i];
        if (m.person != shown) {
            auto* head = new QListWidgetItem(
                QStringLiteral("%1  %2").arg(m.person + 1).arg(s->people[static_cast<std::size_t>(m.person)]),
                repeats_);
            head->setFlags(Qt::ItemIsEnabled);
            shown = m.person;
        }
        const auto value = m.values.find(of);
        auto* item =
            new QListWidgetItem(QStringLiteral("     %1 %2  %3  %4%5")
                                        .arg(m.left_out.isEmpty() ? QStringLiteral("●") : QStringLiteral("–"),
                                            m.at.toString(s->design.kind == work::StudyKind::repair ||
                                                                  s->design.kind == work::StudyKind::days
                                                              ? QStringLiteral("d MMM")
                                                              : QStringLiteral("HH:mm")),
                                            value == m.values.end() ? QStringLiteral("–")
                                                                    : QStringLiteral("%1 %2")
                                                                          .arg(value->second, 0, 'f', of->decimals + 1)
                                                                          .arg(QString::fromUtf8(of->unit)),
                                            m.who,
                                            s->design.kind == work::StudyKind::instruments
                                                ? (m.side ? QStringLiteral(", second") : QStringLiteral(", first"))
                                            : s->design.kind == work::StudyKind::repair
                                                ? (m.side ? QStringLiteral(", after") : QStringLiteral(", before"))
                                                : QString()) +
                                    (m.left_out.isEmpty() ? QString() : QStringLiteral("\n       %1").arg(m.left_out)),
                repeats_);
        item->setData(Qt::UserRole, static_cast<int>(i));
    }
    repeats_->setCurrentRow(std::min(row, repeats_->count() - 1));
    out_->setEnabled(open && member());
    show_numbers();
}

void StudyPage::show_numbers()
{
    const work::Study* s = now();
    what_->clear();
    if (told_)
        for (const work::Repeated& t : *told_) what_->addItem(QString::fromUtf8(t.quantity->title));
    if (compared_)
        for (const work::Compared& c : *compared_) what_->addItem(QString::fromUtf8(c.quantity->title));
    quantity_ = std::min(quantity_, static_cast<std::size_t>(std::max(0, what_->count() - 1)));
    what_->setCurrentIndex(static_cast<int>(quantity_));
    what_->setVisible(what_->count() > 1);
    figure_->setVisible(what_->count() > 0);
    QStringList said;
    if (told_) {
        const work::Repeated& t = (*told_)[quantity_];
        said << report::told_sentence(t, *s) + ' ' +
                    report::worth_words(t.value(quantity::degrees_of_freedom), t.effective_degrees);
        said << report::operator_sentences(t);
        for (const QString& words : report::cautions(*s, *told_)) said << QStringLiteral("◆ ") + words;
        said << (s->over_days()
                     ? QStringLiteral("What days do to a body is in it: nothing is added where tests of two days are "
                                      "compared.")
                     : QStringLiteral("What a day does to a body is not in it, and is added to it where tests of two "
                                      "days are compared."));
        table_->setText(table_words(report::told_rows(*told_, *s)));
    } else if (compared_) {
        said << report::compared_sentence((*compared_)[quantity_], *s);
        table_->setText(table_words(report::compared_rows(*compared_)));
    } else {
        table_->clear();
        if (s)
            for (const Message& m : s->compares() ? compared_.messages() : told_.messages()) said << q(m.text);
    }
    said_->setText(said.join('\n'));
    figure_->update();
}

void StudyPage::ask(Asks what)
{
    asks_ = what;
    ask_row_->setVisible(what != Asks::nothing);
    body_->setVisible(what != Asks::somebody && what != Asks::pick); // a list wants the room
    answer_->setVisible(what == Asks::somebody || what == Asks::reason || what == Asks::give_up);
    choices_->setVisible(what == Asks::somebody || what == Asks::pick);
    answer_->clear();
    choices_->clear();
    const work::Study* s = now();
    if (what == Asks::nothing || !s) {
        setFocus(Qt::OtherFocusReason);
        return;
    }
    const QString anew = QString::fromUtf8(bench::method_row(s->design.method)->anew);
    switch (what) {
    case Asks::anew:
        question_->setText(QStringLiteral("Place anew first. %1").arg(anew));
        yes_->set_words(QStringLiteral("placed anew: to the screening"));
        break;
    case Asks::somebody:
        question_->setText(QStringLiteral("Who? Type a part of the name or number, then Enter."));
        yes_->set_words(QStringLiteral("this one: to the screening"));
        answer_->setPlaceholderText(QStringLiteral("name or number"));
        break;
    case Asks::pick:
        question_->setText(QStringLiteral("Tests that could be repeats, where the person was placed anew between "
                                          "them. Enter takes the marked one, under your name."));
        yes_->set_words(QStringLiteral("placed anew: it is a repeat"));
        break;
    case Asks::reason:
        question_->setText(QStringLiteral("What was seen to go wrong in it? That it lies far off is no reason."));
        yes_->set_words(QStringLiteral("leave it out"));
        answer_->setPlaceholderText(QStringLiteral("a hand slipped off the metal"));
        break;
    case Asks::use:
        question_->setText(
            s->compares()
                ? QStringLiteral("From now on tests on both are read as this study says. It takes nothing more.")
                : QStringLiteral("From now on the bands of change on this instrument stand on it; what was told before "
                                 "stays as it was told. It takes nothing more."));
        yes_->set_words(QStringLiteral("use it from now on"));
        break;
    default:
        question_->setText(QStringLiteral("Why is it given up? Its repeats stay in the records of the people."));
        yes_->set_words(QStringLiteral("give it up"));
        answer_->setPlaceholderText(QStringLiteral("the reason"));
    }
    show_found();
    if (!answer_->isHidden())
        answer_->setFocus();
    else if (!choices_->isHidden())
        choices_->setFocus();
    else
        setFocus(Qt::OtherFocusReason);
}

void StudyPage::show_found()
{
    const work::Study* s = now();
    if (!s || choices_->isHidden()) return;
    choices_->clear();
    if (asks_ == Asks::somebody) {
        people_ = lab_.store->find_clients(answer_->text(), 20);
        for (const records::Client& c : people_)
            choices_->addItem(QStringLiteral("%1   %2   %3").arg(c.number, c.full_name(), c.role));
    } else {
        found_ = work::candidates(lab_, *s);
        for (const work::Candidate& c : found_)
            choices_->addItem(
                QStringLiteral("%1   %2   %3").arg(c.name, c.at.toString(QStringLiteral("d MMM yyyy HH:mm")), c.who));
        if (found_.empty())
            question_->setText(
                QStringLiteral("Nobody was measured twice on it within %1, apart from what is in the study already.")
                    .arg(s->design.kind == work::StudyKind::repeats || s->design.kind == work::StudyKind::instruments
                             ? QStringLiteral("%1 hours").arg(work::repeats_hours)
                             : QStringLiteral("%1 days").arg(work::repeats_days)));
    }
    choices_->setCurrentRow(0);
}

void StudyPage::done(const std::optional<Message>& why, const QString& well)
{
    if (why) return emit trouble(q(why->text));
    if (!well.isEmpty()) emit note(well);
    refresh();
}

void StudyPage::measure_now(long client_id, bool anew)
{
    const work::Study* s = now();
    if (!s || who().isEmpty()) return;
    const auto method = s->design.method;
    if (const auto why = work::await_repeat(lab_, shown_, client_id, anew, who())) return emit trouble(q(why->text));
    ask(Asks::nothing);
    refresh();
    emit measure(client_id, method);
}

void StudyPage::answered()
{
    const auto row = static_cast<std::size_t>(std::max(0, choices_->currentRow()));
    if (who().isEmpty()) return;
    switch (asks_) {
    case Asks::anew: return measure_now(await_, true);
    case Asks::somebody:
        if (row < people_.size()) measure_now(people_[row].id, true);
        return;
    case Asks::pick: {
        if (row >= found_.size()) return;
        const auto why = work::take_repeat(lab_, shown_, found_[row].visit_id, true, who());
        if (why) return emit trouble(q(why->text));
        refresh();
        show_found();
        return;
    }
    case Asks::reason: {
        if (!member()) return;
        const auto why = work::leave_out(lab_, shown_, member()->visit_id, answer_->text(), who());
        if (why) return emit trouble(q(why->text));
        ask(Asks::nothing);
        return refresh();
    }
    case Asks::use: {
        const auto why = work::close_study(lab_, shown_, who());
        if (why) return emit trouble(q(why->text));
        ask(Asks::nothing);
        return done({}, QStringLiteral("From now on changes on %1 are held against it.").arg(instrument_.name));
    }
    case Asks::give_up: {
        const auto why = work::give_up(lab_, shown_, answer_->text(), who());
        if (why) return emit trouble(q(why->text));
        ask(Asks::nothing);
        return refresh();
    }
    default: return;
    }
}

} // namespace fusain::desk

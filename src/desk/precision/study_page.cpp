// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/precision/study_page.h"

#include "bench/visit/methods.h"
#include "report/precision/study_words.h"
#include "report/reading/reading_words.h"
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
    const auto method = instrument_.kind->method;
    const auto known = method ? work::InForce(lab_).repeatability(quantity::fat_percent, (*method)->word,
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
    const QString anew = QString::fromUtf8(bench::bench_of(s->design.method).anew);
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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/panels.h"

#include "desk/bench/method_desk.h"

#include "core/base/limits.h"
#include "core/air_and_water/water.h"
#include "records/base/clock.h"
#include "report/words/catalogue.h"
#include "report/sheets/sheets.h"

#include <QDateTime>
#include <QGridLayout>

#include <cmath>

#include <algorithm>

namespace fusain::desk {

Panel::Panel(work::Session& session, bench::Step step, const QString& title, const QString& hint)
    : session_(session), step_(step), body_(new QVBoxLayout), keys_(new WrappedRow), title_(label("title", title)),
      hint_(label("small", hint))
{
    setFocusPolicy(Qt::StrongFocus); // keys belong to the step, not to a field left behind
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(30, 22, 30, 16);
    column->setSpacing(4);
    title_->setObjectName(QStringLiteral("panel_title"));
    column->addWidget(title_);
    column->addWidget(hint_);
    column->addSpacing(10);
    column->addLayout(body_, 1);
    column->addLayout(keys_);
    keys_->setSpacing(18);
}

bool Panel::of_this_visit() const
{
    const auto& steps = session_.visit().steps();
    return session_.is_open() && std::find(steps.begin(), steps.end(), step_) != steps.end();
}

void Panel::say(const QString& title, const QString& hint)
{
    title_->setText(title);
    hint_->setText(hint);
}

KeyButton* Panel::key(
    const QKeySequence& sequence, const QString& cap, const QString& words, bool main, const char* name)
{
    auto* b = new KeyButton(sequence, cap, words);
    b->setObjectName(QString::fromLatin1(name));
    b->set_main(main);
    keys_->addWidget(b);
    return b;
}

ReadingRow::ReadingRow() : number_(label("huge")), doubt_(label("number")), check_(label("small"))
{
    // figures are never cut for want of room: the picture above gives way
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    number_->setObjectName(QStringLiteral("reading"));
    number_->setWordWrap(false);
    doubt_->setWordWrap(false);
    row->addWidget(number_);
    row->addSpacing(18);
    auto* beside = new QVBoxLayout;
    beside->addStretch();
    beside->addWidget(doubt_);
    beside->addWidget(check_);
    beside->addSpacing(12);
    row->addLayout(beside, 1);
}

void ReadingRow::show_reading(const QString& number, const QString& doubt, const QString& check, bool stands)
{
    number_->setText(number.isEmpty() ? QStringLiteral("–") : large(number));
    doubt_->setText(doubt);
    check_->setText(check);
    const QString style =
        stands && !number.isEmpty() ? QString() : QStringLiteral("color: %1").arg(Theme::get().palette().faint.name());
    if (number_->styleSheet() != style) number_->setStyleSheet(style);
}

ReasonRow::ReasonRow(std::initializer_list<const char*> reasons)
{
    auto* row = new WrappedRow(this);
    int i = 0;
    for (const char* reason : reasons) {
        const QString cap = QString::number(++i), words = QString::fromUtf8(reason);
        auto* b = new KeyButton(QKeySequence(cap), cap, words);
        b->setObjectName(QStringLiteral("reason_%1").arg(i));
        connect(b, &QAbstractButton::clicked, this, [this, words] { emit chosen(words); });
        row->addWidget(b);
    }
    hide();
}

QString old_words(const bench::Live& live, bench::Channel channel, Measure measure)
{
    const auto& heard = live.heard[static_cast<std::size_t>(channel)];
    if (!heard || heard->age_s <= bench::longest_age_s(channel)) return {};
    const auto& row = bench::row(channel);
    const QString value = measure == Measure::none
                              ? QStringLiteral("%1 %2").arg(heard->value, 0, 'f', 1).arg(QString::fromUtf8(row.unit))
                              : Units::get().text(measure, heard->value, 1);
    return QStringLiteral("%1, %2 ago")
        .arg(value, heard->age_s < 60 ? QStringLiteral("%1 s").arg(std::floor(heard->age_s))
                                      : q(protocol::span_words(std::floor(heard->age_s / 60))));
}

namespace {

const QKeySequence space(Qt::Key_Space), return_key(Qt::Key_Return);

QString age_words(double age_y) { return QStringLiteral("%1 years old").arg(static_cast<int>(age_y)); }

class WhoPanel : public Panel {
public:
    explicit WhoPanel(work::Session& s)
        : Panel(s, bench::step::who, QStringLiteral("Is this the same person?"),
              QStringLiteral("Ask for the date of birth; do not read it out.")),
          height_(new NumberField("height_cm", Measure::height))
    {
        name_ = label("title");
        name_->setStyleSheet(QStringLiteral("font-size: %1px").arg(Theme::get().px(44)));
        born_ = label("heading");
        note_ = label("trouble");
        body_->addWidget(name_);
        body_->addWidget(born_);
        body_->addSpacing(24);
        body_->addWidget(label("small", QStringLiteral("Height measured today, bare feet")));
        body_->addWidget(height_);
        body_->addWidget(note_);
        body_->addStretch();
        auto* yes =
            key(return_key, QStringLiteral("⏎"), QStringLiteral("yes, this is the person"), true, "confirm_who");
        auto* no =
            key(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("somebody else"), false, "not_who");
        connect(yes, &QAbstractButton::clicked, this, [this] {
            if (const auto cm = height_->metric()) session_.act(bench::event::Identity{*cm});
        });
        connect(height_->edit(), &QLineEdit::returnPressed, yes, &QAbstractButton::click);
        connect(no, &QAbstractButton::clicked, this, &Panel::give_up);
        connect(height_, &NumberField::edited, this, &WhoPanel::compare);
    }
    void enter() override
    {
        const bench::Visit& v = session_.visit();
        name_->setText(q(v.subject.name));
        born_->setText(QStringLiteral("born %1, %2, number %3")
                           .arg(records::date_words(v.subject.birth_date), age_words(v.age_y()), q(v.subject.number)));
        height_->set_metric(v.height_today_cm.value_or(v.subject.height_cm));
        compare();
    }

private:
    void compare()
    {
        const bench::Visit& v = session_.visit();
        const auto cm = height_->peek();
        const auto differs = cm ? judgement::judge_height(*cm, v.subject.height_cm, v.age_y()) : std::nullopt;
        note_->setText(
            differs ? QStringLiteral(
                          "◆ The record says %1. More than 1.5 cm in an adult: is it the right person? Measure again.")
                          .arg(Units::get().text(Measure::height, v.subject.height_cm, 1))
                    : QString());
    }
    NumberField* height_;
    QLabel *name_, *born_, *note_;
};

class StopsPanel : public Panel {
public:
    explicit StopsPanel(work::Session& s)
        : Panel(s, bench::step::stops, QStringLiteral("Ask each one. Does anything forbid it?"),
              QStringLiteral("Mark what applies. A stop is a stop: there is no way around it."))
    {
        auto* columns = new QHBoxLayout;
        columns->setContentsMargins(0, 0, 0, 0);
        columns->setSpacing(30);
        const auto& all = report::hydrostatic_questions();
        columns->addLayout(list(QStringLiteral("Stops the test"), all.stops, '1', stops_), 1);
        columns->addLayout(list(QStringLiteral("Ask, and note"), all.notes, 'A', notes_), 1);
        body_->addLayout(columns);
        body_->addSpacing(12);
        verdict_ = label("trouble");
        verdict_->setObjectName(QStringLiteral("verdict"));
        body_->addWidget(verdict_);
        body_->addStretch();
        done_ = key(Qt::Key_Return, QStringLiteral("⏎"), QString(), true, "stops_done");
        back_ = key(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("back to the clients"), false,
            "stops_back");
        connect(back_, &QAbstractButton::clicked, this, &Panel::give_up);
        connect(done_, &QAbstractButton::clicked, this, [this] {
            bench::event::Stops asked;
            for (const auto& [id, mark] : stops_)
                if (mark->isChecked()) asked.stop.push_back(id);
            for (const auto& [id, mark] : notes_)
                if (mark->isChecked()) asked.noted.push_back(id);
            asked.questions_version = report::hydrostatic_questions().version;
            session_.act(asked);
        });
        weigh();
    }
    void enter() override
    {
        for (auto* list : {&stops_, &notes_})
            for (auto& [id, mark] : *list) {
                const auto& held = list == &stops_ ? session_.visit().stop_reasons : session_.visit().notes;
                mark->setChecked(std::count(held.begin(), held.end(), id) > 0);
            }
        on_changed();
    }
    void on_changed() override
    {
        const bool stopped = session_.visit().stopped();
        for (auto* list : {&stops_, &notes_})
            for (auto& [id, mark] : *list) mark->setEnabled(!stopped);
        done_->setVisible(!stopped);
        back_->setVisible(stopped);
        if (stopped)
            say(QStringLiteral("Not in the tank today"),
                QStringLiteral(
                    "Kept with the visit. Another method may be possible; local rules and licensed practice decide."));
        else
            say(QStringLiteral("Ask each one. Does anything forbid it?"),
                QStringLiteral("Mark what applies. A stop is a stop: there is no way around it."));
        weigh();
    }

private:
    using Marks = std::vector<std::pair<std::string, KeyButton*>>;
    QVBoxLayout* list(const QString& heading, const std::vector<report::Question>& questions, char first, Marks& marks)
    {
        auto* v = new QVBoxLayout;
        v->setContentsMargins(0, 0, 0, 0);
        v->setSpacing(6);
        v->addWidget(label("heading", heading));
        for (const auto& question : questions) {
            const QString cap(QLatin1Char(static_cast<char>(first++)));
            auto* mark = new Mark(QKeySequence(cap), cap, q(question.text), QStringLiteral("◆ applies"));
            mark->setObjectName(q(question.id));
            connect(mark, &QAbstractButton::toggled, this, &StopsPanel::weigh);
            v->addWidget(mark, 0, Qt::AlignLeft); // without it the whole column is centred
            marks.emplace_back(question.id, mark);
        }
        v->addStretch();
        return v;
    }
    void weigh()
    {
        const bool stop =
            std::any_of(stops_.begin(), stops_.end(), [](const auto& m) { return m.second->isChecked(); });
        verdict_->setText(stop ? QStringLiteral("◆ This forbids weighing under water today.") : QString());
        done_->set_words(stop ? QStringLiteral("keep it: not today") : QStringLiteral("all asked, none forbids it"));
    }
    Marks stops_, notes_;
    QLabel* verdict_;
    KeyButton *done_, *back_;
};

class MassPanel : public Panel {
public:
    explicit MassPanel(work::Session& s)
        : Panel(s, bench::step::mass, QString(), QString()), typed_(new NumberField("mass_kg", Measure::mass))
    {
        number_ = label("huge");
        number_->setObjectName(QStringLiteral("live_mass"));
        state_ = label("heading");
        body_->addWidget(number_);
        body_->addWidget(state_);
        differs_ = label("trouble");
        body_->addWidget(differs_);
        body_->addSpacing(20);
        typed_row_ = new QWidget;
        auto* h = new QHBoxLayout(typed_row_);
        h->setContentsMargins(0, 0, 0, 0);
        h->addWidget(label("small", QStringLiteral("Read off another scale")));
        h->addWidget(typed_, 1);
        typed_row_->hide();
        body_->addWidget(typed_row_);
        body_->addStretch();
        take_ = key(space, QStringLiteral("Space"), QStringLiteral("take it"), true, "take_mass");
        auto* type = key(QKeySequence(Qt::Key_T), QStringLiteral("T"), QStringLiteral("type it"), false, "type_mass");
        connect(take_, &QAbstractButton::clicked, this, [this] {
            if (const auto w = weighed()) session_.act(bench::event::Mass{w->kg, w->word});
        });
        connect(type, &QAbstractButton::clicked, this, &MassPanel::type_it);
        connect(typed_->edit(), &QLineEdit::returnPressed, this, [this] {
            if (const auto kg = typed_->metric()) session_.act(bench::event::Mass{*kg, "typed"});
        });
        connect(typed_, &NumberField::edited, this, &MassPanel::on_live);
        connect(&Units::get(), &Units::changed, this, &MassPanel::on_live);
    }
    void enter() override
    {
        typed_row_->hide();
        typed_->set_metric(std::nullopt);
        session_.say(QStringLiteral("stand"));
        if (!speaks()) type_it();
        on_live();
    }
    void on_live() override
    {
        const bench::Live& l = session_.live();
        const auto w = weighed();
        number_->setText(w ? large(Units::get().text(Measure::mass, w->kg, 2)) : QStringLiteral("–"));
        const char* held = desk_of(session_.visit()).not_weighed_while(l);
        const bool ready = w && w->stable && w->kg > somebody_kg && !held;
        take_->setEnabled(ready);
        if (held)
            say(QString::fromUtf8(held), QStringLiteral("While the mass is read nobody holds on."));
        else if (speaks() && (!l.connected || (!w && fell_silent())))
            say(QStringLiteral("The scale is not heard"), QStringLiteral("Check the line, or type the mass (T)."));
        else if (!speaks())
            say(title() + QStringLiteral(": type what it shows"),
                QStringLiteral("As little on as will be worn in the test. ⏎ takes it."));
        else if (ready)
            say(QStringLiteral("Settled: take it"),
                QStringLiteral("As worn in the test, nothing in the hands, nothing touched."));
        else
            say(title(), QStringLiteral("As little on as will be worn in the test. Stand still, touch nothing."));
        const auto seen = typed_row_->isVisible() && typed_->peek() ? typed_->peek()
                          : ready                                   ? std::optional(w->kg)
                                                                    : std::nullopt;
        const auto differs = seen ? judgement::judge_mass(*seen, session_.visit().last) : std::nullopt;
        differs_->setText(
            !differs ? QString()
            : differs->code == "mass_differs"
                ? QStringLiteral(
                      "◆ %1 at the last visit, less than two weeks ago. Is it the right person? Weigh again.")
                      .arg(Units::get().text(Measure::mass, session_.visit().last->mass_kg, 1))
                : QStringLiteral("◆ %1 at the last visit: it fell faster than 1 kg or 1 % a week.")
                      .arg(Units::get().text(Measure::mass, session_.visit().last->mass_kg, 1)));
        state_->setText(ready                      ? QString()
                        : w && w->kg > somebody_kg ? QStringLiteral("settling …")
                                                   : QStringLiteral("waiting for the client"));
    }

private:
    static constexpr double somebody_kg = 15;
    struct Weighed {
        double kg;
        bool stable;
        const char* word; ///< as the log has it
    };
    /// What weighs a client of this method: the one on which somebody stands, else the first that speaks.
    /// A line is there for what weighs.
    bool speaks() const
    {
        const auto& by = session_.visit().row().weighs;
        return std::any_of(by.begin(), by.end(), [&](bench::Channel c) { return session_.live().speaks(c); });
    }
    std::optional<Weighed> weighed() const
    {
        std::optional<Weighed> out;
        for (const bench::Channel c : session_.visit().row().weighs)
            if (const bench::Heard* h = session_.live().fresh(c))
                if (!out || (out->kg < somebody_kg && h->value > somebody_kg))
                    out = {h->value, h->stable, c == bench::Channel::platform ? "platform" : "scale"};
        return out;
    }
    bool fell_silent() const
    {
        for (const bench::Channel c : session_.visit().row().weighs)
            if (session_.live().heard[static_cast<std::size_t>(c)]) return true;
        return false;
    }
    QString title() const { return QString::fromUtf8(desk_of(session_.visit()).weigh_title); }
    void type_it()
    {
        typed_row_->show();
        typed_->edit()->setFocus();
    }
    NumberField* typed_;
    QWidget* typed_row_;
    QLabel *number_, *state_, *differs_;
    KeyButton* take_;
};

} // namespace

Panel* make_panel(bench::Step step, work::Session& s)
{
    if (step == bench::step::who) return new WhoPanel(s);
    if (step == bench::step::stops) return new StopsPanel(s);
    if (step == bench::step::mass) return new MassPanel(s);
    return desk_of(s.visit()).panel(step, s);
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/instruments/instruments_page.h"

#include "bench/tank/tank_take.h"

#include <QVBoxLayout>

#include <cmath>

namespace fusain::desk {

using Kind = bench::CheckStep::Kind;

CheckPanel::CheckPanel(work::Lab& lab, work::Session& session, QWidget* parent)
    : QWidget(parent), lab_(lab), session_(session), title_(label("title")), hint_(label("small")), big_(label("big")),
      steps_(label("text")), result_(label("heading")), remark_(new QLineEdit), timer_(session.clock(), this)
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(34, 26, 34, 16);
    v->setSpacing(6);
    title_->setObjectName(QStringLiteral("check_title"));
    v->addWidget(title_);
    v->addWidget(hint_);
    v->addSpacing(10);
    big_->setObjectName(QStringLiteral("check_big"));
    v->addWidget(big_);
    result_->setObjectName(QStringLiteral("check_result"));
    v->addWidget(result_);
    remark_->setObjectName(QStringLiteral("check_remark"));
    remark_->setPlaceholderText(QStringLiteral("what was done about it"));
    v->addWidget(remark_);
    typed_ = new TypedRow({{QStringLiteral("what the instrument shows"), "check_typed",
        value_ = new NumberField("instrument_check.reading", Measure::none)}});
    v->addWidget(typed_);
    who_measured_ = new ChoiceBox;
    who_measured_->setObjectName(QStringLiteral("check_person"));
    v->addWidget(who_measured_, 0, Qt::AlignLeft);
    connect(typed_, &TypedRow::left, this, &CheckPanel::close_typing);
    connect(typed_, &TypedRow::typed, this, [this] {
        if (const auto* s = step(); s && s->may_lack && value_->is_empty()) {
            add(bench::checking::Done{s->id}); // it does not show it
            return close_typing();
        }
        const auto value = value_->metric();
        if (const auto* s = step(); s && value) add(bench::checking::Reading{s->id, *value, {}, {}, "typed"});
        if (value) typed_->clear();
        if (const auto* s = step(); !s || s->kind < Kind::read) close_typing();
    });
    v->addSpacing(10);
    steps_->setTextFormat(Qt::RichText);
    steps_->setObjectName(QStringLiteral("check_steps"));
    v->addWidget(steps_);
    v->addStretch();
    auto* keys = new WrappedRow;
    keys->setSpacing(16);
    const auto key = [&](const QKeySequence& k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(k, QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        keys->addWidget(b);
        return b;
    };
    main_ = key(Qt::Key_Space, "Space", "", "check_main");
    main_->set_main(true);
    type_ = key(Qt::Key_T, "T", "type it", "check_type");
    connect(type_, &QAbstractButton::clicked, typed_, &TypedRow::open);
    repeat_ = key(Qt::Key_R, "R", "repeat the check", "check_repeat");
    remark_key_ = key(Qt::Key_W, "W", "write what was done", "check_write");
    give_up_ = key(Qt::Key_X, "X", "give this check up", "check_give_up");
    leave_ = key(Qt::Key_Escape, "Esc", "back; it goes on by itself", "check_leave");
    v->addLayout(keys);
    connect(main_, &QAbstractButton::clicked, this, &CheckPanel::confirm);
    connect(leave_, &QAbstractButton::clicked, this, &CheckPanel::done);
    connect(repeat_, &QAbstractButton::clicked, this, [this] {
        check_id_ = 0;
        if (const auto why = begin(*instrument_)) emit trouble(q(why->text));
    });
    connect(give_up_, &QAbstractButton::clicked, this, [this] {
        add(bench::checking::Finished{true});
        emit done();
    });
    connect(remark_key_, &QAbstractButton::clicked, this, [this] {
        remark_->show();
        remark_->setFocus();
    });
    connect(remark_, &QLineEdit::returnPressed, this, [this] {
        const QString who = who_ ? who_() : QString(), text = remark_->text().trimmed();
        if (who.isEmpty() || text.isEmpty()) return;
        if (const auto why = lab_.checks.remark(check_id_, who, text)) return emit trouble(q(why->text));
        remark_->clear();
        remark_->hide();
        setFocus(Qt::OtherFocusReason);
        redraw();
    });
    connect(&session_, &work::Session::instrument_reading, this, [this](const bench::Reading& r) {
        const auto* s = step();
        if (isVisible() && asking_ && s && s->kind == Kind::read && s->channel == r.channel)
            reading(r.value, r.more_count ? std::optional(r.more[0]) : std::nullopt);
    });
    connect(&session_, &work::Session::live_changed, this, &CheckPanel::tick);
    connect(&timer_, &bench::Beat::due, this, &CheckPanel::tick);
    timer_.start(500);
    setFocusPolicy(Qt::StrongFocus);
}

const bench::CheckStep* CheckPanel::step() const
{
    if (!instrument_ || run_.all_done()) return nullptr;
    return &run_.steps()[static_cast<std::size_t>(run_.next())];
}

std::optional<Message> CheckPanel::begin(const records::Instrument& instrument)
{
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty())
        return Message{"missing_field", Level::error, "technician",
            "Write your name at the top right first: every check is kept with who made it."};
    instrument_ = instrument;
    asking_ = weighing_ = false;
    const auto open = lab_.checks.open_run(instrument.id, lab_.now());
    if (open) {
        check_id_ = open->id;
    } else {
        const auto id = lab_.checks.begin(instrument, who, work::now_utc());
        if (!id) return id.messages().front();
        check_id_ = *id;
    }
    const auto run = lab_.checks.replay(check_id_);
    if (!run) return run.messages().front();
    run_ = *run;
    setFocus(Qt::OtherFocusReason);
    redraw();
    return std::nullopt;
}

void CheckPanel::add(bench::Act what)
{
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty()) return;
    const bench::Event e =
        bench::logged({run_.last_seq + 1, work::now_utc().toStdString(), who.toStdString()}, std::move(what));
    if (const auto why = lab_.checks.append(check_id_, e)) return emit trouble(q(why->text));
    if (const auto why = run_.apply(e)) return emit trouble(q(why->text));
    asking_ = weighing_ = false;
    if (run_.all_done()) lab_.say_changed();
    redraw();
}

void CheckPanel::close_typing()
{
    typed_->close_row();
    setFocus(Qt::OtherFocusReason);
}

void CheckPanel::confirm()
{
    const auto* s = step();
    if (!s) return emit done();
    if (s->kind == Kind::person) return add(bench::checking::Done{s->id, who_measured_->currentText().toStdString()});
    if (s->by_hand) return s->may_lack ? add(bench::checking::Done{s->id}) : typed_->open();
    if (s->kind == Kind::confirm || s->kind == Kind::wait || s->kind == Kind::expect)
        return add(bench::checking::Done{s->id});
    ask();
}

void CheckPanel::ask()
{
    const auto* s = step();
    const bench::Live& l = session_.live();
    if (s->kind == Kind::water) {
        if (l.water_temp_c) add(bench::checking::Reading{s->id, *l.water_temp_c});
        return;
    }
    if (s->kind == Kind::zero) {
        const bench::TankShown& tank = bench::tank_shown(l);
        if (tank.steady) add(bench::checking::Reading{s->id, tank.mean_kg, {}, tank.sd_kg});
        return;
    }
    // what the technician does with hands: the stand-in's room listens (demo only)
    QString cue = QString::fromLatin1(s->ask);
    if (cue == "resistor") cue = QStringLiteral("r_") + QString::fromLatin1(s->id);
    session_.say(cue);
    asking_ = true;
    weighing_ = s->channel == bench::Channel::scale;
    redraw();
}

void CheckPanel::reading(double value, std::optional<double> reactance)
{
    const auto* s = step();
    add(bench::checking::Reading{s->id, value, reactance});
}

void CheckPanel::tick()
{
    if (!isVisible() || !instrument_) return;
    const auto* s = step();
    if (!s) return;
    if (weighing_ && session_.live().scale_stable && session_.live().scale_kg &&
        *session_.live().scale_kg > 0.5 * run_.reference())
        return reading(*session_.live().scale_kg);
    redraw();
}

void CheckPanel::redraw()
{
    if (!instrument_) return;
    const bench::InstrumentKind& kind = run_.kind();
    const auto* s = step();
    const look::Palette& c = Theme::get().palette();
    const bench::Live& l = session_.live();
    remark_->setVisible(remark_->isVisible() && !s);
    repeat_->setVisible(!s);
    give_up_->setVisible(s);
    remark_key_->setVisible(!s);
    QString big, result;
    bool ready = true;
    if (!s) {
        const auto r = run_.result();
        const bool passed = r && r->passed;
        title_->setText(passed ? QStringLiteral("%1: ready").arg(instrument_->name)
                               : QStringLiteral("%1: the check failed").arg(instrument_->name));
        hint_->setText(
            passed ? QString()
                   : QStringLiteral("Repeat it once. If it fails again, stop using it and write what was done."));
        result = q(r ? r->words : r.messages().front().text);
        for (const QString& remark : lab_.checks.remarks(check_id_)) result += QStringLiteral("\nNoted: ") + remark;
        main_->set_words(QStringLiteral("done"));
    } else {
        title_->setText(q(s->words));
        hint_->setText(q(s->hint));
        const double left = run_.seconds_left(static_cast<double>(work::clock_now().toMSecsSinceEpoch()) / 1000);
        const auto timer = [&] {
            return QStringLiteral("%1:%2")
                .arg(static_cast<int>(left) / 60)
                .arg(static_cast<int>(left) % 60, 2, 10, QChar('0'));
        };
        switch (s->kind) {
        case Kind::confirm: main_->set_words(QStringLiteral("done")); break;
        case Kind::wait:
            ready = left <= 0;
            big = ready ? QStringLiteral("time is over") : QStringLiteral("%1 min").arg(timer());
            main_->set_words(ready ? QStringLiteral("go on") : QStringLiteral("wait"));
            break;
        case Kind::expect:
            big = left > 0 ? QStringLiteral("about %1 min left").arg(static_cast<int>(std::ceil(left / 60)))
                           : QStringLiteral("should be full");
            main_->set_words(QStringLiteral("it is full"));
            break;
        case Kind::person: main_->set_words(QStringLiteral("this one")); break;
        case Kind::read: {
            if (s->by_hand) {
                main_->set_words(s->may_lack ? QStringLiteral("it does not show it") : QStringLiteral("type it"));
                break;
            }
            const auto taken = run_.readings(s->id);
            const int wanted = run_.wanted(*s);
            ready = !asking_ && l.connected;
            big = s->channel == bench::Channel::scale && l.scale_kg ? Units::get().text(Measure::mass, *l.scale_kg, 2)
                  : asking_                                         ? QStringLiteral("reading …")
                            : QStringLiteral("%1 of %2").arg(taken.size()).arg(wanted);
            main_->set_words(asking_ ? QStringLiteral("waiting for the instrument")
                                     : QStringLiteral("take reading %1 of %2").arg(taken.size() + 1).arg(wanted));
            break;
        }
        case Kind::water:
            ready = l.connected && l.water_temp_c;
            big = l.water_temp_c ? Units::get().text(Measure::temperature, *l.water_temp_c, 1)
                                 : QStringLiteral("no thermometer");
            main_->set_words(QStringLiteral("take it"));
            break;
        case Kind::zero: {
            const bench::TankShown& tank = bench::tank_shown(l);
            ready = l.connected && tank.steady;
            big = tank.cell_kg ? Units::get().text(Measure::mass, tank.mean_kg, 3) : QStringLiteral("no load cell");
            main_->set_words(ready ? QStringLiteral("zero") : QStringLiteral("not calm yet"));
            break;
        }
        }
        if (!l.connected && s->kind >= Kind::read && !s->by_hand)
            hint_->setText(QStringLiteral("◆ The instruments are not heard. Check cable and power; they come back by "
                                          "themselves. Or type what the "
                                          "instrument shows (T)."));
    }
    const bool reads = s && s->kind >= Kind::read;
    type_->setVisible(reads);
    if (!reads) typed_->hide();
    if (s && s->by_hand && !typed_->is_open()) typed_->open();
    if (s && s->kind == Kind::person && who_measured_->isHidden()) {
        who_measured_->clear();
        for (const records::StaffMember& m : lab_.diary->staff())
            if (m.active) who_measured_->addItem(m.name);
        who_measured_->setCurrentIndex(std::max(0, who_measured_->findText(who_ ? who_() : QString())));
    }
    who_measured_->setVisible(s && s->kind == Kind::person);
    if (reads && s->by_hand)
        typed_->say({});
    else if (reads)
        typed_->say(QStringLiteral("in %1").arg(s->kind == Kind::water  ? QStringLiteral("°C")
                                                : s->kind == Kind::zero ? QStringLiteral("kg")
                                                                        : q(kind.unit)));
    main_->setEnabled(ready);
    big_->setText(large(big));
    big_->setVisible(!big.isEmpty());
    result_->setText(result);
    result_->setVisible(!result.isEmpty());
    QString rows;
    const auto& steps = run_.steps();
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const auto& one = steps[i];
        const bool past = static_cast<int>(i) < run_.next(), now = static_cast<int>(i) == run_.next();
        QString values;
        for (double v : run_.readings(one.id))
            values += QStringLiteral("&nbsp;&nbsp;&nbsp;%1").arg(v, 0, 'f', one.by_hand ? 1 : kind.decimals);
        if (!values.isEmpty() && !one.by_hand) values += ' ' + q(kind.unit);
        if (one.kind == Kind::person && past) values = QStringLiteral("  ") + q(run_.person());
        if (one.kind == Kind::water && run_.water_c) values = QStringLiteral("  %1 °C").arg(*run_.water_c, 0, 'f', 1);
        if (one.kind == Kind::zero && run_.zero_kg) values = QStringLiteral("  %1 kg").arg(*run_.zero_kg, 0, 'f', 3);
        rows += QStringLiteral("<tr><td style='padding:3px 12px 3px 0; color:%1'>%2</td><td style='color:%1; "
                               "padding:3px 0'>%3%4</td></tr>")
                    .arg(now ? c.ink.name() : c.smudge.name(),
                        past  ? QStringLiteral("●")
                        : now ? QStringLiteral("▸")
                              : QStringLiteral("○"),
                        now ? QStringLiteral("<b>%1</b>").arg(q(one.words)) : q(one.words), values);
    }
    steps_->setText(QStringLiteral("<table>%1</table>").arg(rows));
}

} // namespace fusain::desk

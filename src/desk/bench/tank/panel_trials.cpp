// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/tank/tank_take.h"
#include "desk/bench/tank/tank_panels.h"
#include "desk/bench/signal_file.h"
#include "work/files/recording_file.h"
#include "desk/bench/tank/swing_view.h"
#include "desk/parts/typed_row.h"
#include "report/words/readings_figure.h"

#include <cmath>

namespace fusain::desk {
namespace {

/// Trials under water: the live swing, the reading as it comes, the trials so far, and keys for one wet hand.
class TrialsPanel : public Panel {
public:
    explicit TrialsPanel(work::Session& s) : Panel(s, bench::step::trials, QString(), QString()), view_(new SwingView)
    {
        body_->addWidget(view_, 5);
        reading_ = new ReadingRow;
        body_->addWidget(reading_);
        strip_ = new Figure([this](QPainter& p, const QRectF& area) {
            const auto& l = session_.live();
            const bench::TankShown& tank = bench::tank_shown(l);
            const auto& shown = tank.swing.reading ? tank.swing.reading : tank.swing.estimate;
            report::draw_readings(p, area, session_.visit(), l.trial && tank.let_go && shown ? shown->kg : NAN,
                Theme::get().palette(), Theme::get().px(14), mass_unit());
        });
        body_->addWidget(strip_);
        advice_ = label("text");
        advice_->setObjectName(QStringLiteral("advice"));
        body_->addWidget(advice_);
        body_->addSpacing(8);

        reason_row_ = new ReasonRow(
            {"air left in the lungs", "touched the wall", "came up early", "moved", "chair was held", "other"});
        connect(reason_row_, &ReasonRow::chosen, this, &TrialsPanel::throw_out);
        body_->addWidget(reason_row_);
        zeroed_row_ = new ReasonRow({"the zero is taken off in it", "it is what the display showed"});
        connect(zeroed_row_, &ReasonRow::chosen, this, [this](const QString& how) {
            work::SwingRecording r = *std::exchange(brought_, nullptr);
            r.typed.net = how.startsWith(QStringLiteral("the zero"));
            session_.bring(r.typed, std::move(r.signal));
            on_live();
        });
        body_->addWidget(zeroed_row_);
        file_ = new SignalFile(this, "swing_file", [this] {
            return SignalFile::reader(work::swing_file, [this](Outcome<work::SwingRecording> read) {
                if (read)
                    brought_ = std::make_shared<work::SwingRecording>(std::move(read).take());
                else
                    file_said_ = q(read.messages().front().text);
                on_live();
            });
        });
        connect(file_, &SignalFile::begun, this, [this] {
            file_said_.clear();
            on_live();
        });
        low_ = new NumberField("hydrostatic.shown_kg", Measure::mass);
        high_ = new NumberField("hydrostatic.shown_kg", Measure::mass);
        typed_ = new TypedRow({{QStringLiteral("lowest of the regular swing, or one value"), "typed_low", low_},
            {QStringLiteral("highest"), "typed_high", high_}});
        body_->addWidget(typed_, 1);
        connect(typed_, &TypedRow::edited, this, &TrialsPanel::sum);
        connect(typed_, &TypedRow::typed, this, &TrialsPanel::take_typed);
        connect(typed_, &TypedRow::left, this, &TrialsPanel::toggle_typing);
        connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
            if (!e.is<bench::event::TrialTyped>() || !of_this_visit()) return;
            file_said_.clear();
            typed_->clear();
            on_live();
        });

        main_ = key(QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QString(), true, "trial_main");
        out_ =
            key(QKeySequence(Qt::Key_X), QStringLiteral("X"), QStringLiteral("throw out, say why"), false, "trial_out");
        type_ = key(QKeySequence(Qt::Key_T), QStringLiteral("T"), QString(), false, "type_trial");
        connect(type_, &QAbstractButton::clicked, this, &TrialsPanel::toggle_typing);
        from_file_ = key(QKeySequence(QStringLiteral("Ctrl+O")), QStringLiteral("Ctrl O"),
            QStringLiteral("from a file"), false, "trial_file");
        connect(from_file_, &QAbstractButton::clicked, file_, &SignalFile::choose);
        done_ = key(
            QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QStringLiteral("to the result"), false, "trials_done");
        connect(main_, &QAbstractButton::clicked, this, &TrialsPanel::main_key);
        connect(out_, &QAbstractButton::clicked, this, [this] {
            asking_ = !asking_;
            on_live();
        });
        connect(done_, &QAbstractButton::clicked, this, &Panel::go_on);
        connect(&Units::get(), &Units::changed, this, [this] {
            view_->clear(); // its axis speaks another unit now
            if (!of_this_visit()) return;
            strip_->update();
            on_live();
        });
        with_theme(this, [this] { strip_->setFixedHeight(Theme::get().px(104)); });
    }

    void enter() override
    {
        asking_ = false;
        brought_.reset();
        file_said_.clear();
        on_changed();
        if (!session_.live().speaks(bench::Channel::load_cell) && !typed_->is_open()) toggle_typing();
    }
    void on_changed() override
    {
        const bench::Visit& v = session_.visit();
        const auto advice = trials::advise(v.readings(), *trials::find(bench::tank_of(v).trial_rule));
        advice_->setText(q(advice.sentence));
        const bool result = bool(v.result());
        done_->setVisible(result);
        enough_ = advice.next == trials::Next::enough || advice.next == trials::Next::limit_reached;
        strip_->update();
        on_live();
    }

    void on_live() override
    {
        const bench::Visit& v = session_.visit();
        const bench::Live& l = session_.live();
        const bench::TankShown& tank = bench::tank_shown(l);
        const swing::State& s = tank.swing;
        const int next = static_cast<int>(v.trials.size()) + (l.trial ? 0 : 1);
        reason_row_->setVisible(asking_);
        zeroed_row_->setVisible(brought_ && !asking_);
        from_file_->setVisible(!l.trial);
        from_file_->setEnabled(!l.trial && !asking_ && !brought_ && !file_->is_reading());
        out_->setEnabled(l.trial || !v.reading_numbers().empty());
        out_->set_words(asking_   ? QStringLiteral("keep it after all")
                        : l.trial ? QStringLiteral("throw out, say why")
                                  : QStringLiteral("throw out the last, say why"));
        const bool typing = typed_->is_open();
        // its Enter must not go past what is typed
        done_->setEnabled(!l.trial && (!typing || (low_->is_empty() && high_->is_empty())));
        type_->setEnabled(!l.trial && !asking_);
        type_->set_words(typing ? QStringLiteral("back to the line") : QStringLiteral("type it"));
        type_->setVisible(l.speaks(bench::Channel::load_cell) || !typing);
        main_->setVisible(!typing);
        view_->setVisible(!typing);
        reading_->setVisible(!typing);

        if (asking_) {
            say(QStringLiteral("Why is trial %1 thrown out?").arg(target()),
                QStringLiteral("One key. The trial stays in the log with its reason."));
            main_->setEnabled(false);
        } else if (brought_) {
            say(QStringLiteral("%1 reads %2 ± %3: was the zero taken off in it?")
                    .arg(q(brought_->typed.file), Units::get().text(Measure::mass, brought_->typed.recorded->kg, 3),
                        Units::get().text(Measure::mass, brought_->typed.recorded->u_kg, 3)),
                QStringLiteral("A recording of this program is net. An indicator that was set to nought with chair and "
                               "belt hung is net too."));
            main_->setEnabled(false);
        } else if (file_->is_reading()) {
            say(QStringLiteral("Reading the recording …"), QString());
            main_->setEnabled(false);
        } else if (!file_said_.isEmpty() && !l.trial) {
            say(QStringLiteral("Nothing was taken from that file"), file_said_);
            main_->setEnabled(tank.cell_kg.has_value());
        } else if (typed_->is_open() && !l.trial) {
            say(enough_ ? QStringLiteral("That is enough, or type another")
                        : QStringLiteral("Trial %1: type what the display swings between").arg(next),
                (v.trials.empty() ? QStringLiteral("First duck once, and press the air out of hair and suit. ")
                                  : QString()) +
                    QStringLiteral(
                        "⏎ goes on, and takes it after the second. One value alone: ⏎ twice. Belt, chair and "
                        "breath as always."));
            main_->setEnabled(false);
        } else if (!tank.cell_kg) {
            say(QStringLiteral("The load cell is not heard: its display can be typed (T)"), q(l.trouble));
            main_->setEnabled(false);
        } else if (!l.trial) {
            const bool broken = !v.trials.empty() && v.trials.back().status == bench::Trial::Status::broken;
            say(broken ? QStringLiteral("Trial %1 is broken: %2")
                             .arg(v.trials.back().number)
                             .arg(q(v.trials.back().reason))
                : enough_ ? QStringLiteral("That is enough")
                          : QStringLiteral("Trial %1: under the surface, all air out").arg(next),
                (v.trials.empty() ? QStringLiteral("First duck once, and press the air out of hair and suit. ")
                                  : QString()) +
                    QStringLiteral("Belt snug, far back, feet on the bar, nothing touched. Steady the chair while the "
                                   "client breathes out."));
            main_->setEnabled(true);
            main_->set_words(enough_ ? QStringLiteral("one more trial") : QStringLiteral("start trial %1").arg(next));
        } else if (!tank.let_go) {
            say(QStringLiteral("All air out … then let go slowly"),
                QStringLiteral("Wait until no bubbles come. Press as your hand leaves the chair."));
            main_->setEnabled(true);
            main_->set_words(QStringLiteral("I let go"));
        } else {
            follow_swing(s);
        }
        if (session_.by_eye()) { // of a drill: the eye reads, not the reader
            advice_->clear();
            strip_->hide();
            reading_->hide();
            type_->hide();
            from_file_->hide();
            if (l.trial && tank.let_go) {
                say(QStringLiteral("Hold … read it when it is calm"),
                    QStringLiteral("What the middle of the swing shows is typed below."));
                main_->setEnabled(false);
            }
        }
        main_->set_main(!(enough_ && !l.trial));
        done_->set_main(enough_ && !l.trial && !asking_);

        if (tank.let_go && session_.by_eye()) {
            view_->show_trace(tank.trace, {});
            reading_->clear();
        } else if (tank.let_go) {
            view_->show_trace(tank.trace, s);
            const auto& shown = s.reading ? s.reading : s.estimate;
            const bool good = shown && shown->u_kg < 0.2;
            const double apart = good ? std::abs(shown->midpoint_kg - shown->kg) : 0;
            const auto mass = [](double kg, int decimals) { return Units::get().text(Measure::mass, kg, decimals); };
            if (good)
                reading_->show_reading(mass(shown->kg, 3), QStringLiteral("± %1").arg(mass(shown->u_kg, 3)),
                    QStringLiteral("middle of the last swing %1: %2")
                        .arg(mass(shown->midpoint_kg, 2),
                            apart < 0.05 ? QStringLiteral("agrees")
                                         : QStringLiteral("still %1 g off").arg(1000 * apart, 0, 'f', 0)),
                    s.reading.has_value());
            else
                reading_->clear();
            strip_->update();
        } else if (l.trial) {
            view_->clear();
            reading_->clear();
        }
    }

private:
    void toggle_typing()
    {
        if (session_.live().trial) return;
        if (typed_->is_open()) {
            typed_->close_row();
            setFocus(Qt::OtherFocusReason);
        } else {
            typed_->open();
        }
        on_live();
    }
    /// What is typed; nothing while a field is wrong.
    std::optional<bench::event::WeighingTyped> weighing()
    {
        bench::event::WeighingTyped out;
        out.source = "typed";
        const auto low = low_->metric();
        if (!low) return std::nullopt;
        if (high_->is_empty()) {
            out.kg = low;
            return out;
        }
        const auto high = high_->metric();
        if (!high) return std::nullopt;
        out.low_kg = low;
        out.high_kg = high;
        return out;
    }
    void sum()
    {
        on_live();
        const auto low = low_->peek(), high = high_->is_empty() ? low : high_->peek();
        const auto mass = [](double kg, int decimals) { return Units::get().text(Measure::mass, kg, decimals); };
        const auto zero = bench::tank_of(session_.visit()).zero_kg;
        typed_->say(low && high && zero
                        ? QStringLiteral("middle %1 − zero %2 = %3 under water")
                              .arg(mass((*low + *high) / 2, 3), mass(*zero, 3), mass((*low + *high) / 2 - *zero, 3))
                        : QString());
    }
    void take_typed()
    {
        if (const auto typed = weighing()) session_.act(*typed);
    }
    int target() const
    {
        if (session_.live().trial) return session_.live().trial;
        const auto taken = session_.visit().reading_numbers();
        return taken.empty() ? 0 : taken.back();
    }

    void follow_swing(const swing::State& s)
    {
        switch (s.phase) {
        case swing::Phase::settling:
            say(QStringLiteral("Hold"), QStringLiteral("Hands off the chair. The reading comes by itself."));
            break;
        case swing::Phase::hold:
            say(QStringLiteral("Hold: the swing is dying out"),
                QStringLiteral("Hands off the chair. The reading comes by itself."));
            break;
        case swing::Phase::reading: say(QStringLiteral("Reading …"), QStringLiteral("Nearly there.")); break;
        case swing::Phase::got_it:
            say(QStringLiteral("Got it: knock"), QStringLiteral("Read after %1 s. The client may come up.")
                                                     .arg(s.reading ? s.reading->earliest_s : 0, 0, 'f', 1));
            break;
        case swing::Phase::lost:
            say(QStringLiteral("No reading from this one: knock"),
                s.messages.empty() ? QString() : q(s.messages.front().text));
            break;
        }
        const bool long_wait = !s.reading && s.now_s > 12;
        if (long_wait && s.phase != swing::Phase::lost)
            say(QStringLiteral("No calm yet: knock, let the client breathe"),
                QStringLiteral("Twelve seconds without a reading. Throw it out and take it again."));
        const bool lost = s.phase == swing::Phase::lost || long_wait;
        main_->setEnabled(s.reading.has_value() || lost);
        main_->set_words(lost ? QStringLiteral("throw out, ready for the next") : QStringLiteral("take it"));
    }

    void main_key()
    {
        const bench::Live& l = session_.live();
        if (!l.trial) {
            view_->clear();
            return session_.begin(bench::take::weighing);
        }
        const bench::TankShown& tank = bench::tank_shown(l);
        if (!tank.let_go) return session_.mark();
        if (tank.swing.reading) return session_.take();
        session_.throw_out(l.trial, tank.swing.messages.empty()
                                        ? QStringLiteral("never calm")
                                        : q(tank.swing.messages.front().code).replace('_', ' '));
    }

    void throw_out(const QString& reason)
    {
        asking_ = false;
        session_.throw_out(target(), reason);
        on_live();
    }

    SwingView* view_;
    ReadingRow* reading_;
    QLabel* advice_;
    Figure* strip_;
    ReasonRow* reason_row_;
    NumberField *low_, *high_;
    TypedRow* typed_;
    ReasonRow* zeroed_row_;
    SignalFile* file_;
    std::shared_ptr<work::SwingRecording> brought_; ///< read, and not yet said whether it is net
    QString file_said_;                             ///< why nothing was taken from a file
    KeyButton *main_, *out_, *type_, *from_file_, *done_;
    bool asking_ = false, enough_ = false;
};

} // namespace

Panel* make_trials_panel(work::Session& s) { return new TrialsPanel(s); }

} // namespace fusain::desk

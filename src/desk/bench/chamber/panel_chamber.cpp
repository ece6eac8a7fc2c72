// SPDX-License-Identifier: GPL-3.0-or-later
// The chamber: calibration and volume runs.
#include "bench/chamber/chamber_take.h"
#include "desk/bench/chamber/chamber_panels.h"
#include "desk/shell/typed_row.h"
#include "desk/bench/chamber/chamber_view.h"
#include "report/page/figures.h"

#include <cmath>

namespace fusain::desk {
namespace {

using What = bench::ChamberWhat;

/// A panel that records the chamber: the live view, the reading as it settles, one main key that changes with the
/// moment.
class RecordingPanel : public Panel {
public:
    RecordingPanel(work::Session& s, bench::Step step) : Panel(s, step, QString(), QString()), view_(new ChamberView)
    {
        mishap_ = label("trouble");
        mishap_->setObjectName(QStringLiteral("mishap"));
        body_->addWidget(mishap_);
        body_->addWidget(view_, 5);
        reading_ = new ReadingRow;
        body_->addWidget(reading_);
    }
    void on_live() override
    {
        const bench::ChamberShown& c = bench::chamber_shown(session_.live());
        if (c.door_open) door_was_open_ = true;
        view_->show_pressures(c.pressures);
        const auto line = bench::chamber_of(session_.visit()).calibration(session_.visit());
        if (c.what && c.state.ratio) {
            view_->show_run(c.state, calibrated() && line ? std::optional(*line) : std::nullopt);
            const bool stands = c.complete && c.state.fault == chamber::Fault::none;
            if (calibrated() && line) {
                const auto r = chamber::reading_of(*c.state.ratio, *line);
                if (r.u_run_l < 1)
                    reading_->show_reading(QStringLiteral("%1 L").arg(r.volume_l, 0, 'f', 2),
                        QStringLiteral("± %1 L").arg(r.u_l, 0, 'f', 3),
                        QStringLiteral("breathing ± %1 L, filtered out · drift %2 L a minute")
                            .arg(r.breath_l, 0, 'f', 2)
                            .arg(QString::number(r.drift_l_per_min, 'f', 2).replace('-', QChar(0x2212))),
                        stands);
                else
                    reading_->clear();
            } else {
                const double per = chamber::typical_chamber_l / c.state.ratio->value;
                reading_->show_reading(QStringLiteral("%1 s").arg(std::floor(c.state.now_s), 0, 'f', 0),
                    QStringLiteral("± %1 L").arg(per * c.state.ratio->u, 0, 'f', 3),
                    QStringLiteral("of %1 seconds; the doubt shrinks").arg(bench::chamber_run_s, 0, 'f', 0), stands);
            }
        } else if (!c.what || c.state.now_s == 0) {
            clear_reading();
        }
        direct();
    }

protected:
    virtual bool calibrated() const = 0; ///< the reading is a volume
    virtual void direct() = 0;           ///< says what to do now
    /// The moments that calibration and runs share. True when one of them is on.
    bool recording(KeyButton* main, const QString& what)
    {
        const bench::ChamberShown& c = bench::chamber_shown(session_.live());
        const bench::Visit& v = session_.visit();
        if (!c.connected) {
            say(session_.live().has_lines ? QStringLiteral("The chamber is not heard")
                                          : QStringLiteral("Calibrate the chamber as its maker says"),
                !session_.live().has_lines
                    ? QStringLiteral("It calibrates itself: press T when it has. What it shows is "
                                     "typed then.")
                : session_.live().trouble.empty()
                    ? QStringLiteral("Switch it on, check its cable: it is opened again by itself. A chamber without "
                                     "a line calibrates itself; its volumes are typed (T).")
                    : q(session_.live().trouble));
            main->setEnabled(false);
            return true;
        }
        if (!c.what) {
            if (v.running()) { // begun, not heard yet
                main->setEnabled(false);
                return true;
            }
            return false;
        }
        const bool bad = c.state.fault != chamber::Fault::none && c.state.fault != chamber::Fault::too_short;
        if (bad) {
            say(QStringLiteral("Not good, again: %1").arg(QString::fromUtf8(chamber::row(c.state.fault).words)),
                QStringLiteral("The reading is thrown out with this reason. The client stays where they are."));
            main->set_words(QStringLiteral("throw out, again"));
        } else if (c.complete) {
            say(QStringLiteral("Got it"), QStringLiteral("Take it, then open the door."));
            main->set_words(QStringLiteral("take it"));
        } else {
            say(QStringLiteral("%1: %2 s to go")
                    .arg(what)
                    .arg(std::max(0.0, std::ceil(bench::chamber_run_s - c.state.now_s)), 0, 'f', 0),
                calibrated()
                    ? QStringLiteral("Sit still, breathe quietly, hands on the thighs. Nobody leans on the chamber.")
                    : QStringLiteral("Nobody touches the chamber; doors stay shut."));
            main->set_words(QStringLiteral("measuring …"));
        }
        main->setEnabled(bad || c.complete);
        main->set_main(true);
        return true;
    }
    /// What the main key does while something is recorded. True when it did.
    bool act_on_recording()
    {
        const bench::ChamberShown& c = bench::chamber_shown(session_.live());
        if (!c.what) return false;
        const int number = session_.live().trial;
        if (c.state.fault != chamber::Fault::none && c.state.fault != chamber::Fault::too_short)
            session_.throw_out(number, QString::fromUtf8(chamber::row(c.state.fault).code).replace('_', ' '));
        else if (c.complete)
            session_.take();
        return true;
    }
    void begin(What what)
    {
        view_->clear_run();
        session_.begin(word(what));
    }
    void clear_reading()
    {
        const auto taken = calibrated() ? session_.visit().readings() : std::vector<double>{};
        if (taken.empty())
            reading_->clear();
        else
            reading_->show_reading(QStringLiteral("%1 L").arg(taken.back(), 0, 'f', 2),
                QStringLiteral("run %1, taken").arg(taken.size()), {}, true);
    }
    /// What became of the last reading, when it did not end well.
    void show_mishap()
    {
        const auto& trials = session_.visit().trials;
        const bool ill = !trials.empty() && (trials.back().status == bench::Trial::Status::broken ||
                                                trials.back().status == bench::Trial::Status::thrown_out);
        mishap_->setText(ill ? QStringLiteral("◆ Reading %1 is %2: %3")
                                   .arg(trials.back().number)
                                   .arg(QString::fromLatin1(word(trials.back().status)), q(trials.back().reason))
                             : QString());
        mishap_->setVisible(ill);
    }
    QLabel* mishap_;
    ChamberView* view_;
    ReadingRow* reading_;
    bool door_was_open_ = false; ///< since the last reading that was taken
};

class CalibratePanel : public RecordingPanel {
public:
    explicit CalibratePanel(work::Session& s)
        : RecordingPanel(s, bench::step::calibrate),
          cylinder_(new NumberField("air_displacement.cylinder_l", Measure::none))
    {
        engraved_ = new QWidget;
        auto* row = new QHBoxLayout(engraved_);
        row->setContentsMargins(0, 0, 0, 0);
        auto* engraved = label("small", QStringLiteral("Volume engraved on the cylinder"));
        engraved->setWordWrap(false);
        row->addWidget(engraved);
        row->addWidget(cylinder_);
        row->addStretch();
        body_->addWidget(engraved_);
        done_so_far_ = label("text");
        done_so_far_->setObjectName(QStringLiteral("calibration_so_far"));
        body_->addWidget(done_so_far_);
        body_->addSpacing(8);
        main_ = key(QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QString(), true, "chamber_main");
        next_ = key(
            QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QStringLiteral("to the client"), false, "calibrated");
        itself_ = key(QKeySequence(Qt::Key_T), QStringLiteral("T"),
            QStringLiteral("it calibrates itself: type its volumes"), false, "self_calibrated");
        connect(itself_, &QAbstractButton::clicked, this, [this] {
            session_.act("self_calibrated", {{"source", "typed"}});
        });
        connect(main_, &QAbstractButton::clicked, this, &CalibratePanel::main_key);
        connect(next_, &QAbstractButton::clicked, this, [this] { emit to_step(bench::step::runs); });
        connect(cylinder_->edit(), &QLineEdit::returnPressed, this, [this] {
            setFocus();
            main_key();
        });
    }
    void enter() override
    {
        const bench::Visit& v = session_.visit();
        if (bench::chamber_of(v).cylinder_l)
            cylinder_->set_metric(bench::chamber_of(v).cylinder_l);
        else if (v.instrument_reference > 0)
            cylinder_->set_metric(v.instrument_reference);
        asked_ = What::run;
        over_again_ = false;
        on_changed();
    }
    void on_changed() override
    {
        const bench::Visit& v = session_.visit();
        const bench::Trial *empty = v.last_taken(bench::take::empty), *cylinder = v.last_taken(bench::take::cylinder);
        const What before = stage_;
        stage_ = empty && (!cylinder || empty->number > cylinder->number) ? What::cylinder : What::empty;
        if (stage_ != before) door_was_open_ = over_again_ = false;
        // the demo's helper puts in what belongs in it
        if (!v.running() && asked_ != stage_ && !(cylinder && stage_ == What::empty)) {
            asked_ = stage_;
            session_.say(stage_ == What::empty ? QStringLiteral("chamber_empty") : QStringLiteral("chamber_cylinder"));
        }
        const auto line = bench::chamber_of(v).calibration(v);
        done_so_far_->setText(
            bench::chamber_of(v).self_calibrated()
                ? QStringLiteral("The chamber calibrates itself: the volumes that it shows are typed.")
            : !session_.live().has_lines ? QString()
            : line ? QStringLiteral("Calibrated: this chamber holds %1 L, ± %2 L at a client of 70 L.")
                         .arg(line->a_l, 0, 'f', 1)
                         .arg(line->u_l((70 - line->a_l) / line->b_l), 0, 'f', 3)
            : stage_ == What::cylinder
                ? QStringLiteral("The empty chamber is taken. Now the cylinder.")
                : QStringLiteral("Empty first, then the cylinder: two points make the line from pressure to volume."));
        show_mishap();
        direct();
    }

private:
    bool calibrated() const override { return false; }
    void direct() override
    {
        const bool lines = session_.live().has_lines;
        for (QWidget* w : {static_cast<QWidget*>(main_), engraved_, static_cast<QWidget*>(view_)}) w->setVisible(lines);
        itself_->setEnabled(!bench::chamber_shown(session_.live()).what);
        reading_->setVisible(lines);
        itself_->set_main(!lines);
        itself_->set_words(lines ? QStringLiteral("it calibrates itself: type its volumes")
                                 : QStringLiteral("it is calibrated: on to the client"));
        if (!lines) next_->hide();
        if (recording(main_, stage_ == What::empty ? QStringLiteral("Empty chamber") : QStringLiteral("Cylinder")))
            return;
        const bench::ChamberShown& c = bench::chamber_shown(session_.live());
        const bool again = bench::chamber_of(session_.visit()).calibration(session_.visit()) && !over_again_;
        if (again)
            say(QStringLiteral("Calibrated"),
                QStringLiteral("The client goes in right away: after %1 minutes it has to be done again.")
                    .arg(bench::calibration_holds_min, 0, 'f', 0));
        else if (stage_ == What::empty)
            say((c.door_open                         ? QStringLiteral("Nothing inside: close the door")
                    : over_again_ && !door_was_open_ ? QStringLiteral("Open the door: everything out")
                                                     : QStringLiteral("Empty, door closed: measure")),
                QStringLiteral("Right before every test. A quiet room: no fan, no sun, nobody at the door."));
        else
            say((c.door_open         ? QStringLiteral("Cylinder in, then close the door")
                    : door_was_open_ ? QStringLiteral("Cylinder in, door closed: measure")
                                     : QStringLiteral("Open the door, put the cylinder in")),
                QStringLiteral("The one that belongs to this chamber. Carry it with two hands."));
        main_->set_words(again                   ? QStringLiteral("calibrate again")
                         : stage_ == What::empty ? QStringLiteral("measure it empty")
                                                 : QStringLiteral("measure the cylinder"));
        main_->setEnabled(again || (!c.door_open && ((stage_ == What::empty && !over_again_) || door_was_open_)));
        main_->set_main(!again);
        next_->setVisible(again);
        next_->set_main(again);
    }
    void main_key()
    {
        if (act_on_recording()) return;
        if (!main_->isEnabled()) return;
        const auto litres = cylinder_->metric();
        if (!litres) return;
        if (bench::chamber_of(session_.visit()).calibration(session_.visit()) &&
            !over_again_) { // first the chamber has to be empty
            over_again_ = true;
            door_was_open_ = false;
            session_.say(QStringLiteral("chamber_empty"));
            return direct();
        }
        if (bench::chamber_of(session_.visit()).cylinder_l != litres) {
            want_ = true; // begins when the volume is on the disk
            session_.act("cylinder", {{"l", *litres}});
            connect(&session_, &work::Session::stored, this, &CalibratePanel::go, Qt::UniqueConnection);
            return;
        }
        begin(stage_);
    }
    void go(const bench::Event& e)
    {
        if (e.kind != "cylinder" || !want_) return;
        want_ = false;
        QMetaObject::invokeMethod(
            this, [this] { begin(stage_); }, Qt::QueuedConnection);
    }
    NumberField* cylinder_;
    QWidget* engraved_;
    QLabel* done_so_far_;
    KeyButton *main_, *next_, *itself_;
    What stage_ = What::empty, asked_ = What::run;
    bool want_ = false, over_again_ = false;
};

class RunsPanel : public RecordingPanel {
public:
    explicit RunsPanel(work::Session& s) : RecordingPanel(s, bench::step::runs)
    {
        strip_ = new Figure([this](QPainter& p, const QRectF& area) {
            const bench::ChamberShown& c = bench::chamber_shown(session_.live());
            const auto line = bench::chamber_of(session_.visit()).calibration(session_.visit());
            const bool shows = c.what == What::run && c.state.ratio && line && c.state.now_s > 6;
            report::draw_readings(p, area, session_.visit(), shows ? line->volume_l(c.state.ratio->value) : NAN,
                Theme::get().palette(), Theme::get().px(14), mass_unit());
        });
        body_->addWidget(strip_);
        advice_ = label("text");
        advice_->setObjectName(QStringLiteral("advice"));
        body_->addWidget(advice_);
        body_->addSpacing(8);
        reason_row_ = new ReasonRow({"moved", "talked or coughed", "cap or clothes", "leaned on the chamber", "other"});
        connect(reason_row_, &ReasonRow::chosen, this, [this](const QString& reason) {
            asking_ = false;
            session_.throw_out(target(), reason);
            on_live();
        });
        body_->addWidget(reason_row_);
        volume_ = new NumberField("air_displacement.raw_volumes_l", Measure::none);
        density_ = new NumberField("body_density_kg_per_l", Measure::none);
        as_volume_ = new TypedRow({{QStringLiteral("volume the chamber shows"), "typed_volume", volume_}});
        as_density_ = new TypedRow({{QStringLiteral("density the chamber shows"), "typed_density", density_}});
        shows_ = new ChoiceBox;
        shows_->setObjectName(QStringLiteral("chamber_shows"));
        for (const Shown& row : shown) shows_->addItem(QString::fromUtf8(row.words));
        typed_ = new QWidget;
        auto* t = new QVBoxLayout(typed_);
        t->setContentsMargins(0, 0, 0, 0);
        auto* asked = label("small", QStringLiteral("What the chamber says it shows"));
        t->addWidget(asked);
        t->addWidget(shows_, 0, Qt::AlignLeft);
        t->addWidget(as_volume_);
        t->addWidget(as_density_);
        t->addStretch();
        body_->addWidget(typed_, 1);
        connect(shows_, &QComboBox::activated, this, [this] { open_row(); });
        for (TypedRow* row : {as_volume_, as_density_}) {
            connect(row, &TypedRow::typed, this, &RunsPanel::take_typed);
            connect(row, &TypedRow::edited, this, [this] { direct(); });
            connect(row, &TypedRow::left, this, [this] { setFocus(Qt::OtherFocusReason); });
        }
        connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
            if (e.kind != "trial_typed") return;
            as_volume_->clear();
            as_density_->clear();
            direct();
        });
        main_ = key(QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QString(), true, "chamber_main");
        out_ = key(QKeySequence(Qt::Key_X), QStringLiteral("X"), QString(), false, "run_out");
        again_ = key(
            QKeySequence(Qt::Key_K), QStringLiteral("K"), QStringLiteral("calibrate again"), false, "calibrate_again");
        done_ = key(
            QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QStringLiteral("to the lung gas"), false, "runs_done");
        connect(main_, &QAbstractButton::clicked, this, [this] {
            if (act_on_recording()) return;
            begin(What::run);
        });
        connect(out_, &QAbstractButton::clicked, this, [this] {
            asking_ = !asking_;
            on_live();
        });
        connect(again_, &QAbstractButton::clicked, this, [this] { emit to_step(bench::step::calibrate); });
        connect(done_, &QAbstractButton::clicked, this, [this] {
            if (bench::chamber_of(session_.visit()).lungs_corrected)
                emit go_on();
            else
                emit to_step(bench::step::lung_gas);
        });
        with_theme(this, [this] { strip_->setFixedHeight(Theme::get().px(104)); });
    }
    void enter() override
    {
        asking_ = false;
        typed_->setVisible(by_hand());
        for (QWidget* w : {static_cast<QWidget*>(view_), static_cast<QWidget*>(reading_)}) w->setVisible(!by_hand());
        if (by_hand()) open_row();
        if (session_.visit().readings().empty() && !session_.visit().running()) {
            door_was_open_ = false; // the cylinder has to come out
            session_.say(QStringLiteral("chamber_client"));
        }
        on_changed();
    }
    void on_changed() override
    {
        const bench::Visit& v = session_.visit();
        const auto advice = displacement::advise(v.readings());
        advice_->setText(q(advice.sentence));
        next_ = bench::chamber_of(v).enough(v) ? Next::enough : advice.next;
        if (bench::chamber_of(v).mean_of_runs && !v.readings().empty())
            advice_->setText(QStringLiteral("The chamber's own mean stands by itself."));
        if (const std::size_t taken = v.readings().size(); taken != seen_) {
            seen_ = taken;
            door_was_open_ = false; // fresh air between two runs
            if (taken > 0 && next_ == displacement::Next::another_run) session_.say(QStringLiteral("chamber_door"));
        } else if (!v.trials.empty() && static_cast<int>(v.trials.size()) != last_trial_ &&
                   v.trials.back().status == bench::Trial::Status::broken) {
            last_trial_ = static_cast<int>(v.trials.size());
            session_.say(QStringLiteral("chamber_client"));
        }
        strip_->update();
        show_mishap();
        direct();
    }
    void on_live() override
    {
        RecordingPanel::on_live();
        if (bench::chamber_shown(session_.live()).what) strip_->update();
    }

private:
    using Next = displacement::Next;
    /// What a chamber may show, and what it has corrected for then.
    struct Shown {
        const char* words;
        bool density, mean;
        std::vector<std::string> corrected;
    };
    static inline const Shown shown[] = {
        {"the raw volume of a run", false, false, {}},
        {"the volume of a run, corrected for the skin's air", false, false, {"surface"}},
        {"the volume of a run, corrected for skin and lungs", false, false, {"surface", "lung_gas"}},
        {"its body volume: the mean of its runs, corrected", false, true, {"surface", "lung_gas"}},
        {"its body density: from the mean, corrected", true, true, {"surface", "lung_gas"}},
    };
    bool by_hand() const { return bench::chamber_of(session_.visit()).self_calibrated(); }
    const Shown& what_is_shown() const { return shown[std::max(0, shows_->currentIndex())]; }
    void open_row()
    {
        const bool density = what_is_shown().density;
        (density ? as_volume_ : as_density_)->close_row();
        (density ? as_density_ : as_volume_)->open();
    }
    void take_typed()
    {
        const Shown& s = what_is_shown();
        const auto value = (s.density ? density_ : volume_)->metric();
        if (!value) return;
        bench::Json body = {{"what", bench::take::run}, {"source", "typed"}, {s.density ? "kg_per_l" : "l", *value}};
        if (!s.corrected.empty()) body["corrected"] = s.corrected;
        if (s.mean) body["mean"] = true;
        session_.act("trial_typed", body);
    }
    bool calibrated() const override { return true; }
    int target() const
    {
        if (session_.live().trial) return session_.live().trial;
        const auto taken = session_.visit().reading_numbers();
        return taken.empty() ? 0 : taken.back();
    }
    void direct() override
    {
        const bench::Visit& v = session_.visit();
        const bench::ChamberShown& c = bench::chamber_shown(session_.live());
        const std::size_t taken = v.readings().size();
        const bool enough = next_ == Next::enough, over = next_ == Next::start_over, busy = c.what || v.running();
        reason_row_->setVisible(asking_);
        out_->setVisible(busy || taken > 0);
        out_->set_words(asking_ ? QStringLiteral("keep it after all")
                        : busy  ? QStringLiteral("throw out, say why")
                                : QStringLiteral("throw out the last, say why"));
        main_->setVisible(!(enough || over) || busy);
        again_->setVisible(!busy);
        again_->set_main(over && !asking_);
        done_->setVisible(enough && !busy);
        done_->setEnabled(!by_hand() || (volume_->is_empty() && density_->is_empty())); // Enter: not past what is typed
        done_->set_words(
            bench::chamber_of(v).lungs_corrected ? QStringLiteral("to the result") : QStringLiteral("to the lung gas"));
        done_->set_main(enough && !asking_);
        if (asking_) {
            say(QStringLiteral("Why is this run thrown out?"),
                QStringLiteral("One key. The run stays in the log with its reason."));
            main_->setEnabled(false);
            return;
        }
        if (by_hand()) {
            main_->hide();
            return say(enough ? QStringLiteral("That is enough")
                       : over ? QStringLiteral("No two of three agree: start over")
                              : QStringLiteral("Run %1: type what the chamber shows").arg(taken + 1),
                over ? QStringLiteral("Help the client out, let the chamber calibrate itself (K), then run again.")
                     : QStringLiteral("⏎ takes it. Between two runs the door is opened; the client sits still, "
                                      "breathes quietly."));
        }
        if (recording(main_, QStringLiteral("Run %1").arg(taken + 1))) return;
        if (enough)
            say(QStringLiteral("The runs agree"),
                QStringLiteral("The client stays seated if the lung gas is measured; else help them out."));
        else if (over)
            say(QStringLiteral("No two of three agree: start over"),
                QStringLiteral("Help the client out, calibrate empty and with the cylinder, then run again."));
        else if (c.door_open)
            say((taken == 0 ? QStringLiteral("Client in, then close the door")
                            : QStringLiteral("Close the door again")),
                QStringLiteral("Seated, feet flat, hands on the thighs, cap on. Release button shown."));
        else if (!door_was_open_)
            say((taken == 0 ? QStringLiteral("Open the door: the client goes in")
                            : QStringLiteral("Open the door, then close it")),
                QStringLiteral("Fresh air between two runs; the client stays seated."));
        else
            say(QStringLiteral("Door closed: run %1").arg(taken + 1),
                QStringLiteral("Sit still, breathe quietly. Twenty-five seconds."));
        main_->set_words(QStringLiteral("start run %1").arg(taken + 1));
        main_->setEnabled(!c.door_open && door_was_open_);
        main_->set_main(true);
    }
    Figure* strip_;
    QLabel* advice_;
    ReasonRow* reason_row_;
    QWidget* typed_;
    ChoiceBox* shows_;
    NumberField *volume_, *density_;
    TypedRow *as_volume_, *as_density_;
    KeyButton *main_, *out_, *again_, *done_;
    Next next_ = Next::another_run;
    std::size_t seen_ = 0;
    int last_trial_ = 0;
    bool asking_ = false;
};

} // namespace

Panel* make_calibrate_panel(work::Session& s) { return new CalibratePanel(s); }
Panel* make_runs_panel(work::Session& s) { return new RunsPanel(s); }

} // namespace fusain::desk

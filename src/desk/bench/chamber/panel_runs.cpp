// SPDX-License-Identifier: GPL-3.0-or-later
// The chamber: volume runs, on the line or typed.
#include "desk/bench/chamber/chamber_panels.h"
#include "desk/bench/chamber/recording_panel.h"
#include "desk/parts/typed_row.h"
#include "report/words/readings_figure.h"

namespace fusain::desk {
namespace {

using What = bench::ChamberWhat;

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
            if (!e.is<bench::event::TrialTyped>() || !of_this_visit()) return;
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
        take_files(
            "run_file", "run_from_file", QStringLiteral("from a file"), [] { return std::string(bench::take::run); });
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
        typed_->setVisible(by_hand() && !session_.by_eye());
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
        file_said_.clear();
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
        if (session_.by_eye()) advice_->clear(); // of a drill: which of them count is what is asked
        strip_->setVisible(!session_.by_eye());
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
        bench::event::VolumeTyped typed;
        typed.what = bench::take::run;
        typed.source = "typed";
        (s.density ? typed.kg_per_l : typed.l) = value;
        typed.corrected = s.corrected;
        typed.mean = s.mean;
        session_.act(typed);
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
        if (session_.by_eye()) {
            for (QWidget* w : {static_cast<QWidget*>(main_), static_cast<QWidget*>(out_), static_cast<QWidget*>(again_),
                     static_cast<QWidget*>(done_), typed_})
                w->hide();
            from_file_->hide();
            QStringList runs;
            for (std::size_t i = 0; i < taken; ++i)
                runs << QStringLiteral("%1:  %2 L").arg(i + 1).arg(v.readings()[i], 0, 'f', 3);
            return say(runs.join(QStringLiteral("      ")),
                QStringLiteral("The runs as the chamber gave them. Which are averaged is asked below."));
        }
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
        from_file_->setVisible(!by_hand() && !busy && !enough && !over);
        from_file_->setEnabled(!busy && !enough && !over && !file_->is_reading());
        if (!session_.live().speaks(v.method) && !file_->is_reading() && file_said_.isEmpty()) {
            main_->hide();
            return say(enough ? QStringLiteral("The runs agree")
                       : over ? QStringLiteral("No two of three agree: start over")
                              : QStringLiteral("Run %1: bring its recording (Ctrl O)").arg(taken + 1),
                enough ? QStringLiteral("⏎ goes on to the lung gas.")
                       : QStringLiteral("Two runs that agree are needed, a third where they do not."));
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

Panel* make_runs_panel(work::Session& s) { return new RunsPanel(s); }

} // namespace fusain::desk

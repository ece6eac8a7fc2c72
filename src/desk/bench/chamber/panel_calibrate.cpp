// SPDX-License-Identifier: GPL-3.0-or-later
// The chamber: empty, then with the cylinder.
#include "desk/bench/chamber/chamber_panels.h"
#include "desk/bench/chamber/recording_panel.h"

namespace fusain::desk {
namespace {

using What = bench::ChamberWhat;

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
        take_files("calibration_file", "calibration_from_file", QStringLiteral("from a file"),
            [this] { return std::string(word(stage_)); });
        connect(itself_, &QAbstractButton::clicked, this, [this] { session_.act(bench::event::SelfCalibrated{}); });
        connect(main_, &QAbstractButton::clicked, this, &CalibratePanel::main_key);
        connect(next_, &QAbstractButton::clicked, this, [this] { emit to_step(bench::step::runs); });
        connect(cylinder_->edit(), &QLineEdit::returnPressed, this, [this] {
            setFocus();
            if (session_.live().speaks(session_.visit().method)) return main_key();
            may_bring(); // no line: it is noted for the recording that comes as a file
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
        file_said_.clear();
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
            : !session_.live().speaks(session_.visit().method) ? QString()
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
    /// The volume belongs to the recording of the cylinder: it is noted first.
    bool may_bring() override
    {
        if (stage_ != What::cylinder) return true;
        const auto litres = cylinder_->metric();
        if (!litres) {
            brought_.reset();
            return false;
        }
        if (bench::chamber_of(session_.visit()).cylinder_l == litres) return true;
        session_.act(bench::event::Cylinder{*litres});
        connect(&session_, &work::Session::stored, this, &CalibratePanel::go, Qt::UniqueConnection);
        return false;
    }
    bool calibrated() const override { return false; }
    void direct() override
    {
        const bool lines = session_.live().speaks(session_.visit().method);
        for (QWidget* w : {static_cast<QWidget*>(main_), static_cast<QWidget*>(view_)}) w->setVisible(lines);
        const bool over = bool(bench::chamber_of(session_.visit()).calibration(session_.visit()));
        from_file_->setEnabled(!bench::chamber_shown(session_.live()).what && !file_->is_reading());
        itself_->setEnabled(!bench::chamber_shown(session_.live()).what);
        reading_->setVisible(lines);
        itself_->set_main(!lines);
        from_file_->setVisible(!bench::chamber_shown(session_.live()).what);
        itself_->set_words(lines ? QStringLiteral("it calibrates itself: type its volumes")
                                 : QStringLiteral("it is calibrated: on to the client"));
        next_->setVisible(over);
        if (!lines && over) {
            itself_->set_main(false);
            next_->set_main(true);
            return say(QStringLiteral("Calibrated, from files"), QStringLiteral("⏎ goes on to the client's runs."));
        }
        if (!lines && stage_ == What::cylinder && file_said_.isEmpty() && !file_->is_reading())
            return say(QStringLiteral("Now the recording of the cylinder"),
                QStringLiteral("Write the volume engraved on it, then bring the file (Ctrl O)."));
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
            session_.act(bench::event::Cylinder{*litres});
            connect(&session_, &work::Session::stored, this, &CalibratePanel::go, Qt::UniqueConnection);
            return;
        }
        begin(stage_);
    }
    void go(const bench::Event& e)
    {
        if (e.is<bench::event::Cylinder>() && brought_)
            QMetaObject::invokeMethod(
                this, [this] { bring(); }, Qt::QueuedConnection);
        if (!e.is<bench::event::Cylinder>() || !want_) return;
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

} // namespace

Panel* make_calibrate_panel(work::Session& s) { return new CalibratePanel(s); }

} // namespace fusain::desk

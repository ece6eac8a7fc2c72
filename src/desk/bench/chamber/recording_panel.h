// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/chamber/chamber_take.h"
#include "desk/bench/signal_file.h"
#include "desk/bench/chamber/chamber_view.h"
#include "desk/bench/panels.h"
#include "work/files/recording_file.h"

#include <cmath>

namespace fusain::desk {

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
    /// Recordings as files: the key that brings one, and what it is of.
    void take_files(const char* name, const char* key_name, const QString& words, std::function<std::string()> what)
    {
        file_ = new SignalFile(this, name, [this, what] {
            const auto line = bench::chamber_of(session_.visit()).calibration(session_.visit());
            const auto calibration = line ? std::optional(*line) : std::nullopt;
            return SignalFile::reader([word = what(), calibration](
                                          const QString& path) { return work::chamber_file(path, word, calibration); },
                [this](Outcome<work::ChamberRecording> read) {
                    file_said_ = read ? QString() : q(read.messages().front().text);
                    if (read) {
                        brought_ = std::make_shared<work::ChamberRecording>(std::move(read).take());
                        if (may_bring()) bring();
                    }
                    direct();
                });
        });
        from_file_ = key(QKeySequence(QStringLiteral("Ctrl+O")), QStringLiteral("Ctrl O"), words, false, key_name);
        connect(from_file_, &QAbstractButton::clicked, file_, &SignalFile::choose);
        connect(file_, &SignalFile::begun, this, [this] { direct(); });
    }
    /// What must be on the disk before a recording counts; false: `bring` comes when it is.
    virtual bool may_bring() { return true; }
    void bring()
    {
        if (!brought_) return;
        work::ChamberRecording r = *std::exchange(brought_, nullptr);
        session_.bring(r.typed, std::move(r.signal));
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
        if (file_->is_reading()) {
            say(QStringLiteral("Reading the recording …"), QString());
            main->setEnabled(false);
            return true;
        }
        if (!file_said_.isEmpty() && !c.what) {
            say(QStringLiteral("Nothing was taken from that file"), file_said_);
            main->setEnabled(false);
            return true;
        }
        if (!c.connected) {
            say(session_.live().speaks(session_.visit().method)
                    ? QStringLiteral("The chamber is not heard")
                    : QStringLiteral("Calibrate the chamber as its maker says"),
                !session_.live().speaks(session_.visit().method)
                    ? QStringLiteral("It calibrates itself: press T when it has, and type what it shows. Or bring its "
                                     "recordings: empty, cylinder, runs (Ctrl O).")
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
    void begin(bench::ChamberWhat what)
    {
        file_said_.clear();
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
    SignalFile* file_ = nullptr;
    KeyButton* from_file_ = nullptr;
    QString file_said_; ///< why nothing was taken from a file
    std::shared_ptr<work::ChamberRecording> brought_;
    ChamberView* view_;
    ReadingRow* reading_;
    bool door_was_open_ = false; ///< since the last reading that was taken
};

} // namespace fusain::desk

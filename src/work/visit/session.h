// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/link/link.h"
#include "bench/visit/visit.h"
#include "core/time/alike.h"
#include "records/file/inspection.h"
#include "records/store/recorder.h"
#include "work/lab/lab.h"

#include <QObject>
#include <QThread>

#include <deque>

namespace fusain::work {

/// What a session is joined from. In life: devices and the computer's clock, link and recorder in threads of their own.
struct Seams {
    bench::Ground ground;
    bool link_in_a_thread = true; ///< else in the window's own: a test that moves the clock decides when it is heard
    std::function<std::unique_ptr<records::Recorder>(const QString& lab_file, const QString& window)> recorder =
        [](const QString& lab_file, const QString& window) {
            return std::make_unique<records::Recorder>(lab_file, window);
        };
};

/// One visit at the bench: joins the instruments (their own thread), the log (its own thread) and the state the screen
/// shows. No widgets. What it shows as accepted is on the disk.
class Session : public QObject {
    Q_OBJECT
public:
    /// `ports`: bench lines that are there whatever the lab keeps (the command line, the demo).
    Session(std::shared_ptr<records::Store> store, const QStringList& ports, Seams seams = {});
    ~Session() override;

    /// Begins a visit. `with`: what it is begun with besides the client (booking, instrument, house rules); `stops`:
    /// the screening's outcome, when it was done before.
    [[nodiscard]] std::optional<Message> start(const records::Client& client, const QString& technician, Method method,
        const Beginning& with = {}, const std::optional<bench::event::Stops>& stops = {});
    /// Opens a visit from its log, to go on or to look at.
    /// While another window has it, it is only looked at here: `held` says who, what is done there is shown, and
    /// nothing is taken. Once it is left there it is this window's.
    [[nodiscard]] std::optional<Message> resume(long visit_id, const QString& technician);
    const std::optional<Message>& held() const { return held_; }
    /// Closes the visit on the screen. Refuses while something of it is not stored yet.
    [[nodiscard]] std::optional<Message> leave();
    /// True while something that was accepted here is not on the disk yet.
    bool has_unwritten() const { return !waiting_.empty() || recorder_->unwritten() > 0; }
    /// How this visit compares with the client's last one by the method, from what was really done in both; nothing
    /// without one.
    std::optional<alike::Comparability> comparability() const;
    /// The step on the screen: what its instruments say by themselves belongs to this visit.
    void attend(bench::Step step) { attended_ = step; }

    /// A drill in which the reading is found by eye: what the reader makes of the signal is not shown.
    void set_by_eye(bool on) { by_eye_ = on; }
    bool by_eye() const { return by_eye_; }

    /// The lines that are listened to from now on, besides those of the command line. Lines that stay go on unbroken.
    void set_lines(const std::vector<bench::LineSetup>& kept);

    /// What its lines stand on: for whoever listens to one that is no line of the lab yet, or waits for a moment.
    const bench::Ground& ground() const { return ground_; }
    bench::Clock& clock() const { return *ground_.clock; }

    bool is_open() const { return visit_id_ != 0; }
    long visit_id() const { return visit_id_; }
    const bench::Visit& visit() const { return visit_; }
    const bench::Live& live() const { return live_; }
    records::Store& store() const { return *store_; }
    const QString& technician() const { return technician_; }
    /// What the instrument of the visit's method shows.
    std::shared_ptr<const bench::Shown> shown() const;

    /// Adds an event to the log. It counts, and `changed` comes, once it is stored.
    void act(bench::Act what);

    /// What rests on a result that was given out is done once `finished` is on the disk: at once where it is; not at
    /// all where it is refused. A visit without a result stays as it is, and it is done at once.
    void finish(std::function<void()> then = {});

    /// Begins a recording (one of the method's, by its word). Nothing begins when the log refuses it; `refused` says
    /// why.
    void begin(const std::string& what);
    /// The technician's sign in the middle of it.
    void mark();
    /// Takes the reading that stands in the running recording.
    void take();
    /// A reading from a file (a `trial_typed`), with the recording it was read from.
    void bring(const bench::Act& typed, bench::Signal recording);
    /// Throws out the running trial or a taken one, with the reason.
    void throw_out(int number, const QString& reason);
    /// What the technician says aloud: the stand-in's client listens (demo only).
    void say(const QString& words) { emit cue(words); }

signals:
    void lines_are_set(); ///< a line that is not among them any more is free
    void changed();
    void live_changed();
    void refused(const fusain::Message& why);
    /// The disk is more than half a second behind; or, with empty words, it has caught up.
    void disk_lags(const QString& words);
    void stored(const fusain::bench::Event& event);
    /// The visit on the screen has ended, and all that goes with it is on the disk (visit_end.h says what is said).
    void ended(const fusain::Messages& said);
    void cue(const QString& words);
    /// The other window has left the visit: it goes on here.
    void taken_over();
    /// An instrument that is being checked has read its reference.
    void instrument_reading(const fusain::bench::Reading& reading);

private:
    Message not_stored_yet() const;
    void send_next();
    void end();
    void is_over();
    void call(const char* words); ///< to the client; null: nothing
    void on_live(const bench::Live& live);
    void look_at_the_disk();
    void on_reading(const bench::Reading& reading);
    void on_broken(long visit, int number, const QString& reason);
    void on_stored(long visit, const bench::Event& event, const Messages& said);
    void on_failed(long visit, const bench::Event& event, const Message& why);
    void on_stalled(const Message& why);
    void on_damage(const Message& why);
    bench::Event event(bench::Act what) const;
    /// Why the log would not take the event now.
    [[nodiscard]] std::optional<Message> refusal(const bench::Act& what) const;
    /// True when everything is on the disk and the log would take the event.
    bool may(const bench::Act& what);
    void look_again();

    std::shared_ptr<records::Store> store_;
    records::Window window_;
    std::optional<Message> held_; ///< another window has the visit
    bench::Ground ground_;
    bench::Beat watch_;
    bench::Errands heard_;  ///< what the threads below have to tell
    bench::Errands* asked_; ///< what the link is asked for, in its thread
    std::unique_ptr<records::Recorder> recorder_;
    std::unique_ptr<records::Inspection> inspection_;
    std::optional<Message> damage_; ///< of the lab file: no new test begins
    QThread link_thread_;
    std::vector<bench::LineSetup> given_; ///< by the command line
    bench::Link* link_ = nullptr;
    QString technician_;
    long visit_id_ = 0;
    bench::Visit visit_;
    std::optional<screening::Conditions> before_; ///< of the client's last measured visit by the method
    bench::Live live_;
    int ended_trial_ = 0;              ///< given up here; the link may still speak of it for a moment
    std::deque<bench::Event> waiting_; ///< the first is at the recorder
    std::vector<std::function<void()>> after_finish_;
    bool in_flight_ = false, stalled_ = false;
    bool lags_ = false; ///< said of the disk, until it has caught up
    bench::Step attended_ = nullptr;
    bool by_eye_ = false;
};

QString now_utc();

} // namespace fusain::work

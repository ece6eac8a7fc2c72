// SPDX-License-Identifier: GPL-3.0-or-later
// The current: all five segments, or one again; over the line, typed, or from a file.
#include "bench/analyser/analyser_take.h"
#include "desk/bench/analyser/analyser_panels.h"
#include "desk/bench/analyser/typed_spectrum.h"
#include "report/analyser/segment_figure.h"

#include <algorithm>
#include <cmath>

namespace fusain::desk {
namespace {

using bench::AnalyserShown;
using impedance::Segment;

QString names(const std::vector<Segment>& segments)
{
    QStringList out;
    for (Segment s : segments) out << QString::fromLatin1(impedance::row(s).title);
    return out.join(QStringLiteral(", "));
}

class SpectrumPanel : public Panel {
public:
    explicit SpectrumPanel(work::Session& s) : Panel(s, bench::step::spectrum, QString(), QString())
    {
        found_ = label("trouble");
        found_->setObjectName(QStringLiteral("found"));
        body_->addWidget(found_);
        arcs_ = new Figure([this](QPainter& p, const QRectF& area) {
            const Theme& t = Theme::get();
            const double split = 0.72 * area.width();
            report::draw_arcs(p, QRectF(area.left(), area.top(), split, area.height()), limbs_, t.palette(), t.px(14));
            report::draw_arcs(p, area.adjusted(split, 0, 0, 0), trunk_, t.palette(), t.px(14));
        });
        arcs_->setObjectName(QStringLiteral("arcs"));
        arcs_->setMinimumHeight(150);
        body_->addWidget(arcs_, 5);
        typed_ = new TypedSpectrum(session_);
        body_->addWidget(typed_);
        typed_->hide();
        connect(typed_, &TypedSpectrum::left, this, [this] {
            typed_->hide();
            setFocus(Qt::OtherFocusReason);
            direct();
        });
        main_ = key(QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QString(), true, "spectrum_main");
        out_ =
            key(QKeySequence(Qt::Key_X), QStringLiteral("X"), QStringLiteral("stop, throw out"), false, "spectrum_out");
        whole_ =
            key(QKeySequence(Qt::Key_A), QStringLiteral("A"), QStringLiteral("all five again"), false, "spectrum_all");
        type_ = key(
            QKeySequence(Qt::Key_T), QStringLiteral("T"), QStringLiteral("type it, or a file"), false, "spectrum_type");
        done_ = key(
            QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QStringLiteral("to the result"), true, "spectrum_done");
        connect(main_, &QAbstractButton::clicked, this, &SpectrumPanel::act);
        connect(whole_, &QAbstractButton::clicked, this, [this] { session_.begin(bench::take::body); });
        connect(out_, &QAbstractButton::clicked, this, [this] {
            if (const int trial = session_.live().trial) session_.throw_out(trial, QStringLiteral("stopped"));
        });
        connect(type_, &QAbstractButton::clicked, this, [this] {
            typed_->open();
            direct();
        });
        connect(done_, &QAbstractButton::clicked, this, &Panel::go_on);
    }
    void enter() override
    {
        session_.say(QStringLiteral("grip"));
        typed_->hide();
        on_changed();
        if (!session_.live().speaks(session_.visit().method) && !own().enough(session_.visit())) typed_->open();
        on_live();
    }
    void on_changed() override
    {
        if (typed_->isVisible() && own().enough(session_.visit())) typed_->hide();
        show_arcs();
        direct();
    }
    void on_live() override
    {
        const AnalyserShown& a = shown();
        if (!a.what.empty() && a.state.seconds != drawn_s_) {
            drawn_s_ = a.state.seconds;
            show_arcs();
        }
        direct();
    }

private:
    const AnalyserShown& shown() const { return bench::analyser_shown(session_.live()); }
    const bench::AnalyserState& own() const { return bench::analyser_of(session_.visit()); }

    /// The segments that a result still needs; the first is the next to be measured.
    std::vector<Segment> missing() const
    {
        std::vector<Segment> out;
        const auto standing = own().segments(session_.visit());
        for (Segment s : impedance::all_segments)
            if (standing[index(s)].trial == 0) out.push_back(s);
        return out;
    }
    bool begun() const { return missing().size() < impedance::segment_count; }

    void act()
    {
        const AnalyserShown& a = shown();
        if (!a.what.empty()) return session_.take();
        const auto next = missing();
        if (next.size() == impedance::segment_count || next.empty())
            session_.begin(bench::take::body);
        else
            session_.begin(impedance::row(next.front()).id);
    }

    void show_arcs()
    {
        const AnalyserShown& a = shown();
        const auto standing = own().segments(session_.visit());
        const auto bad = a.what.empty() ? std::vector<Segment>{} : bench::again(a);
        limbs_.clear();
        trunk_.clear();
        for (Segment s : impedance::all_segments) {
            report::ArcCurve c{QString::fromLatin1(impedance::row(s).title), {}, {}, false, false};
            const impedance::SegmentReading& now = a.state.segments[index(s)];
            if (!a.what.empty() && a.measures(s) && !now.points.empty()) {
                c.points = now.points;
                c.arc = now.arc;
                c.live = !a.complete && a.state.newest == s;
                c.bad = now.sweeps > 0 && std::count(bad.begin(), bad.end(), s) > 0;
            } else if (standing[index(s)].trial > 0) {
                c.points = standing[index(s)].of.points;
                if (c.points.size() >= impedance::fewest_frequencies)
                    if (const auto arc = impedance::fit_arc(c.points)) c.arc = *arc;
            }
            if (!c.points.empty()) (s == Segment::trunk ? trunk_ : limbs_).push_back(std::move(c));
        }
        arcs_->update();
    }

    void direct()
    {
        const AnalyserShown& a = shown();
        const bench::Visit& v = session_.visit();
        const bool busy = !a.what.empty(), enough = own().enough(v), typing = typed_->isVisible();
        const auto next = missing();
        main_->setVisible(!typing && (busy || !enough));
        main_->setEnabled(true);
        main_->set_main(!enough);
        out_->setVisible(busy);
        whole_->setVisible(!busy && !typing && begun());
        type_->setVisible(!busy && !typing);
        done_->setVisible(enough && !busy);
        done_->set_main(enough);
        arcs_->setVisible(!typing && !(enough && limbs_.empty() && trunk_.empty())); // typed: nothing to draw
        QStringList found;
        for (const impedance::Finding& f : a.state.findings)
            found << QStringLiteral("◆ %1. %2")
                         .arg(capital(q(f.words)), QString::fromUtf8(impedance::row(f.fault).do_this));
        if (!busy) {
            found.clear();
            for (const auto& [code, words] : own().doubts(v)) found << QStringLiteral("◆ ") + q(words);
            for (std::size_t e = 0; e < impedance::electrode_count && a.hands; ++e)
                if (a.contact_ohm[e] > impedance::contact_limit_ohm)
                    found << QStringLiteral("◆ %1: poor contact (%2 kΩ). %3")
                                 .arg(capital(QString::fromLatin1(impedance::electrode_titles[e])))
                                 .arg(a.contact_ohm[e] / 1000, 0, 'f', 1)
                                 .arg(QString::fromUtf8(impedance::row(impedance::Fault::poor_contact).do_this));
        }
        const QString words = typing ? QString() : found.join('\n');
        if (found_->text() != words) found_->setText(words);
        if (typing)
            return say(QStringLiteral("Type what the analyser shows"),
                QStringLiteral("At 50 kHz, of the whole body or of five segments; or bring its spectra as a file."));
        if (busy) return direct_busy(a);
        if (enough)
            return say(next.empty() || own().whole_body(v) ? QStringLiteral("The current has been everywhere")
                                                           : QStringLiteral("Enough for a result"),
                QStringLiteral("Help the client off. ⏎ shows what it means."));
        if (!a.connected) {
            main_->setEnabled(false);
            return say(session_.live().speaks(session_.visit().method)
                           ? QStringLiteral("The analyser is not heard")
                           : QStringLiteral("Measure as the analyser's maker says"),
                session_.live().speaks(session_.visit().method) && !session_.live().trouble.empty()
                    ? q(session_.live().trouble)
                    : QStringLiteral(
                          "Switch it on, check its cable: it is opened again by itself. Without a line, type "
                          "what it shows (T)."));
        }
        if (v.running()) { // begun, not heard yet
            main_->setEnabled(false);
            return;
        }
        if (begun()) {
            main_->set_words(
                QStringLiteral("measure the %1 again").arg(QString::fromLatin1(impedance::row(next.front()).title)));
            return say(QStringLiteral("Again, alone: %1").arg(names(next)),
                QStringLiteral("Put right what is said here; the rest stays as it is."));
        }
        const bool ready = !a.speaks_contacts || a.hands;
        main_->setEnabled(ready);
        main_->set_words(QStringLiteral("start: one minute"));
        say(ready ? QStringLiteral("Stand still, no talking: start") : QStringLiteral("Thumbs and palms on the metal"),
            QStringLiteral("Heels back, arms straight and away, thighs apart. Nobody leans on the platform."));
    }

    void direct_busy(const AnalyserShown& a)
    {
        const bool off = std::any_of(a.state.findings.begin(), a.state.findings.end(),
            [](const impedance::Finding& f) { return f.fault == impedance::Fault::stepped_off; });
        const auto bad = bench::again(a);
        if (a.complete) {
            main_->set_words(bad.empty() ? QStringLiteral("take it") : QStringLiteral("keep the good ones"));
            return bad.empty() ? say(QStringLiteral("Got it"), QStringLiteral("Take it, then help the client off."))
                               : say(QStringLiteral("Again, alone: %1").arg(names(bad)),
                                     QStringLiteral("The good ones are kept; only these are measured again."));
        }
        const double left = std::max(0.0, a.wanted_s - a.state.seconds);
        main_->set_words(a.lost ? QStringLiteral("take what is there") : QStringLiteral("measuring …"));
        main_->setEnabled(a.lost);
        if (a.lost)
            say(QStringLiteral("The line is gone: what was measured is kept"),
                QStringLiteral("It goes on by itself when the analyser is heard again."));
        else if (off)
            say(QStringLiteral("The client stepped off"),
                QStringLiteral("Step on again, hands on the metal: it goes on."));
        else if (a.what == bench::take::body)
            say(QStringLiteral("Stand still: %1 s to go").arg(std::ceil(left), 0, 'f', 0),
                QStringLiteral("No talking. Arms straight and away, thighs apart."));
        else
            say(QStringLiteral("The %1 again: stand still").arg(q(a.what).replace('_', ' ')),
                QStringLiteral("It comes round in turn with the others: about half a minute."));
    }

    static QString capital(QString words)
    {
        if (!words.isEmpty()) words[0] = words[0].toUpper();
        return words;
    }

    QLabel* found_;
    Figure* arcs_;
    TypedSpectrum* typed_;
    KeyButton *main_, *out_, *whole_, *type_, *done_;
    std::vector<report::ArcCurve> limbs_, trunk_;
    double drawn_s_ = -1;
};

} // namespace

Panel* make_spectrum_panel(work::Session& s) { return new SpectrumPanel(s); }

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
// The scan: rows over the line, seen while they come; typed, or from a file.
#include "bench/xray/xray_take.h"
#include "desk/bench/xray/map_view.h"
#include "desk/bench/xray/typed_scan.h"
#include "desk/bench/xray/xray_panels.h"

#include <QElapsedTimer>

#include <algorithm>
#include <cmath>

namespace fusain::desk {
namespace {

using bench::XrayShown;

class ScanPanel : public Panel {
public:
    explicit ScanPanel(work::Session& s) : Panel(s, bench::step::scan, QString(), QString()), since_(s.clock())
    {
        found_ = label("trouble");
        found_->setObjectName(QStringLiteral("found"));
        body_->addWidget(found_);
        seen_ = new QWidget;
        auto* row = new QHBoxLayout(seen_);
        row->setContentsMargins(0, 0, 0, 0);
        auto* left = new QVBoxLayout;
        left->setContentsMargins(0, 0, 0, 0);
        left->addStretch();
        left->addWidget(left_ = label("huge"));
        left->addWidget(left_words_ = label("heading"));
        left->addStretch();
        left_->setObjectName(QStringLiteral("time_left"));
        row->addLayout(left, 2);
        map_ = new MapView;
        map_->setObjectName(QStringLiteral("map"));
        row->addWidget(map_, 3);
        body_->addWidget(seen_, 5);
        typed_ = new TypedScan(session_);
        body_->addWidget(typed_, 5);
        typed_->hide();
        connect(typed_, &TypedScan::left, this, [this] {
            typed_->hide();
            setFocus(Qt::OtherFocusReason);
            direct();
        });
        connect(typed_, &TypedScan::changed, this, [this] { direct(); });
        main_ = key(QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QString(), true, "scan_main");
        out_ = key(QKeySequence(Qt::Key_X), QStringLiteral("X"), QString(), false, "scan_out");
        again_ = key(QKeySequence(Qt::Key_A), QStringLiteral("A"), QStringLiteral("scan again: one more dose"), false,
            "scan_again");
        type_ =
            key(QKeySequence(Qt::Key_T), QStringLiteral("T"), QStringLiteral("type it, or a file"), false, "scan_type");
        done_ = key(QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QString(), true, "scan_done");
        connect(main_, &QAbstractButton::clicked, this, &ScanPanel::act);
        connect(again_, &QAbstractButton::clicked, this, [this] { session_.begin(bench::take::scan); });
        connect(out_, &QAbstractButton::clicked, this, [this] {
            const XrayShown& x = shown();
            if (const int trial = session_.live().trial)
                session_.throw_out(trial, x.complete || x.reading
                                              ? QStringLiteral("thrown out after the last row")
                                              : QStringLiteral("stopped in row %1 of %2").arg(x.rows_seen).arg(x.rows));
        });
        connect(type_, &QAbstractButton::clicked, this, [this] {
            typed_->open();
            direct();
        });
        connect(done_, &QAbstractButton::clicked, this, [this] {
            const bench::ScanTaken* scan = own().standing(session_.visit());
            if (scan && scan->has_map)
                emit to_step(bench::step::lines);
            else
                emit go_on();
        });
    }
    void enter() override
    {
        typed_->hide();
        drawn_rows_ = -1;
        if (!own().standing(session_.visit())) map_->clear();
        if (!session_.live().speaks(session_.visit().method) && !own().standing(session_.visit())) typed_->open();
        direct();
    }
    void on_changed() override
    {
        if (typed_->isVisible() && own().standing(session_.visit())) typed_->hide();
        direct();
    }
    void on_live() override
    {
        const XrayShown& x = shown();
        if (!x.what.empty() && x.picture && x.rows_seen != drawn_rows_) {
            if (x.rows_seen < drawn_rows_ || drawn_rows_ <= 0) since_.restart();
            drawn_rows_ = x.rows_seen;
            map_->show_rows(*x.picture, x.dx_mm, x.dy_mm, x.rows_seen);
        }
        direct();
    }

private:
    const XrayShown& shown() const { return bench::xray_shown(session_.live()); }
    const bench::XrayState& own() const { return bench::xray_of(session_.visit()); }

    void act()
    {
        const XrayShown& x = shown();
        if (x.what.empty()) return session_.begin(bench::take::scan);
        if (!x.complete) return;
        if (*x.scan) return session_.take();
        session_.throw_out(session_.live().trial, q(x.scan->messages().front().text));
    }

    static QString time_left(double seconds)
    {
        return seconds < 90 ? QStringLiteral("%1 s").arg(5 * std::ceil(seconds / 5), 0, 'f', 0)
                            : QStringLiteral("%1 min").arg(std::ceil(seconds / 60), 0, 'f', 0);
    }
    QString dose() const
    {
        return own().dose_usv > 0 ? QStringLiteral("about %1 µSv").arg(own().dose_usv, 0, 'f', 1) : QString();
    }

    void direct()
    {
        const XrayShown& x = shown();
        const bench::Visit& v = session_.visit();
        const bench::ScanTaken* scan = own().standing(v);
        const bool busy = !x.what.empty(), typing = typed_->isVisible();
        main_->setVisible(!typing && (busy ? x.complete : !scan));
        main_->setEnabled(true);
        main_->set_main(!scan);
        out_->setVisible(busy);
        out_->set_words(x.complete || x.reading ? QStringLiteral("throw it out") : QStringLiteral("stop the beam"));
        out_->set_main(busy && !x.complete && !x.found.empty());
        again_->setVisible(!busy && !typing && scan);
        type_->setVisible(!busy && !typing);
        done_->setVisible(scan && !busy && !typing);
        done_->set_words(scan && scan->has_map ? QStringLiteral("to the lines") : QStringLiteral("to the result"));
        seen_->setVisible(!typing);
        map_->setVisible(map_->is_drawn());
        if (!busy) tell_large({}, {});
        QStringList found;
        if (busy)
            for (const Message& m : x.found) found << QStringLiteral("◆ ") + q(m.text);
        else if (scan)
            for (const Message& m : scan->found) found << QStringLiteral("◆ ") + q(m.text);
        const QString words = typing ? QString() : found.join('\n');
        if (found_->text() != words) found_->setText(words);
        if (typing)
            return say(
                typed_->is_reading() ? QStringLiteral("Reading the map …") : QStringLiteral("Type what the table says"),
                QStringLiteral(
                    "Grams of each region; waist and hip bands where the table has them. Or bring its file."));
        if (busy) return direct_busy(x);
        if (scan)
            return say(scan->has_map ? QStringLiteral("The map is read") : QStringLiteral("The regions are kept"),
                scan->has_map ? QStringLiteral("The client may get up. ⏎ goes on to the lines.")
                              : QStringLiteral("A table of regions has no lines to draw. ⏎ shows what it means."));
        if (!x.connected) {
            main_->setVisible(false);
            return say(session_.live().speaks(session_.visit().method)
                           ? QStringLiteral("The X-ray table is not heard")
                           : QStringLiteral("Scan as the table's maker says"),
                session_.live().speaks(session_.visit().method)
                    ? QStringLiteral(
                          "Check its cable; it is opened again by itself. Without a line, type its regions or "
                          "bring its file (T).")
                    : QStringLiteral("Then type its regions, or bring its file (T)."));
        }
        if (v.running()) {
            main_->setEnabled(false);
            if (map_->is_drawn()) // the table has ended; the log has not been written
                return say(QStringLiteral("The beam is off"),
                    QStringLiteral("The scan is over, and its end is not on the disk yet: make room on it. It is "
                                   "stored by itself."));
            return say(QStringLiteral("The table is told to begin …"), QStringLiteral("Stay out of the beam."));
        }
        main_->set_words(
            own().beams(v) > 0 ? QStringLiteral("start over: one more dose") : QStringLiteral("start the beam"));
        if (const bench::Trial* last = last_beam(v); last && last->status != bench::Trial::Status::taken)
            return say(QStringLiteral("No scan yet: start over?"),
                QStringLiteral("The last one: %1. What came of it is kept. Starting over is one more dose%2.")
                    .arg(q(last->reason), dose().isEmpty() ? QString() : QStringLiteral(", ") + dose()));
        QStringList names;
        for (const std::string& name : own().licensed) names << q(name);
        say(QStringLiteral("Everybody out of the beam: start"),
            QStringLiteral("%1 only starts it who is licensed: %2.")
                .arg(dose().isEmpty() ? QString() : QStringLiteral("One scan, %1;").arg(dose()),
                    names.join(QStringLiteral(", "))));
    }

    static const bench::Trial* last_beam(const bench::Visit& v)
    {
        for (auto t = v.trials.rbegin(); t != v.trials.rend(); ++t)
            if (t->source == "line") return &*t;
        return nullptr;
    }

    void tell_large(const QString& number, const QString& words)
    {
        if (left_words_->text() == words && left_->property("said").toString() == number) return;
        left_->setProperty("said", number);
        left_->setText(number.isEmpty() ? QString() : large(number));
        left_words_->setText(words);
    }

    void direct_busy(const XrayShown& x)
    {
        if (x.complete || x.reading || x.rows == 0) tell_large({}, {});
        if (x.complete) {
            const bool again = !*x.scan || std::any_of(x.found.begin(), x.found.end(),
                                               [](const Message& m) { return m.level == Level::repeat; });
            main_->set_words(!*x.scan ? QStringLiteral("throw it out")
                             : again  ? QStringLiteral("take it all the same")
                                      : QStringLiteral("take it"));
            main_->set_main(!again || !*x.scan);
            out_->setVisible(static_cast<bool>(*x.scan));
            out_->set_main(again && *x.scan);
            return again ? say(QStringLiteral("This scan asks to be made again"),
                               QStringLiteral(
                                   "Put right what is said here. Taken all the same, it is said with the result."))
                         : say(QStringLiteral("Got it"), QStringLiteral("Take it; then the client may get up."));
        }
        if (x.reading)
            return say(QStringLiteral("Every row is there: reading …"),
                QStringLiteral("The beam is off. A moment more lying."));
        if (x.rows == 0)
            return say(QStringLiteral("The table is told to begin …"), QStringLiteral("Stay out of the beam."));
        const double left = x.rows_seen > 8 ? since_.seconds() / x.rows_seen * (x.rows - x.rows_seen) : 0;
        say(x.found.empty() ? QStringLiteral("The beam is on: lie still") : QStringLiteral("Look: something is wrong"),
            QStringLiteral("Row %1 of %2. X stops the beam at once; what has come is kept.")
                .arg(x.rows_seen)
                .arg(x.rows));
        tell_large(left > 0 ? time_left(left) : QString(), left > 0 ? QStringLiteral("to go") : QString());
    }

    QLabel *found_, *left_, *left_words_;
    QWidget* seen_;
    MapView* map_;
    TypedScan* typed_;
    KeyButton *main_, *out_, *again_, *type_, *done_;
    bench::Since since_; ///< the first row
    int drawn_rows_ = -1;
};

} // namespace

Panel* make_scan_panel(work::Session& s) { return new ScanPanel(s); }

} // namespace fusain::desk

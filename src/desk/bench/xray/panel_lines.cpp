// SPDX-License-Identifier: GPL-3.0-or-later
// The lines: strings over the map, moved by hand or by key; every number follows.
#include "bench/files/scan_file.h"
#include "bench/files/tissue_table.h"
#include "bench/xray/xray_take.h"
#include "desk/bench/xray/map_view.h"
#include "desk/bench/xray/xray_panels.h"
#include "desk/parts/typed_row.h"
#include "records/base/clock.h"
#include "report/words/method_words.h"
#include "work/xray/last_scan.h"
#include "work/files/scan_export.h"

#include <QBuffer>
#include <QFileInfo>
#include <QTimer>

#include <chrono>
#include <cmath>
#include <future>

namespace fusain::desk {
namespace {

using report::number;
using xray::Region;

constexpr int poll_ms = 40, calm_ms = 200;

class LinesPanel : public Panel {
public:
    explicit LinesPanel(work::Session& s)
        : Panel(s, bench::step::lines, QStringLiteral("Where does each region end?"), QString()),
          poll_(s.clock(), this), calm_(s.clock(), this)
    {
        auto* columns = new QHBoxLayout;
        columns->setContentsMargins(0, 0, 0, 0);
        columns->setSpacing(18);
        map_ = new MapView;
        map_->setObjectName(QStringLiteral("lines_map"));
        columns->addWidget(map_, 3);
        detail_ = new MapView(true);
        detail_->setObjectName(QStringLiteral("lines_detail"));
        columns->addWidget(detail_, 4);
        auto* side = new QWidget;
        auto* column = new QVBoxLayout(side);
        column->setContentsMargins(0, 0, 10, 0);
        column->setSpacing(6);
        column->addWidget(string_ = label("heading"));
        string_->setObjectName(QStringLiteral("string"));
        column->addWidget(worth_ = label("small"));
        worth_->setObjectName(QStringLiteral("worth"));
        column->addWidget(last_words_ = label("small"));
        last_words_->setObjectName(QStringLiteral("beside_last"));
        bone_row_ = new TypedRow(
            {{QStringLiteral("bone mineral expected"), "bone_mean",
                 mean_ = new NumberField("bone_reference.mean_kg", Measure::none)},
                {QStringLiteral("its SD"), "bone_sd", sd_ = new NumberField("bone_reference.sd_kg", Measure::none)}},
            2);
        source_ = new QLineEdit;
        source_->setObjectName(QStringLiteral("bone_source"));
        source_->setPlaceholderText(QStringLiteral("where this reference comes from"));
        bone_row_->put_first(source_);
        bone_row_->hide();
        column->addWidget(bone_row_);
        column->addSpacing(6);
        table_ = new Figure([this](QPainter& p, const QRectF& area) { draw_table(p, area); });
        table_->setObjectName(QStringLiteral("regions"));
        column->addWidget(table_, 1);
        column->addWidget(said_ = label("small"));
        said_->setObjectName(QStringLiteral("lines_said"));
        columns->addWidget(side_ = new Scroll(side));
        with_theme(this, [this] { share_room(); });
        body_->addLayout(columns, 1);
        const auto plain = [&](const char* sequence, const char* cap, const char* words, const char* name) {
            return key(QKeySequence(QString::fromLatin1(sequence)), QString::fromUtf8(cap), QString::fromUtf8(words),
                false, name);
        };
        done_ = key(QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QStringLiteral("the lines are right"), true,
            "lines_done");
        undo_ = plain("U", "U", "undo", "lines_undo");
        last_ = plain("L", "L", "last scan's lines", "lines_last");
        program_ = plain("P", "P", "the program's", "lines_program");
        bands_ = plain("B", "B", "waist and hip bands", "lines_bands");
        bone_ = plain("Z", "Z", "bone reference", "lines_bone");
        export_ = plain("Ctrl+E", "Ctrl E", "export map, table, picture", "lines_export");
        connect(done_, &QAbstractButton::clicked, this, &LinesPanel::accept);
        connect(undo_, &QAbstractButton::clicked, this, [this] {
            if (before_.empty()) return;
            draw(before_.back());
            before_.pop_back();
            by_ = before_.empty() ? first_by_ : "technician";
            follow();
        });
        connect(last_, &QAbstractButton::clicked, this, &LinesPanel::lay_over);
        connect(program_, &QAbstractButton::clicked, this, [this] {
            keep_before();
            draw(own().standing(session_.visit())->lines);
            by_ = "program";
            follow();
        });
        connect(bands_, &QAbstractButton::clicked, this, [this] {
            map_->show_bands(!map_->shows_bands());
            said_->setText(!map_->shows_bands()
                               ? QString()
                               : QStringLiteral("Hatched: the waist band lies wholly within the trunk; the "
                                                "hip band partly within the trunk, partly within the "
                                                "legs. Both are counted beside the six regions."));
        });
        connect(export_, &QAbstractButton::clicked, this, &LinesPanel::write_out);
        connect(bone_, &QAbstractButton::clicked, this, [this] {
            bone_row_->open();
            source_->setFocus();
        });
        connect(bone_row_, &TypedRow::left, this, [this] {
            bone_row_->close_row();
            map_->setFocus();
        });
        connect(bone_row_, &TypedRow::typed, this, [this] {
            const auto mean = mean_->metric(), sd = sd_->metric();
            if (mean && sd)
                session_.act(bench::event::BoneReference{{*mean, *sd, source_->text().trimmed().toStdString()}});
        });
        connect(&session_, &work::Session::refused, this, [this](const Message& why) {
            if (isVisible()) said_->setText(q(why.text));
        });
        for (const auto& [view, other] : {std::pair{map_, detail_}, {detail_, map_}}) {
            connect(view, &MapView::grabbed, this, [this] {
                keep_before();
                by_ = "technician";
            });
            connect(view, &MapView::lines_moved, this, [this, view = view, other = other] {
                other->set_lines(view->lines());
                follow();
            });
            connect(view, &MapView::chosen_changed, this, [this, view = view, other = other] {
                other->choose(view->chosen());
                tell_string();
            });
        }
        connect(&poll_, &bench::Beat::due, this, &LinesPanel::look);
        connect(&calm_, &bench::Beat::due, this, &LinesPanel::compare);
        connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
            if (e.is<bench::event::Lines>() && isVisible()) emit go_on();
            if (!e.is<bench::event::BoneReference>()) return;
            bone_row_->close_row();
            if (const auto& kept = own().bone_reference)
                said_->setText(QStringLiteral("Kept: %1 ± %2 kg, %3.")
                                   .arg(number(kept->mean_kg, 3), number(kept->sd_kg, 3), q(kept->source)));
        });
        connect(&Units::get(), &Units::changed, table_, qOverload<>(&QWidget::update));
    }

    void enter() override
    {
        const bench::Visit& v = session_.visit();
        int trial = 0;
        const bench::ScanTaken* scan = own().standing(v, &trial);
        said_->clear();
        if (!scan || !scan->has_map) {
            forget();
            return direct();
        }
        if (read_of_ != std::pair{session_.visit_id(), trial}) {
            forget();
            read_of_ = {session_.visit_id(), trial};
            const auto recording = session_.store().signal(session_.visit_id(), trial);
            const auto shipped = bench::shipped_table(scan->table);
            std::optional<xray::Map> map;
            if (recording) map = bench::map_from(*recording, *scan);
            if (!recording)
                trouble_ = q(recording.messages().front().text);
            else if (!map)
                trouble_ = QStringLiteral("The recording of this map is not whole.");
            else if (!shipped)
                trouble_ = QStringLiteral("The tissue table %1 is not known here.").arg(q(scan->table));
            if (!trouble_.isEmpty()) {
                trouble_ += QStringLiteral(" The numbers that were kept stand; the lines cannot be moved.");
                return direct();
            }
            raw_ = *map;
            reading_ = std::async(std::launch::async,
                [map = *map, table = shipped->table, half = scan->half] { return bench::read_map(map, table, half); });
            poll_.start(poll_ms);
        }
        direct();
        map_->setFocus();
    }
    void on_changed() override { direct(); }

private:
    const bench::XrayState& own() const { return bench::xray_of(session_.visit()); }

    /// Where it is narrow the glass gives way to the numbers.
    void share_room()
    {
        const Theme& t = Theme::get();
        side_->setFixedWidth(std::min(t.px(326), static_cast<int>(0.48 * width())));
        table_->setMinimumHeight(t.px(180));
        detail_->setVisible(width() >= t.px(760));
    }
    void resizeEvent(QResizeEvent*) override { share_room(); }

    void forget()
    {
        map_->clear();
        detail_->clear();
        scan_.reset();
        before_.clear();
        ghost_.reset();
        apart_.clear();
        trouble_.clear();
        read_of_ = {};
        raw_ = {};
    }

    void look()
    {
        if (!reading_.valid() || reading_.wait_for(std::chrono::seconds(0)) != std::future_status::ready) return;
        poll_.stop();
        auto scan = reading_.get();
        if (!session_.is_open() || !bench::xray_if(session_.visit()) || read_of_.first != session_.visit_id()) return;
        if (!scan) {
            trouble_ = q(scan.messages().front().text);
            return direct();
        }
        const bench::Visit& v = session_.visit();
        const bench::ScanTaken& taken = *own().standing(v);
        scan_ = std::make_shared<const xray::Composition>(std::move((*scan).made_of));
        map_->show_scan(scan_);
        detail_->show_scan(scan_);
        if (const auto last = work::last_scan(session_.store(), v, session_.visit_id())) {
            last_day_ = last->day;
            ghost_ = xray::carried(last->lines, last->frame, taken.frame);
            map_->set_ghost(ghost_);
            detail_->set_ghost(ghost_);
        }
        const bench::LinesSeen* seen = own().lines(v);
        draw(seen ? seen->lines : taken.lines);
        first_by_ = by_ = seen ? seen->by : "program";
        follow();
        direct();
    }

    void draw(const xray::Lines& lines)
    {
        map_->set_lines(lines);
        detail_->set_lines(lines);
    }
    void keep_before() { before_.push_back(map_->lines()); }

    /// Every number by the lines as they stand now.
    void follow()
    {
        if (!scan_) return;
        regions_ = xray::regions(*scan_, map_->lines());
        undo_->setEnabled(!before_.empty());
        const Messages bad = crossed();
        done_->setEnabled(bad.empty());
        said_->setText(bad.empty() ? QString() : QStringLiteral("◆ ") + q(bad.front().text));
        tell_string();
        table_->update();
        calm_.start_once(calm_ms);
    }
    Messages crossed() const
    {
        return xray::check(map_->lines(), scan_->dx_mm * static_cast<double>(scan_->fat.cols()),
            scan_->dy_mm * static_cast<double>(scan_->fat.rows()));
    }
    /// Beside last time, once the hand has come to rest.
    void compare()
    {
        if (!scan_ || !ghost_) return;
        apart_ = xray::apart(*scan_, map_->lines(), *ghost_);
        tell_string();
        table_->update();
    }

    void tell_string()
    {
        if (!scan_) return;
        const xray::StringRow& row = xray::row(map_->chosen());
        string_->setText(QString::fromLatin1(row.title));
        const xray::Mass per = xray::per_mm(*scan_, map_->lines(), map_->chosen());
        const bool cuts = map_->chosen() != xray::String::pelvis;
        worth_->setText(
            cuts
                ? QStringLiteral("1 mm %1: %2 g of lean and %3 g of fat more in the %4.")
                      .arg(row.level ? QStringLiteral("down") : QStringLiteral("to the picture's right"),
                          number(per.lean_g, 1), number(per.fat_g, 1), QString::fromLatin1(xray::row(row.region).title))
                : QStringLiteral("It carries the waist and hip bands; head, arms, trunk and legs do not hang on it."));
        QString beside = ghost_ ? QString() : QStringLiteral("No earlier scan with lines to lay over.");
        for (const xray::Apart& a : apart_)
            if (a.string == map_->chosen()) {
                beside = std::abs(a.mm) <= xray::same_rule_mm
                             ? QStringLiteral("%1 mm from last time: the same rule.").arg(number(a.mm, 1))
                             : QStringLiteral("◆ %1 mm from last time: another rule, worth %2 g.")
                                   .arg(number(a.mm, 1), number(a.grams, 0));
            }
        last_words_->setText(beside);
    }

    void lay_over()
    {
        if (!ghost_ || !scan_) {
            said_->setText(QStringLiteral("There is no earlier scan with lines in this lab."));
            return;
        }
        keep_before();
        draw(*ghost_);
        by_ = "last";
        follow();
        if (crossed().empty())
            said_->setText(QStringLiteral("The lines of %1, where they lie on the body. Mend what does not fit today.")
                               .arg(records::date_words(last_day_.toStdString())));
    }

    void accept()
    {
        if (!scan_) { // only to be looked at
            if (own().lines_done(session_.visit()) || !trouble_.isEmpty()) emit go_on();
            return;
        }
        if (session_.visit().finished) return emit go_on();
        session_.act(bench::event::lines_of(*scan_, map_->lines(), by_, ghost_));
    }

    void write_out()
    {
        if (!scan_) return;
        const bench::Visit& v = session_.visit();
        const QString folder = QFileInfo(session_.store().file()).absolutePath() + QStringLiteral("/exports");
        QImage picture(900, 2400, QImage::Format_RGB32);
        picture.fill(look::day().paper);
        {
            QPainter p(&picture);
            const report::MapPlace at =
                report::place_map(QRectF(20, 20, 860, 2360), scan_->dx_mm * static_cast<double>(scan_->fat.cols()),
                    scan_->dy_mm * static_cast<double>(scan_->fat.rows()));
            p.setRenderHint(QPainter::SmoothPixmapTransform);
            p.drawImage(at.on, report::charcoal(*scan_, look::day()));
            report::draw_strings(p, at, map_->lines(), look::day(), 22);
        }
        QByteArray png;
        QBuffer buffer(&png);
        buffer.open(QIODevice::WriteOnly);
        picture.save(&buffer, "PNG");
        const auto written = work::export_scan(folder, v, session_.visit_id(), raw_, regions_, png);
        said_->setText(written ? QStringLiteral("Written: %1 (.dcm, .csv, .png)").arg(*written)
                               : q(written.messages().front().text));
    }

    void direct()
    {
        const bench::ScanTaken* scan = own().standing(session_.visit());
        const bool ready = scan_ != nullptr;
        for (KeyButton* b : {undo_, last_, program_, bands_, export_}) b->setVisible(ready);
        undo_->setEnabled(!before_.empty());
        table_->setVisible(ready);
        string_->setVisible(ready);
        worth_->setVisible(ready);
        last_words_->setVisible(ready);
        done_->set_words(ready && !session_.visit().finished ? QStringLiteral("the lines are right")
                                                             : QStringLiteral("to the result"));
        done_->setEnabled(ready ? crossed().empty() : !trouble_.isEmpty() || (scan && !scan->has_map));
        if (!scan)
            return say(
                QStringLiteral("Nothing has been scanned yet"), QStringLiteral("The lines are drawn on its map."));
        if (!scan->has_map)
            return say(QStringLiteral("No lines to draw"),
                QStringLiteral("Regions came as a table; where its lines lay is not known. ⏎ shows the result."));
        if (!trouble_.isEmpty()) return say(QStringLiteral("The map cannot be shown"), trouble_);
        if (!ready) return say(QStringLiteral("Reading the map …"), QStringLiteral("A second or two."));
        say(QStringLiteral("Does each string cut where it should?"),
            QStringLiteral(
                "Drag one, or Tab to it and step with the arrows: 1 mm, with Shift 5 mm. The same rule as last "
                "time counts more than the right one."));
    }

    void draw_table(QPainter& p, const QRectF& area)
    {
        const look::Palette& c = Theme::get().palette();
        const double row = std::min(1.75 * Theme::get().px(14), area.height() / 10.5);
        const int em = std::min(Theme::get().px(14), static_cast<int>(0.86 * row));
        const auto unit = mass_unit();
        const auto put = [&](int line, double from, double width, int flags, const QString& words, look::Voice voice,
                             const QColor& color) {
            p.setFont(look::font(voice, voice == look::Voice::measured ? static_cast<int>(0.92 * em) : em));
            p.setPen(color);
            p.drawText(QRectF(area.left() + from * area.width(), area.top() + line * row, width * area.width(), row),
                flags | Qt::AlignVCenter, words);
        };
        put(0, 0.40, 0.20, Qt::AlignRight, QStringLiteral("lean %1").arg(unit.word), look::Voice::text, c.smudge);
        put(0, 0.60, 0.20, Qt::AlignRight, QStringLiteral("fat %1").arg(unit.word), look::Voice::text, c.smudge);
        put(0, 0.80, 0.20, Qt::AlignRight, QStringLiteral("% fat"), look::Voice::text, c.smudge);
        const xray::StringRow& string = xray::row(map_->chosen());
        int line = 1;
        const auto mass = [&](const QString& title, const xray::Mass& m, bool touched) {
            const QColor ink = touched ? c.live : c.ink;
            put(line, 0, 0.46, Qt::AlignLeft, title, look::Voice::text, ink);
            put(line, 0.40, 0.20, Qt::AlignRight, number(m.lean_g / 1000 * unit.per_kg, 2), look::Voice::measured, ink);
            put(line, 0.60, 0.20, Qt::AlignRight, number(m.fat_g / 1000 * unit.per_kg, 2), look::Voice::measured, ink);
            put(line++, 0.80, 0.20, Qt::AlignRight, number(100 * m.fat_g / std::max(1.0, m.total_g()), 1),
                look::Voice::measured, ink);
        };
        const bool with_head = own().trunk_with_head;
        for (Region r : {Region::head, Region::right_arm, Region::left_arm, Region::trunk, Region::right_leg,
                 Region::left_leg, Region::android, Region::gynoid}) {
            const bool bands = xray::index(r) >= xray::part_count;
            if (r == Region::android) ++line;
            if (r == Region::trunk && with_head)
                mass(QStringLiteral("trunk + head"), xray::trunk(regions_, true), true);
            else
                mass(r == Region::android  ? QStringLiteral("waist band")
                     : r == Region::gynoid ? QStringLiteral("hip band")
                                           : QString::fromLatin1(xray::row(r).title),
                    regions_[xray::index(r)],
                    string.region == r || string.other == r || (bands && map_->chosen() == xray::String::neck));
        }
    }

    MapView *map_, *detail_;
    QWidget* side_;
    QLabel *string_, *worth_, *last_words_, *said_;
    Figure* table_;
    KeyButton *done_, *undo_, *last_, *program_, *bands_, *bone_, *export_;
    TypedRow* bone_row_;
    NumberField *mean_, *sd_;
    QLineEdit* source_;
    bench::Beat poll_, calm_;
    std::pair<long, int> read_of_{};
    std::future<Outcome<xray::Scan>> reading_;
    xray::Map raw_;
    std::shared_ptr<const xray::Composition> scan_;
    std::vector<xray::Lines> before_;
    std::optional<xray::Lines> ghost_;
    std::vector<xray::Apart> apart_;
    xray::Regions regions_{};
    std::string by_ = "program", first_by_ = "program";
    QString trouble_, last_day_;
};

} // namespace

Panel* make_lines_panel(work::Session& s) { return new LinesPanel(s); }

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
// The pictures: their words stand inside and apart at every width and text size, their marks stand on their numbers.
#include "bench/base/fields.h"
#include "bench/tank/tank.h"
#include "report/page/charts.h"
#include "report/page/figures.h"
#include "report/words/readings_figure.h"

#include <gtest/gtest.h>

#include <QPaintEngine>

#include <functional>

using namespace fusain;

namespace {

/// What is drawn: words with their boxes, round marks, filled boxes, polygons, lines.
struct Drawn {
    struct Words {
        QString text;
        QRectF box;
    };
    std::vector<Words> words;
    std::vector<QRectF> round, boxes;
    int polygons = 0, lines = 0;
};

class Catcher : public QPaintEngine {
public:
    explicit Catcher(Drawn& out) : QPaintEngine(AllFeatures), out_(out) {}
    bool begin(QPaintDevice*) override { return true; }
    bool end() override { return true; }
    Type type() const override { return User; }
    void updateState(const QPaintEngineState& s) override
    {
        if (s.state() & DirtyTransform) transform_ = s.transform();
    }
    void drawPixmap(const QRectF&, const QPixmap&, const QRectF&) override {}
    void drawTextItem(const QPointF& at, const QTextItem& t) override
    {
        const QRectF box(at.x(), at.y() - t.ascent(), t.width(), t.ascent() + t.descent());
        out_.words.push_back({t.text(), transform_.mapRect(box)});
    }
    void drawEllipse(const QRectF& r) override { out_.round.push_back(transform_.mapRect(r)); }
    void drawRects(const QRectF* r, int n) override
    {
        for (int i = 0; i < n; ++i) out_.boxes.push_back(transform_.mapRect(r[i]));
    }
    void drawPolygon(const QPointF*, int, PolygonDrawMode mode) override { out_.polygons += mode != PolylineMode; }
    void drawLines(const QLineF*, int n) override { out_.lines += n; }
    void drawPath(const QPainterPath&) override {}

private:
    Drawn& out_;
    QTransform transform_;
};

class Paper : public QPaintDevice {
public:
    Paper(QSize size, Drawn& out) : size_(size), engine_(out) {}
    QPaintEngine* paintEngine() const override { return &engine_; }

protected:
    int metric(PaintDeviceMetric m) const override
    {
        switch (m) {
        case PdmWidth: return size_.width();
        case PdmHeight: return size_.height();
        case PdmDpiX:
        case PdmDpiY:
        case PdmPhysicalDpiX:
        case PdmPhysicalDpiY: return 96;
        case PdmDevicePixelRatio: return 1;
        case PdmDevicePixelRatioScaled: return static_cast<int>(devicePixelRatioFScale());
        default: return 0;
        }
    }

private:
    QSize size_;
    mutable Catcher engine_;
};

template <class Draw>
Drawn drawn(double width, double height, Draw draw)
{
    Drawn out;
    Paper paper(QSize(static_cast<int>(width), static_cast<int>(height)), out);
    QPainter p(&paper);
    draw(p, QRectF(0, 0, width, height));
    return out;
}

/// What of the words runs out of the picture or into each other.
std::string crowded(const Drawn& c, double width, double height)
{
    std::string out;
    const QRectF area(-1, -1, width + 2, height + 2);
    for (std::size_t i = 0; i < c.words.size(); ++i) {
        const auto& w = c.words[i];
        if (w.text.trimmed().isEmpty()) continue;
        // the ink, without the air above and below it
        const auto ink = [](const QRectF& r) { return r.adjusted(1, 0.25 * r.height(), -1, -0.22 * r.height()); };
        if (!area.contains(ink(w.box))) out += "\"" + w.text.toStdString() + "\" runs out; ";
        for (std::size_t j = 0; j < i; ++j)
            if (ink(w.box).intersects(ink(c.words[j].box)))
                out += "\"" + w.text.toStdString() + "\" on \"" + c.words[j].text.toStdString() + "\"; ";
    }
    return out;
}

hydrostatic::Input a_person()
{
    hydrostatic::Input in;
    in.sex = Sex::female;
    in.age_y = 31;
    in.height_cm = 171;
    in.mass_kg = 68.41;
    in.trials_kg = {2.25, 2.36, 2.35, 2.34};
    in.water_temp_c = 34.6;
    in.lung = {hydrostatic::LungRoute::vital_capacity, 0, 3.76, false, 22.4, 757, ""};
    return in;
}

bench::Visit a_visit(const std::vector<double>& kg, int thrown_out)
{
    bench::Visit v;
    const auto add = [&](const std::string& kind, bench::Json body = bench::Json::object()) {
        const auto why = v.apply({v.last_seq + 1, "2026-11-23T08:20:00.000Z", "M. Tanguy", kind, body.dump()});
        EXPECT_FALSE(why) << kind << ": " << (why ? why->text : "");
    };
    add("started", {{"client_id", 1}, {"number", "101"}, {"name", "A. Q."}, {"birth_date", "1995-05-02"},
                       {"sex", "female"}, {"height_cm", 171.0}});
    add("identity", {{"cm", 171.0}});
    add("stops", {{"stop", bench::Json::array()}});
    add("mass", {{"kg", 68.41}});
    add("lungs", {{"route", "age_height"}, {"equation", "quanjer_1993"}});
    add("zero", {{"kg", 7.542}, {"sd_kg", 0.004}});
    add("water", {{"c", 34.6}});
    for (std::size_t i = 0; i < kg.size(); ++i) {
        add("trial_begun");
        add("trial_taken", {{"kg", kg[i]}, {"u_kg", 0.004}});
    }
    for (int n = 1; n <= thrown_out; ++n) add("trial_thrown_out", {{"number", n}, {"reason", "touched the wall"}});
    return v;
}

const look::Palette& ink() { return look::day(); }

quality::Chart chart_of(const std::vector<quality::Point>& points) { return quality::chart(points, "L", 3, 0.001); }

std::vector<quality::Point> checks(int n, double last)
{
    std::vector<quality::Point> out;
    for (int i = 0; i < n; ++i)
        out.push_back({"2026-10-" + std::to_string(1 + i), 50.012 + 0.004 * ((i * 7) % 5 - 2), true});
    out.back().value = last;
    return out;
}

} // namespace

TEST(Figures, WordsStandInsideAndApartAtEveryWidthAndSize)
{
    const auto result = hydrostatic::compute(a_person());
    ASSERT_TRUE(result);
    const auto visit = a_visit({2.25, 2.36, 2.35, 2.34, 2.351, 1.90}, 1);
    const std::vector<report::BesideRow> beside = {
        {"this visit", "underwater weighing", 23.4, 4.5, true}, {"09:40, 0.6 h apart", "air displacement", 21.9, 4.1}};
    const auto steady = checks(24, 50.012);
    const auto away = checks(24, 50.3);
    struct Row {
        const char* name;
        double least_em;  ///< narrowest place it has on a page, in text sizes
        double height_em; ///< as the pages give it
        std::function<void(QPainter&, const QRectF&, int)> draw;
    };
    const Row rows[] = {
        {"ladder", 14, 2.3 * static_cast<double>(result->ladder.size()),
            [&](QPainter& p, const QRectF& r, int em) { report::draw_ladder(p, r, result->ladder, ink(), em); }},
        {"budget", 18, 1.75 * report::budget_rows(result->budget(quantity::fat_percent)),
            [&](QPainter& p, const QRectF& r, int em) {
                report::draw_budget(p, r, result->budget(quantity::fat_percent), ink(), em);
            }},
        {"readings", 24, 7.4,
            [&](QPainter& p, const QRectF& r, int em) { report::draw_readings(p, r, visit, NAN, ink(), em); }},
        {"beside", 24, 8, [&](QPainter& p, const QRectF& r, int em) { report::draw_beside(p, r, beside, ink(), em); }},
        {"range", 26, 6.5,
            [&](QPainter& p, const QRectF& r, int em) {
                report::draw_range(p, r, 23.4, 4.5, std::nullopt, ink(), em);
            }},
        {"split", 22, 3.6,
            [&](QPainter& p, const QRectF& r, int em) { report::draw_split(p, r, 15.9, 52.5, ink(), em); }},
        {"chart, steady", 30, 17,
            [&](QPainter& p, const QRectF& r, int em) {
                report::draw_control_chart(p, r, chart_of(steady), steady, 50.012, "L", 3, ink(), em);
            }},
        {"chart, away", 30, 17,
            [&](QPainter& p, const QRectF& r, int em) {
                report::draw_control_chart(p, r, chart_of(away), away, 50.012, "L", 3, ink(), em);
            }},
    };
    for (const Row& row : rows)
        for (int em : {13, 15, 20, 26})
            for (double wider : {1.0, 1.35, 2.0, 3.0}) {
                const double width = row.least_em * em * wider, height = row.height_em * em;
                const auto c = drawn(width, height, [&](QPainter& p, const QRectF& r) { row.draw(p, r, em); });
                EXPECT_GE(c.words.size(), 2u) << row.name;
                EXPECT_EQ(crowded(c, width, height), "") << row.name << " at " << width << ", text " << em;
            }
}

TEST(Figures, TheRangesMarkStandsOnItsNumber)
{
    for (double fat : {4.0, 18.0, 23.4, 39.0, 62.0})
        for (double u : {0.5, 4.5}) {
            const auto c = drawn(600, 92,
                [&](QPainter& p, const QRectF& r) { report::draw_range(p, r, fat, u, std::nullopt, ink(), 14); });
            // two ticks make the scale
            std::vector<std::pair<double, double>> ticks;
            for (const auto& w : c.words) ticks.emplace_back(w.text.section(' ', 0, 0).toDouble(), w.box.center().x());
            ASSERT_GE(ticks.size(), 2u);
            const double per =
                (ticks.back().second - ticks.front().second) / (ticks.back().first - ticks.front().first);
            ASSERT_EQ(c.round.size(), 1u);
            EXPECT_NEAR(c.round[0].center().x(), ticks.front().second + per * (fat - ticks.front().first), 1) << fat;
            ASSERT_FALSE(c.boxes.empty()) << "the doubt";
            EXPECT_NEAR(c.boxes[0].right(), ticks.front().second + per * (fat + u - ticks.front().first), 1) << fat;
            EXPECT_NEAR(c.boxes[0].left(),
                ticks.front().second + per * (std::max(ticks.front().first, fat - u) - ticks.front().first), 1);
        }
}

TEST(Figures, ReadingsShowWhatCountsAndWhatWasThrownOut)
{
    struct Row {
        std::vector<double> kg;
        int thrown_out, marks;
        const char* words; ///< empty: nothing counts yet
    };
    const Row rows[] = {
        {{}, 0, 0, "The trials will line up here."},
        {{2.30}, 0, 1, ""},
        {{2.30, 2.80, 1.90}, 0, 3, ""},
        {{2.30, 2.32, 2.31}, 0, 3, "these count, 20 g apart"},
        {{2.30, 2.32, 2.31}, 1, 3, ""},
        {{2.90, 2.30, 2.32, 2.31}, 1, 4, "these count, 20 g apart"},
    };
    for (const Row& row : rows) {
        const auto visit = a_visit(row.kg, row.thrown_out);
        const auto c =
            drawn(700, 104, [&](QPainter& p, const QRectF& r) { report::draw_readings(p, r, visit, NAN, ink(), 14); });
        const std::string what = std::to_string(row.kg.size()) + " taken, out " + std::to_string(row.thrown_out);
        EXPECT_EQ(static_cast<int>(c.round.size()), row.marks) << what;
        EXPECT_EQ(c.lines, row.kg.empty() ? 0 : 1 + 2 * row.thrown_out) << what << ": the axis, and a cross each";
        const bool said =
            std::any_of(c.words.begin(), c.words.end(), [&](const auto& w) { return w.text == row.words; });
        const bool any =
            std::any_of(c.words.begin(), c.words.end(), [](const auto& w) { return w.text.contains("these count"); });
        EXPECT_TRUE(*row.words ? said : !any) << what;
        const auto unit = std::find_if(c.words.begin(), c.words.end(), [](const auto& w) { return w.text == "kg"; });
        for (const auto& w : c.words) // the unit stands beside the figures of its scale, never on one of them
            if (unit != c.words.end() && w.text != "kg" && w.text.contains('.'))
                EXPECT_FALSE(w.box.intersects(unit->box)) << what << ", " << w.text.toStdString();
    }
    // the running one stands among them
    const auto c = drawn(700, 104, [&](QPainter& p, const QRectF& r) {
        report::draw_readings(p, r, a_visit({2.30, 2.32, 2.31}, 0), 2.25, ink(), 14);
    });
    EXPECT_EQ(c.round.size(), 4u);
    EXPECT_LT(c.round.back().center().x(), c.round.front().center().x()) << "lighter stands to the left";
}

TEST(Figures, ALadderOfTheSameSizesHasTheSameBars)
{
    const auto result = hydrostatic::compute(a_person());
    const auto c =
        drawn(800, 300, [&](QPainter& p, const QRectF& r) { report::draw_ladder(p, r, result->ladder, ink(), 15); });
    ASSERT_EQ(c.boxes.size(), result->ladder.size());
    // a bar's length is its litres: all steps but the totals share one scale
    double per = 0;
    for (std::size_t i = 0; i < result->ladder.size(); ++i) {
        const auto& rung = result->ladder[i];
        if (rung.total || i == 0 || std::abs(rung.size) < 0.1) continue;
        const double scale = c.boxes[i].width() / std::abs(rung.size);
        if (per > 0) EXPECT_NEAR(scale, per, 0.02 * per) << rung.title;
        per = scale;
    }
    EXPECT_GT(per, 0);
    // each correction begins where the last one ended
    for (std::size_t i = 1; i + 1 < result->ladder.size(); ++i)
        if (!result->ladder[i].total && std::abs(result->ladder[i].size) > 0.1) {
            const bool down = result->ladder[i].size < 0;
            EXPECT_NEAR(down ? c.boxes[i].right() : c.boxes[i].left(), c.boxes[i - 1].right(), 1.5)
                << result->ladder[i].title;
            break;
        }
}

TEST(Figures, APointOutsideTheLimitsIsADiamond)
{
    for (const auto& [last, diamonds] : {std::pair{50.012, 0}, std::pair{50.3, 1}, std::pair{49.7, 1}}) {
        const auto points = checks(24, last);
        const auto c = drawn(500, 230, [&](QPainter& p, const QRectF& r) {
            report::draw_control_chart(p, r, chart_of(points), points, 50.012, "L", 3, ink(), 13);
        });
        EXPECT_EQ(c.polygons, diamonds) << last;
        EXPECT_EQ(c.round.size() + static_cast<std::size_t>(diamonds), points.size());
    }
    // before the baseline there are no limits to be outside of
    const auto few = checks(5, 50.3);
    const auto c = drawn(500, 230, [&](QPainter& p, const QRectF& r) {
        report::draw_control_chart(p, r, chart_of(few), few, 50.012, "L", 3, ink(), 13);
    });
    EXPECT_EQ(c.polygons, 0);
    EXPECT_EQ(c.round.size(), 5u);
}

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/chamber/chamber_view.h"

#include "desk/parts/parts.h"
#include "desk/parts/plot.h"

#include <cmath>

namespace fusain::desk {
namespace {

constexpr double shown_s = 4;

} // namespace

ChamberView::ChamberView(QWidget* parent) : QCustomPlot(parent)
{
    setObjectName(QStringLiteral("chamber"));
    setMinimumHeight(120);
    make_quick(this);
    settling_ = new QCPAxisRect(this);
    plotLayout()->addElement(1, 0, settling_);
    plotLayout()->setRowStretchFactor(0, 0.75);
    auto* group = new QCPMarginGroup(this);
    axisRect()->setMarginGroup(QCP::msLeft, group);
    settling_->setMarginGroup(QCP::msLeft, group);
    run_x_ = settling_->axis(QCPAxis::atBottom);
    run_y_ = settling_->axis(QCPAxis::atLeft);
    for (QCPAxis* axis : {run_x_, run_y_}) axis->setLayer(QStringLiteral("axes"));
    reference_ = addGraph();
    test_ = addGraph();
    low_ = addGraph(run_x_, run_y_);
    high_ = addGraph(run_x_, run_y_);
    level_ = addGraph(run_x_, run_y_);
    windows_ = addGraph(run_x_, run_y_);
    high_->setChannelFillGraph(low_);
    // the pressures move thirty times a second: they are drawn alone, over everything that stands still
    addLayer(QStringLiteral("pressures"), layer(QStringLiteral("main")));
    layer(QStringLiteral("pressures"))->setMode(QCPLayer::lmBuffered);
    test_->setLayer(QStringLiteral("pressures"));
    reference_->setLayer(QStringLiteral("pressures"));
    windows_->setLineStyle(QCPGraph::lsNone);
    test_words_ = words_in(this, axisRect(), QStringLiteral("test chamber"), 0.99, 0.03, Qt::AlignRight | Qt::AlignTop);
    reference_words_ =
        words_in(this, axisRect(), QStringLiteral("reference"), 0.99, 0.97, Qt::AlignRight | Qt::AlignBottom);
    run_words_ = words_in(this, settling_, QString(), 0.99, 0.03, Qt::AlignRight | Qt::AlignTop);
    xAxis->setTickLabels(false);
    xAxis->setRange(-shown_s, 0);
    yAxis->setLabel(QStringLiteral("Pa"));
    yAxis->setRange(-200, 200);
    run_x_->setLabel(QStringLiteral("seconds"));
    run_x_->setRange(0, bench::chamber_run_s);
    run_y_->setNumberFormat(QStringLiteral("f"));
    run_y_->setNumberPrecision(1);
    connect(&Theme::get(), &Theme::changed, this, &ChamberView::dress);
    dress();
    clear_run();
}

void ChamberView::resizeEvent(QResizeEvent* e)
{
    QCustomPlot::resizeEvent(e);
    // figures keep their distance in a low picture
    const int room = height() / Theme::get().px(64);
    yAxis->ticker()->setTickCount(std::clamp(room - 1, 1, 3));
    run_y_->ticker()->setTickCount(std::clamp(room, 2, 4));
}

void ChamberView::dress()
{
    const Theme& t = Theme::get();
    const look::Palette& c = t.palette();
    setBackground(c.sheet);
    dress_axis(xAxis, false);
    dress_axis(yAxis, true);
    dress_axis(run_x_, false);
    dress_axis(run_y_, true);
    test_->setPen(QPen(c.ink, 2));
    reference_->setPen(QPen(c.water, 1.6));
    windows_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(c.smudge, 1.2), Qt::NoBrush, 5));
    level_->setPen(QPen(c.live, 2));
    low_->setPen(Qt::NoPen);
    high_->setPen(Qt::NoPen);
    QColor shade = c.live;
    shade.setAlpha(60);
    high_->setBrush(shade);
    test_words_->setColor(c.ink);
    reference_words_->setColor(c.water);
    run_words_->setColor(c.smudge);
    for (QCPItemText* item : {test_words_, reference_words_, run_words_}) {
        item->setFont(look::font(look::Voice::text, t.px(13)));
        item->setBrush(c.sheet);
    }
    replot(QCustomPlot::rpQueuedReplot);
}

void ChamberView::show_pressures(const std::deque<chamber::Sample>& trace)
{
    QVector<double> t, a, b;
    double most = 60;
    if (!trace.empty()) {
        const double now = trace.back().t_s;
        for (const chamber::Sample& s : trace) {
            if (now - s.t_s > shown_s) continue;
            t << s.t_s - now;
            a << s.test_pa;
            b << s.reference_pa;
            most = std::max({most, std::abs(s.test_pa), std::abs(s.reference_pa)});
        }
    }
    test_->setData(t, a, true);
    reference_->setData(t, b, true);
    const double half = 50 * std::ceil(1.1 * most / 50);
    if (half > yAxis->range().upper || half < 0.6 * yAxis->range().upper) {
        yAxis->setRange(-half, half);
        replot(QCustomPlot::rpQueuedReplot);
    } else {
        layer(QStringLiteral("pressures"))->replot();
    }
}

void ChamberView::clear_run()
{
    for (QCPGraph* g : {windows_, low_, high_, level_}) g->data()->clear();
    levels_.clear();
    doubts_.clear();
    times_.clear();
    drawn_s_ = -1;
    run_words_->setText(QString());
    run_y_->setLabel(QStringLiteral("volume, L"));
    run_y_->setTickLabels(false);
    run_y_->setRange(-0.5, 0.5);
    replot(QCustomPlot::rpQueuedReplot);
}

void ChamberView::show_run(const chamber::State& state, const std::optional<chamber::Calibration>& line)
{
    if (state.now_s < drawn_s_) clear_run();
    if (!state.ratio || state.now_s == drawn_s_ || state.windows.size() < 4) return;
    drawn_s_ = state.now_s;
    const double middle = state.ratio->value, per = line ? line->b_l : -chamber::typical_chamber_l / middle;
    const auto volume = [&](double ratio) { return line ? line->volume_l(ratio) : per * (ratio - middle); };
    windows_->data()->clear();
    double low = volume(middle) - 0.3, high = volume(middle) + 0.3;
    for (const chamber::Window& w : state.windows) {
        const double v = volume(std::abs(w.ratio));
        windows_->addData(w.t_s, v);
        low = std::min(low, std::max(v, volume(middle) - 3));
        high = std::max(high, std::min(v, volume(middle) + 3));
    }
    times_.push_back(state.now_s);
    levels_.push_back(middle);
    doubts_.push_back(std::abs(per) * state.ratio->u);
    for (QCPGraph* g : {low_, high_, level_}) g->data()->clear();
    for (std::size_t i = 0; i < times_.size(); ++i) {
        const double v = volume(levels_[i]), d = std::min(2 * doubts_[i], 3.0);
        level_->addData(times_[i], v);
        low_->addData(times_[i], v - d);
        high_->addData(times_[i], v + d);
    }
    const double pad = 0.12 * (high - low);
    run_y_->setRange(low - pad, high + 1.6 * pad);
    run_y_->setTickLabels(true);
    run_y_->setLabel(line ? QStringLiteral("volume, L") : QStringLiteral("about its middle, L"));
    run_words_->setText(line && state.ratio->breath > 0
                            ? QStringLiteral("each ring two seconds; breathing ± %1 L is filtered out")
                                  .arg(std::abs(per) * state.ratio->breath, 0, 'f', 2)
                            : QStringLiteral("each ring two seconds"));
    replot(QCustomPlot::rpQueuedReplot);
}

PuffView::PuffView(QWidget* parent) : QCustomPlot(parent)
{
    setObjectName(QStringLiteral("puff_view"));
    setMinimumHeight(120);
    make_quick(this);
    airway_ = addGraph();
    chamber_ = addGraph();
    limit_ = new QCPItemLine(this);
    limit_->start->setCoords(0, chamber::airway_limit_cmh2o);
    limit_->end->setCoords(5, chamber::airway_limit_cmh2o);
    limit_words_ = new QCPItemText(this);
    limit_words_->position->setCoords(0.05, chamber::airway_limit_cmh2o);
    limit_words_->setPositionAlignment(Qt::AlignLeft | Qt::AlignBottom);
    limit_words_->setText(QStringLiteral("not above 35 cmH₂O"));
    airway_words_ = words_in(this, axisRect(), QStringLiteral("airway"), 0.99, 0.30, Qt::AlignRight | Qt::AlignTop);
    chamber_words_ = words_in(
        this, axisRect(), QStringLiteral("chamber, on the same scale"), 0.99, 0.22, Qt::AlignRight | Qt::AlignTop);
    xAxis->setRange(0, 5);
    yAxis->setRange(-5, 42);
    xAxis->setLabel(QStringLiteral("seconds since the valve shut"));
    yAxis->setLabel(QStringLiteral("cmH₂O"));
    connect(&Theme::get(), &Theme::changed, this, &PuffView::dress);
    dress();
}

void PuffView::dress()
{
    const Theme& t = Theme::get();
    const look::Palette& c = t.palette();
    setBackground(c.sheet);
    dress_axis(xAxis, false);
    dress_axis(yAxis, true);
    airway_->setPen(QPen(c.ink, 2.4));
    chamber_->setPen(QPen(c.live, 1.6));
    limit_->setPen(QPen(c.faint, 1.2, Qt::DashLine));
    limit_words_->setColor(c.smudge);
    airway_words_->setColor(c.ink);
    chamber_words_->setColor(c.live);
    for (QCPItemText* item : {limit_words_, airway_words_, chamber_words_}) {
        item->setFont(look::font(look::Voice::text, t.px(13)));
        item->setBrush(c.sheet);
    }
    replot(QCustomPlot::rpQueuedReplot);
}

void PuffView::show_puffs(const std::vector<chamber::PuffSample>& samples, const chamber::Puffs& puffs)
{
    QVector<double> t, airway, test, test_t;
    double most = 0;
    for (const chamber::PuffSample& s : samples) {
        t << s.t_s;
        airway << s.airway_pa / chamber::pa_per_cmh2o;
        most = std::max(most, airway.back());
    }
    if (puffs.slope > 0) {
        // brought to the airway's scale about its own middle
        const auto smooth = chamber::without_drive(samples);
        double mean_airway = 0, mean_test = 0;
        const double n = std::max<double>(1, static_cast<double>(smooth.size()));
        for (const chamber::PuffSample& s : smooth) {
            mean_test += s.test_pa / n;
            mean_airway += s.airway_pa / n;
        }
        for (const chamber::PuffSample& s : smooth) {
            test_t << s.t_s;
            test << (mean_airway - (s.test_pa - mean_test) / puffs.slope) / chamber::pa_per_cmh2o;
        }
    }
    airway_->setData(t, airway, true);
    chamber_->setData(test_t, test, true);
    yAxis->setRange(-5, std::max(42.0, 1.1 * most));
    replot(QCustomPlot::rpQueuedReplot);
}

} // namespace fusain::desk

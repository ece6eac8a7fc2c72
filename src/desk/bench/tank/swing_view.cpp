// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/tank/swing_view.h"

#include "desk/parts/parts.h"
#include "desk/parts/plot.h"

#include <cmath>

namespace fusain::desk {

SwingView::SwingView(QWidget* parent) : QCustomPlot(parent)
{
    setObjectName(QStringLiteral("swing"));
    setMinimumHeight(120);
    make_quick(this);
    band_low_ = addGraph();
    band_high_ = addGraph();
    trace_ = addGraph();
    above_ = addGraph();
    below_ = addGraph();
    band_high_->setChannelFillGraph(band_low_);
    window_ = new QCPItemRect(this);
    window_->topLeft->setTypeY(QCPItemPosition::ptAxisRectRatio);
    window_->bottomRight->setTypeY(QCPItemPosition::ptAxisRectRatio);
    window_words_ = new QCPItemText(this);
    window_words_->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
    window_words_->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
    reading_ = new QCPItemLine(this);
    xAxis->setLabel(QStringLiteral("seconds since letting go"));
    xAxis2->setVisible(false);
    yAxis2->setVisible(false);
    yAxis->setNumberFormat(QStringLiteral("f"));
    yAxis->setNumberPrecision(2);
    connect(&Theme::get(), &Theme::changed, this, &SwingView::dress);
    dress();
    clear();
}

void SwingView::dress()
{
    const Theme& t = Theme::get();
    const look::Palette& c = t.palette();
    setBackground(c.sheet);
    dress_axis(xAxis, false);
    dress_axis(yAxis, true);
    trace_->setPen(QPen(c.ink, 2));
    above_->setPen(QPen(c.faint, 1, Qt::DashLine));
    below_->setPen(QPen(c.faint, 1, Qt::DashLine));
    band_low_->setPen(Qt::NoPen);
    band_high_->setPen(Qt::NoPen);
    QColor shade = c.live;
    shade.setAlpha(70);
    band_high_->setBrush(shade);
    shade.setAlpha(26);
    window_->setPen(Qt::NoPen);
    window_->setBrush(shade);
    window_words_->setColor(c.live);
    window_words_->setFont(look::font(look::Voice::text, t.px(13), true));
    reading_->setPen(QPen(c.live, 2));
    replot(QCustomPlot::rpQueuedReplot);
}

void SwingView::clear()
{
    for (QCPGraph* g : {trace_, above_, below_, band_low_, band_high_}) g->data()->clear();
    window_->setVisible(false);
    window_words_->setVisible(false);
    reading_->setVisible(false);
    drawn_ = 0;
    const auto unit = mass_unit();
    yAxis->setLabel(unit.word + QStringLiteral(" under water"));
    xAxis->setRange(0, 8);
    yAxis->setRange(0, 4 * unit.per_kg);
    replot(QCustomPlot::rpQueuedReplot);
}

void SwingView::show_trace(const std::vector<swing::Sample>& trace, const swing::State& state)
{
    if (trace.size() < drawn_) clear();
    const double k = mass_unit().per_kg;
    for (; drawn_ < trace.size(); ++drawn_) trace_->addData(trace[drawn_].t_s, k * trace[drawn_].kg);
    if (trace.empty()) return;
    const double now = trace.back().t_s;
    double low = INFINITY, high = -INFINITY;
    for (std::size_t i = 0; i < trace.size(); i += 4) {
        low = std::min(low, trace[i].kg);
        high = std::max(high, trace[i].kg);
    }
    const double pad = std::max(0.05, 0.12 * (high - low));
    yAxis->setRange(k * (low - pad), k * (high + 1.8 * pad));
    xAxis->setRange(0, std::max(8.0, now + 0.5));

    for (QCPGraph* g : {above_, below_, band_low_, band_high_}) g->data()->clear();
    const bool has = state.estimate.has_value();
    if (has && state.motion) {
        for (double t = state.estimate->window_from_s; t <= now; t += 0.1) {
            const double half = state.motion->envelope_kg * std::exp((now - t) / state.motion->decay_s);
            above_->addData(t, k * (state.estimate->kg + half));
            below_->addData(t, k * (state.estimate->kg - half));
        }
    }
    const auto& shown = state.reading ? state.reading : state.estimate;
    const bool show_reading = shown && shown->u_kg < 0.1;
    window_->setVisible(show_reading);
    window_words_->setVisible(show_reading);
    reading_->setVisible(show_reading);
    if (show_reading) {
        window_->topLeft->setCoords(shown->window_from_s, 0);
        window_->bottomRight->setCoords(shown->window_to_s, 1);
        window_words_->position->setCoords(shown->window_from_s + 0.08, 0.02);
        window_words_->setText(QStringLiteral("window %1 s").arg(shown->window_to_s - shown->window_from_s, 0, 'f', 1));
        reading_->start->setCoords(shown->window_from_s, k * shown->kg);
        reading_->end->setCoords(xAxis->range().upper, k * shown->kg);
        for (double t : {shown->window_from_s, xAxis->range().upper}) {
            band_low_->addData(t, k * (shown->kg - 2 * shown->u_kg));
            band_high_->addData(t, k * (shown->kg + 2 * shown->u_kg));
        }
    }
    replot(QCustomPlot::rpQueuedReplot);
}

} // namespace fusain::desk

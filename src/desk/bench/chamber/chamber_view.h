// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/chamber/chamber_take.h"

#include <qcustomplot.h>

#include <deque>

namespace fusain::desk {

/// The chamber at work: both pressures of the last seconds above, below them the volume as it settles, window by
/// window, with its doubt as a band that narrows.
class ChamberView : public QCustomPlot {
    Q_OBJECT
public:
    explicit ChamberView(QWidget* parent = nullptr);
    void show_pressures(const std::deque<chamber::Sample>& trace);
    /// Without a calibration the windows stand for how far each is from their middle.
    void show_run(const chamber::State& state, const std::optional<chamber::Calibration>& line);
    void clear_run();

protected:
    void resizeEvent(QResizeEvent* e) override;

private:
    void dress();
    QCPAxisRect* settling_;
    QCPAxis *run_x_, *run_y_;
    QCPGraph *test_, *reference_, *windows_, *low_, *high_, *level_;
    QCPItemText *test_words_, *reference_words_, *run_words_;
    std::vector<double> levels_, doubts_, times_; ///< the estimate as it went
    double drawn_s_ = -1;
};

/// Puffs against the shut valve: the airway's pressure, and the chamber's brought to the same scale. When they lie on
/// each other the puffs are good.
class PuffView : public QCustomPlot {
    Q_OBJECT
public:
    explicit PuffView(QWidget* parent = nullptr);
    void show_puffs(const std::vector<chamber::PuffSample>& samples, const chamber::Puffs& puffs);

private:
    void dress();
    QCPGraph *airway_, *chamber_;
    QCPItemLine* limit_;
    QCPItemText *limit_words_, *airway_words_, *chamber_words_;
};

} // namespace fusain::desk

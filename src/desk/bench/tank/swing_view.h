// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/signal/swing.h"

#include <qcustomplot.h>

namespace fusain::desk {

/// The swing: the live load-cell trace, its decaying envelope, the calm window shaded, the reading as a line with its
/// doubt.
class SwingView : public QCustomPlot {
    Q_OBJECT
public:
    explicit SwingView(QWidget* parent = nullptr);
    void show_trace(const std::vector<swing::Sample>& trace, const swing::State& state);
    void clear();

private:
    void dress();
    QCPGraph *trace_, *above_, *below_, *band_low_, *band_high_;
    QCPItemRect* window_;
    QCPItemText* window_words_;
    QCPItemLine* reading_;
    std::size_t drawn_ = 0;
};

} // namespace fusain::desk

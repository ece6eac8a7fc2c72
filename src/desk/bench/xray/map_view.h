// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/likeness.h"
#include "report/xray/xray_figures.h"

#include <QWidget>

#include <optional>

namespace fusain::desk {

/// The map on paper with its strings. They are dragged, or chosen with Tab and stepped with the arrows: 1 mm, with
/// Shift 5 mm.
class MapView : public QWidget {
    Q_OBJECT
public:
    /// `detail`: not the whole body but, larger, what lies around the string that is chosen.
    explicit MapView(bool detail = false, QWidget* parent = nullptr);

    /// Nothing: an empty sheet.
    void show_scan(std::shared_ptr<const xray::Composition> scan);
    /// While rows still come; so many of them are there.
    void show_rows(const xray::Image& attenuation, double dx_mm, double dy_mm, int rows_seen);
    void clear();
    bool is_drawn() const { return !picture_.isNull(); }

    void set_lines(const xray::Lines& lines);
    const xray::Lines& lines() const { return lines_; }
    void set_ghost(std::optional<xray::Lines> last);
    void show_bands(bool on);
    bool shows_bands() const { return bands_; }
    xray::String chosen() const { return chosen_; }
    void choose(xray::String string);
    /// As by a key: the whole string, or the knot that is chosen.
    void step(double dx_mm, double dy_mm);

signals:
    void grabbed(); ///< lines are about to change: what they were can be kept
    void lines_moved();
    void chosen_changed();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    bool event(QEvent*) override;

private:
    report::MapPlace place() const;
    void redraw();
    void centre(); ///< of a detail: on the string that is chosen
    bool detail_;
    xray::Spot centre_;
    std::shared_ptr<const xray::Composition> scan_;
    QImage picture_;
    double width_mm_ = 0, height_mm_ = 0;
    int rows_seen_ = 0;
    bool growing_ = false, bands_ = false, has_lines_ = false;
    xray::Lines lines_;
    std::optional<xray::Lines> ghost_;
    xray::String chosen_ = xray::String::neck;
    int knot_ = -1;
    std::optional<QPointF> drag_from_;
};

} // namespace fusain::desk

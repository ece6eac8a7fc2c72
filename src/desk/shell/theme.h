// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/look.h"
#include "records/text.h"

#include <QLabel>
#include <QObject>

/// How the windows look, and in which units they speak. One of each for the whole program.
namespace fusain::desk {

class Theme : public QObject {
    Q_OBJECT
public:
    static Theme& get();
    const look::Palette& palette() const { return night_ ? look::night() : look::day(); }
    bool night() const { return night_; }
    int px(double size) const { return qRound(size * zoom_); } ///< size at normal text, pixels
    void set_night(bool on);
    void set_zoom(double zoom); ///< 0.8 to 1.6
    double zoom() const { return zoom_; }
    void apply();

signals:
    void changed();

private:
    bool night_ = false;
    double zoom_ = 1;
};

enum class Measure { mass, length, temperature, none };

/// Units at the edge. What is stored is metric.
class Units : public QObject {
    Q_OBJECT
public:
    static Units& get();
    bool imperial(Measure m) const { return imperial_[static_cast<int>(m)]; }
    void toggle(Measure m);
    double shown(Measure m, double metric) const;
    double stored(Measure m, double shown) const;
    QString unit(Measure m, const QString& metric_unit = {}) const;
    /// Number and unit; `decimals` as for the metric unit.
    QString text(Measure m, double metric, int decimals) const;

signals:
    void changed();

private:
    bool imperial_[4] = {};
};

/// A number for a large label: the unit in a smaller hand, never broken over lines.
QString large(const QString& number_and_unit);

/// A label in one of the voices: title, heading, text, small, number, big, huge, trouble.
QLabel* label(const char* voice, const QString& text = {}, QWidget* parent = nullptr);

} // namespace fusain::desk

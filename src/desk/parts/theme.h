// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/look.h"
#include "records/base/text.h"

#include <QLabel>
#include <QObject>

#include <optional>

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

/// A height is a length that may be written in feet and inches; a girth never is.
enum class Measure { mass, length, temperature, none, height };

/// Units at the edge. What is stored is metric. Masses: kg, lb, or stones and pounds; lengths: cm, inches, or inches
/// with heights in feet and inches.
class Units : public QObject {
    Q_OBJECT
public:
    static Units& get();
    bool imperial(Measure m) const { return way(m) != Way::metric; }
    /// Bodies in stones and pounds, heights in feet and inches.
    bool split(Measure m) const { return way(m) == Way::split; }
    void toggle(Measure m);          ///< on to the next way
    QString chosen(Measure m) const; ///< "kg", "lb", "st lb"
    /// What is chosen, as one text to be kept, and back; what is not understood is metric.
    QString words() const;
    void restore(const QString& words);
    double shown(Measure m, double metric) const;
    double stored(Measure m, double shown) const;
    QString unit(Measure m, const QString& metric_unit = {}) const;
    /// Number and unit; `decimals` as for the metric unit.
    QString text(Measure m, double metric, int decimals) const;
    /// "11 st 4.2 lb", "5 ft 7.3 in" where that is chosen and it is a body's; else empty. `decimals` of the small unit.
    QString two_units(Measure m, double metric, int decimals) const;
    /// What "11 4" or "5 7" is then; nothing: it is not two numbers.
    std::optional<double> of_two(Measure m, const QString& text) const;

signals:
    void changed();

private:
    enum class Way { metric, imperial, split };
    static std::size_t place(Measure m) { return static_cast<std::size_t>(m == Measure::height ? Measure::length : m); }
    Way way(Measure m) const { return ways_[place(m)]; }
    Way ways_[4] = {};
};

/// A number for a large label: the unit in a smaller hand, never broken over lines.
QString large(const QString& number_and_unit);

/// A label in one of the voices: title, heading, text, small, number, big, huge, trouble.
QLabel* label(const char* voice, const QString& text = {}, QWidget* parent = nullptr);

} // namespace fusain::desk

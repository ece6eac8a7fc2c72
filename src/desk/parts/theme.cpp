// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/parts/theme.h"

#include "core/base/units.h"

#include <QApplication>
#include <QPalette>

namespace fusain::desk {

Theme& Theme::get()
{
    static Theme theme;
    return theme;
}

void Theme::set_night(bool on)
{
    night_ = on;
    apply();
}

void Theme::set_zoom(double zoom)
{
    zoom_ = std::clamp(zoom, 0.8, 1.6);
    apply();
}

void Theme::apply()
{
    const look::Palette& c = palette();
    QPalette p;
    p.setColor(QPalette::Window, c.paper);
    p.setColor(QPalette::Base, c.sheet);
    p.setColor(QPalette::AlternateBase, c.paper);
    p.setColor(QPalette::Text, c.ink);
    p.setColor(QPalette::WindowText, c.ink);
    p.setColor(QPalette::Button, c.sheet);
    p.setColor(QPalette::ButtonText, c.ink);
    p.setColor(QPalette::Highlight, c.line);
    p.setColor(QPalette::HighlightedText, c.ink);
    p.setColor(QPalette::PlaceholderText, c.faint);
    QApplication::setPalette(p);
    QApplication::setFont(look::font(look::Voice::text, px(15)));

    const auto voice = [&](const char* name, const char* family, double size, int weight, const QColor& color) {
        return QStringLiteral(
            "QLabel[voice=\"%1\"] { font-family: \"%2\"; font-size: %3px; font-weight: %4; color: %5; }\n")
            .arg(QString::fromLatin1(name), QString::fromLatin1(family))
            .arg(px(size))
            .arg(weight)
            .arg(color.name());
    };
    QString s;
    s += voice("title", "Vollkorn", 28, 600, c.ink);
    s += voice("heading", "Vollkorn", 19, 600, c.ink);
    s += voice("text", "Lato", 15, 400, c.ink);
    s += voice("small", "Lato", 14, 400, c.smudge);
    s += voice("number", "B612", 15, 400, c.ink);
    s += voice("big", "B612", 40, 400, c.ink);
    s += voice("huge", "B612", 84, 400, c.ink);
    s += voice("trouble", "Lato", 15, 700, c.look_here);
    s += QStringLiteral(R"(
        QWidget#side, QWidget#rail { background: %1; }
        QFrame[line="true"] { background: %3; border: none; }
        QLineEdit, QComboBox { background: %2; color: %4; border: 1px solid %3; border-radius: 3px;
            padding: %6px %7px; font-family: Lato; font-size: %5px; selection-background-color: %3;
                selection-color: %4; }
        QLineEdit:focus, QComboBox:focus { border: 2px solid %4; }
        QLineEdit[wrong="true"] { border: 2px solid %8; }
        QComboBox::drop-down { border: none; width: %5px; }
        QComboBox QAbstractItemView { background: %2; color: %4; selection-background-color: %3;
            selection-color: %4; border: 1px solid %3; outline: none; }
        QListView, QTableView { background: %1; border: none; outline: none; color: %4; }
        QListWidget::item { padding: %6px %7px; border-left: 3px solid %1; }
        QTableView::item { padding: 3px 6px; }
        QListWidget::item:selected { background: %2; color: %4; border-left: 3px solid %4; }
        QTableView { gridline-color: transparent; font-size: %9px; }
        QHeaderView::section { background: %1; color: %10; border: none; border-bottom: 1px solid %3;
            padding: 4px 6px; text-align: left; font-size: %9px; }
        QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
        QScrollBar:vertical { background: transparent; width: 9px; }
        QScrollBar::handle:vertical { background: %3; border-radius: 4px; min-height: 30px; }
        QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background:
            none; height: 0; }
        QToolTip { background: %2; color: %4; border: 1px solid %3; }
    )")
             .arg(c.paper.name(), c.sheet.name(), c.line.name(), c.ink.name())
             .arg(px(15))
             .arg(px(6))
             .arg(px(8))
             .arg(c.look_here.name())
             .arg(px(14))
             .arg(c.smudge.name());
    qApp->setStyleSheet(s);
    emit changed();
}

Units& Units::get()
{
    static Units units;
    return units;
}

namespace {

struct UnitRow {
    Measure measure;
    const char *metric, *imperial, *split; ///< split: null, there is no third way
};
constexpr UnitRow unit_rows[] = {{Measure::mass, "kg", "lb", "st lb"}, {Measure::length, "cm", "in", "ft in"},
    {Measure::temperature, "°C", "°F", nullptr}};

const UnitRow* unit_row(Measure m)
{
    for (const UnitRow& r : unit_rows)
        if (r.measure == m || (m == Measure::height && r.measure == Measure::length)) return &r;
    return nullptr;
}

} // namespace

void Units::toggle(Measure m)
{
    Way& w = ways_[place(m)];
    const bool last = w == Way::split || (w == Way::imperial && !(unit_row(m) && unit_row(m)->split));
    w = last ? Way::metric : w == Way::metric ? Way::imperial : Way::split;
    emit changed();
}

QString Units::chosen(Measure m) const { return split(m) ? QString::fromUtf8(unit_row(m)->split) : unit(m); }

QString Units::words() const
{
    QStringList out;
    for (const UnitRow& r : unit_rows) out << chosen(r.measure);
    return out.join(',');
}

void Units::restore(const QString& words)
{
    const QStringList all = words.split(',');
    for (const UnitRow& r : unit_rows) {
        Way& w = ways_[place(r.measure)];
        w = all.contains(QString::fromUtf8(r.imperial))           ? Way::imperial
            : r.split && all.contains(QString::fromUtf8(r.split)) ? Way::split
                                                                  : Way::metric;
    }
    emit changed();
}

double Units::shown(Measure m, double metric) const
{
    if (!imperial(m)) return metric;
    return m == Measure::mass          ? units::kg_to_lb(metric)
           : m == Measure::temperature ? units::c_to_f(metric)
           : m == Measure::none        ? metric
                                       : units::cm_to_in(metric);
}

double Units::stored(Measure m, double value) const
{
    if (!imperial(m)) return value;
    return m == Measure::mass          ? units::lb_to_kg(value)
           : m == Measure::temperature ? units::f_to_c(value)
           : m == Measure::none        ? value
                                       : units::in_to_cm(value);
}

QString Units::unit(Measure m, const QString& metric_unit) const
{
    const UnitRow* r = unit_row(m);
    return r ? QString::fromUtf8(imperial(m) ? r->imperial : r->metric) : metric_unit;
}

QString Units::two_units(Measure m, double metric, int decimals) const
{
    const bool mass = m == Measure::mass;
    if (!split(m) || m == Measure::length) return {};
    const auto [large, small] = units::split(shown(m, metric), mass ? units::lb_per_st : units::in_per_ft, decimals);
    if (large < 1) return {};
    return QStringLiteral("%1 %2 %3 %4")
        .arg(large)
        .arg(mass ? QStringLiteral("st") : QStringLiteral("ft"))
        .arg(small, 0, 'f', decimals)
        .arg(unit(m));
}

std::optional<double> Units::of_two(Measure m, const QString& text) const
{
    if (!split(m) || m == Measure::length) return std::nullopt;
    const QStringList two = text.simplified().replace(',', '.').split(' ');
    if (two.size() != 2) return std::nullopt;
    const int per = m == Measure::mass ? units::lb_per_st : units::in_per_ft;
    bool whole = false, number = false;
    const int large = two[0].toInt(&whole);
    const double small = two[1].toDouble(&number);
    if (!whole || !number || large < 0 || small < 0 || small >= per) return std::nullopt;
    return stored(m, large * per + small);
}

QString Units::text(Measure m, double metric, int decimals) const
{
    const QString two = two_units(m, metric, decimals);
    return two.isEmpty() ? QString::number(shown(m, metric), 'f', decimals).replace('-', QChar(0x2212)) + ' ' + unit(m)
                         : two;
}

QLabel* label(const char* voice, const QString& text, QWidget* parent)
{
    auto* l = new QLabel(text, parent);
    l->setProperty("voice", QString::fromLatin1(voice));
    l->setWordWrap(true);
    // what people wrote is never taken for markup; only large numbers bring a small unit (`large`)
    const QByteArray which(voice);
    l->setTextFormat(which == "huge" || which == "big" ? Qt::RichText : Qt::PlainText);
    return l;
}

QString large(const QString& text)
{
    const qsizetype space = text.lastIndexOf(' ');
    return space < 0 ? text.toHtmlEscaped()
                     : QStringLiteral("%1<span style=\"font-size:%3px\">&nbsp;%2</span>")
                           .arg(text.left(space).toHtmlEscaped(), text.mid(space + 1).toHtmlEscaped())
                           .arg(Theme::get().px(34));
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/shell/theme.h"

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

void Units::toggle(Measure m)
{
    imperial_[static_cast<int>(m)] = !imperial_[static_cast<int>(m)];
    emit changed();
}

double Units::shown(Measure m, double metric) const
{
    if (!imperial(m)) return metric;
    return m == Measure::mass          ? units::kg_to_lb(metric)
           : m == Measure::length      ? units::cm_to_in(metric)
           : m == Measure::temperature ? units::c_to_f(metric)
                                       : metric;
}

double Units::stored(Measure m, double value) const
{
    if (!imperial(m)) return value;
    return m == Measure::mass          ? units::lb_to_kg(value)
           : m == Measure::length      ? units::in_to_cm(value)
           : m == Measure::temperature ? units::f_to_c(value)
                                       : value;
}

QString Units::unit(Measure m, const QString& metric_unit) const
{
    constexpr const char* metric[] = {"kg", "cm", "°C"};
    constexpr const char* other[] = {"lb", "in", "°F"};
    if (m == Measure::none) return metric_unit;
    return QString::fromUtf8((imperial(m) ? other : metric)[static_cast<int>(m)]);
}

QString Units::text(Measure m, double metric, int decimals) const
{
    return QString::number(shown(m, metric), 'f', decimals).replace('-', QChar(0x2212)) + ' ' + unit(m);
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

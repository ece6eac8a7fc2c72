// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/look.h"

#include <QPainter>

#include <cmath>

/// What every picture is drawn with.
namespace fusain::report::pen {

inline void text(QPainter& p, const QRectF& r, int flags, const QString& words, const QFont& font, const QColor& color)
{
    p.setFont(font);
    p.setPen(color);
    p.drawText(r, flags, words);
}

/// With its sign, and a minus as long as the plus.
inline QString signed_number(double value, int decimals)
{
    const QString size = QString::number(std::abs(value), 'f', decimals);
    if (size.toDouble() == 0) return size;
    return (value > 0 ? QStringLiteral("+") : QStringLiteral("−")) + size;
}

/// Round step so that about `n` steps fit.
inline double round_step(double span, int n)
{
    const double raw = span / n, power = std::pow(10, std::floor(std::log10(raw)));
    for (double m : {1.0, 2.0, 5.0, 10.0})
        if (raw <= m * power) return m * power;
    return 10 * power;
}

inline QColor faded(QColor color, int alpha)
{
    color.setAlpha(alpha);
    return color;
}

} // namespace fusain::report::pen

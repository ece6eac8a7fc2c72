// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QByteArray>

#include <algorithm>

namespace fusain::bench {

/// Bytes as only a line at another speed, parity or width gives them: under seven in ten are letters, digits or the
/// signs that frames are made of.
inline bool is_garbage(const QByteArray& bytes)
{
    const auto readable = std::count_if(bytes.begin(), bytes.end(), [](char c) {
        const auto b = static_cast<unsigned char>(c);
        return (b >= 0x20 && b < 0x7F) || b == '\r' || b == '\n' || b == '\t' || b < 8;
    });
    return readable * 10 < bytes.size() * 7;
}

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <algorithm>
#include <string>
#include <vector>

/// What stands on a sheet of paper: words and where they stand, read from a PDF's text or from a picture.
namespace fusain::printout {

/// Millimetres from the page's top left corner.
struct Box {
    double x = 0, y = 0, w = 0, h = 0;

    double right() const { return x + w; }
    double bottom() const { return y + h; }
    double middle_x() const { return x + w / 2; }
    double middle_y() const { return y + h / 2; }
};

inline Box around(const Box& a, const Box& b)
{
    const double x = std::min(a.x, b.x), y = std::min(a.y, b.y);
    return {x, y, std::max(a.right(), b.right()) - x, std::max(a.bottom(), b.bottom()) - y};
}

struct Word {
    std::string text;      ///< UTF-8
    Box box;               ///< on the page as it was straightened: rows are level
    Box on_paper;          ///< on the page as it came
    double confidence = 1; ///< 0 to 1; a PDF's own text is sure
};

struct Page {
    double width_mm = 0, height_mm = 0;
    std::vector<Word> words;
    std::size_t number = 0; ///< in the file, from 0
    bool picture = false;   ///< read from a picture: letters may be misread
};

} // namespace fusain::printout

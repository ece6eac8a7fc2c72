// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/paper/pix.h"

#include <algorithm>
#include <vector>

/// A picture of a sheet made ready for reading: only letters left, dark on white.
/// Heights `h` are those of a capital letter or a digit, in dots.
namespace fusain::bench::paper {

struct Rect {
    double x = 0, y = 0, w = 0, h = 0;
    double right() const { return x + w; }
    double bottom() const { return y + h; }
    double middle() const { return y + h / 2; }
};

inline Rect around(const Rect& a, const Rect& b)
{
    const double x = std::min(a.x, b.x), y = std::min(a.y, b.y);
    return {x, y, std::max(a.right(), b.right()) - x, std::max(a.bottom(), b.bottom()) - y};
}

inline constexpr double speck = 0.09; ///< heights: smaller is dust

/// What hangs together, of a picture of two colours.
std::vector<Rect> connected(Pix* black);
PixHeld black_of(Pix* grey);
/// The usual height of a capital or a digit; 0: there are too few. `least`: dots, smaller is dust.
double letter_height(const std::vector<Rect>& parts, double least);
/// White letters on dark become dark on white.
void turn_light(Pix* grey, double h);
/// Lines of tables and frames, and what is left of them.
void rub_lines_out(Pix* grey, double h);
/// Dots that lead from a label to its number: four and more at one distance. They go from `parts`, too.
void rub_leaders_out(Pix* grey, std::vector<Rect>& parts, double h);
/// The dot in the middle of a zero, which makes it look like an eight or a nine. It goes from `parts`, too.
void rub_dots_in_zeros_out(Pix* grey, std::vector<Rect>& parts, double h);
/// What stands close together in one row, to be read together.
std::vector<Rect> chunks(std::vector<Rect> parts, double h);

} // namespace fusain::bench::paper

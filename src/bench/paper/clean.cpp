// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/paper/clean.h"

#include <cmath>
#include <numeric>
#include <optional>

namespace fusain::bench::paper {
namespace {

constexpr int ink = 160;              ///< darker than this then
constexpr double tall = 3.6;          ///< heights: higher is a frame
constexpr double thin = 0.24;         ///< heights: by itself no letter and no digit is narrower
constexpr double gap_in_chunk = 0.95; ///< heights: what is nearer to each other is read together

void whiten(Pix* grey, const Rect& r)
{
    pixRasterop(grey, int(r.x), int(r.y), int(std::ceil(r.w)), int(std::ceil(r.h)), PIX_SET, nullptr, 0, 0);
}

} // namespace

std::vector<Rect> connected(Pix* black)
{
    const BoxesHeld boxes(pixConnCompBB(black, 8));
    std::vector<Rect> out;
    for (int i = 0; boxes && i < boxaGetCount(boxes.get()); ++i) {
        int x = 0, y = 0, w = 0, h = 0;
        boxaGetBoxGeometry(boxes.get(), i, &x, &y, &w, &h);
        out.push_back({double(x), double(y), double(w), double(h)});
    }
    return out;
}

PixHeld black_of(Pix* grey) { return PixHeld(pixThresholdToBinary(grey, ink)); }

double letter_height(const std::vector<Rect>& parts, double least)
{
    std::vector<double> heights;
    for (const Rect& r : parts)
        if (r.h >= least && r.h <= 200 && r.w < 3 * r.h && r.h < 8 * r.w + 4) heights.push_back(r.h);
    if (heights.size() < 8) return 0;
    const auto at = heights.begin() + static_cast<std::ptrdiff_t>(heights.size() * 6 / 10);
    std::nth_element(heights.begin(), at, heights.end());
    return *at;
}

void turn_light(Pix* grey, double h)
{
    const PixHeld black = black_of(grey);
    const int side = std::max(4, int(0.45 * h));
    const PixHeld solid(pixOpenBrick(nullptr, black.get(), 3 * side, side));
    for (const Rect& r : connected(solid.get())) {
        if (r.w < 2.5 * h || r.h < 0.5 * h) continue;
        const BOX box = {int(r.x), int(r.y), int(r.w), int(r.h), 1};
        const PixHeld part(pixClipRectangle(grey, const_cast<BOX*>(&box), nullptr));
        if (!part) continue;
        double mean = 0;
        const PixHeld dark = black_of(part.get());
        int count = 0;
        pixCountPixels(dark.get(), &count, nullptr);
        mean = count / (r.w * r.h);
        if (mean < 0.5) continue;
        const PixHeld light(pixInvert(nullptr, part.get()));
        pixRasterop(grey, box.x, box.y, box.w, box.h, PIX_SRC, light.get(), 0, 0);
    }
}

void rub_lines_out(Pix* grey, double h)
{
    const PixHeld black = black_of(grey);
    const int length = std::max(40, int(4 * h));
    const int high = std::max(30, int(2.6 * h)); // no letter is as high
    for (const bool across : {true, false}) {
        const PixHeld lines(pixOpenBrick(nullptr, black.get(), across ? length : 1, across ? 1 : high));
        const PixHeld thick(pixDilateBrick(nullptr, lines.get(), across ? 5 : 3, across ? 3 : 5));
        pixSetMasked(grey, thick.get(), 255);
    }
    // and what is left of them: long and thin, or going around much white
    Pixa* found = nullptr;
    const PixHeld left = black_of(grey);
    const BoxesHeld boxes(pixConnComp(left.get(), &found, 8));
    const std::unique_ptr<Pixa, LetGo> pieces(found);
    for (int i = 0; boxes && i < boxaGetCount(boxes.get()); ++i) {
        int x = 0, y = 0, w = 0, tall_px = 0, count = 0;
        boxaGetBoxGeometry(boxes.get(), i, &x, &y, &w, &tall_px);
        if (w < 1.2 * h && tall_px < 1.2 * h) continue;
        const PixHeld piece(pixaGetPix(pieces.get(), i, L_CLONE));
        pixCountPixels(piece.get(), &count, nullptr);
        const bool thin_line = (tall_px < 0.25 * h && w > 1.4 * h) || (w < 0.25 * h && tall_px > 1.4 * h);
        const bool around = w > 1.6 * h && tall_px > 1.6 * h && count < 0.16 * w * tall_px;
        if (!thin_line && !around) continue;
        const PixHeld wider(pixAddBorder(piece.get(), 2, 0)), halo(pixDilateBrick(nullptr, wider.get(), 5, 5));
        pixSetMaskedGeneral(grey, halo.get(), 255, x - 2, y - 2);
    }
}

void rub_leaders_out(Pix* grey, std::vector<Rect>& parts, double h)
{
    std::vector<std::size_t> dots;
    for (std::size_t i = 0; i < parts.size(); ++i)
        if (parts[i].w < 0.36 * h && parts[i].h < 0.36 * h && parts[i].w > 0.03 * h) dots.push_back(i);
    std::sort(dots.begin(), dots.end(), [&](auto a, auto b) { return parts[a].x < parts[b].x; });
    std::vector<bool> gone(parts.size()), used(parts.size());
    for (std::size_t first : dots) {
        if (used[first]) continue;
        std::vector<std::size_t> run = {first};
        double pitch = 0;
        for (;;) {
            std::optional<std::size_t> next;
            const Rect& last = parts[run.back()];
            for (std::size_t d : dots) {
                const double step = parts[d].x - last.x;
                if (step <= 0.1 * h || std::abs(parts[d].middle() - last.middle()) > 0.14 * h) continue;
                if (pitch > 0 ? std::abs(step - pitch) > 0.28 * pitch : step > 1.3 * h) continue;
                if (!next || parts[d].x < parts[*next].x) next = d;
            }
            if (!next) break;
            if (pitch == 0) pitch = parts[*next].x - last.x;
            run.push_back(*next);
        }
        if (run.size() < 4) continue;
        for (std::size_t d : run) gone[d] = used[d] = true;
    }
    std::vector<Rect> left;
    for (std::size_t i = 0; i < parts.size(); ++i)
        if (gone[i])
            whiten(grey, {parts[i].x - 3, parts[i].y - 3, parts[i].w + 6, parts[i].h + 6});
        else
            left.push_back(parts[i]);
    parts = std::move(left);
}

void rub_dots_in_zeros_out(Pix* grey, std::vector<Rect>& parts, double h)
{
    std::sort(parts.begin(), parts.end(), [](const Rect& a, const Rect& b) { return a.x < b.x; });
    std::vector<Rect> left;
    for (const Rect& dot : parts) {
        const auto from = std::lower_bound(
            parts.begin(), parts.end(), dot.x - 1.2 * h, [](const Rect& r, double x) { return r.x < x; });
        const bool in_a_zero = dot.h < 0.7 * h && std::any_of(from, parts.end(), [&](const Rect& zero) {
            const double middle_x = zero.x + zero.w / 2, x = dot.x + dot.w / 2;
            return zero.x < dot.x && zero.right() > dot.right() && zero.h > 0.6 * h && zero.h < 1.8 * h &&
                   zero.w < 1.2 * zero.h && dot.h < 0.5 * zero.h && dot.w < 0.5 * zero.w &&
                   std::abs(middle_x - x) < 0.15 * zero.w && std::abs(zero.middle() - dot.middle()) < 0.15 * zero.h;
        });
        if (in_a_zero)
            whiten(grey, {dot.x - 1, dot.y - 1, dot.w + 2, dot.h + 2});
        else
            left.push_back(dot);
    }
    parts = std::move(left);
}

std::vector<Rect> chunks(std::vector<Rect> parts, double h)
{
    std::erase_if(
        parts, [&](const Rect& r) { return (r.w < speck * h && r.h < speck * h) || r.h > tall * h || r.w > 14 * h; });
    std::sort(parts.begin(), parts.end(), [](const Rect& a, const Rect& b) { return a.x < b.x; });
    std::vector<std::size_t> root(parts.size());
    std::iota(root.begin(), root.end(), std::size_t{0});
    const auto find = [&](std::size_t i) {
        while (root[i] != i) i = root[i] = root[root[i]];
        return i;
    };
    for (std::size_t a = 0; a < parts.size(); ++a)
        for (std::size_t b = a + 1; b < parts.size() && parts[b].x < parts[a].right() + 4 * h; ++b) {
            const Rect &p = parts[a], &q = parts[b];
            const double high = std::max(p.h, q.h), low = std::min(p.h, q.h);
            const double over = std::min(p.bottom(), q.bottom()) - std::max(p.y, q.y);
            const bool sign = low < 0.6 * high; // dots, commas, dashes, degrees
            const bool level = sign ? over > -0.3 * high : over > 0.5 * low && low > 0.3 * high;
            const double near = gap_in_chunk * (sign ? std::max(h, high) : std::max(h * 0.9, std::min(high, 2 * low)));
            if (level && q.x - p.right() < near) root[find(a)] = find(b);
        }
    std::vector<Rect> out;
    std::vector<std::ptrdiff_t> at(parts.size(), -1);
    std::vector<double> highest;
    for (std::size_t i = 0; i < parts.size(); ++i) {
        auto& k = at[find(i)];
        if (k < 0) {
            k = static_cast<std::ptrdiff_t>(out.size());
            out.push_back(parts[i]);
            highest.push_back(parts[i].h);
        } else {
            out[std::size_t(k)] = around(out[std::size_t(k)], parts[i]);
            highest[std::size_t(k)] = std::max(highest[std::size_t(k)], parts[i].h);
        }
    }
    std::vector<Rect> kept;
    for (std::size_t i = 0; i < out.size(); ++i)
        if (highest[i] > 0.3 * h && out[i].w > thin * h && !(out[i].w < 0.3 * h && out[i].h > 1.35 * h))
            kept.push_back(out[i]); // no dust, leaders, pieces of frames
    const std::vector<Rect> all = kept;
    std::erase_if(kept, [&](const Rect& r) { // dust that lies across words
        return std::any_of(all.begin(), all.end(), [&](const Rect& o) {
            const double w = std::min(r.right(), o.right()) - std::max(r.x, o.x),
                         hh = std::min(r.bottom(), o.bottom()) - std::max(r.y, o.y);
            return o.w * o.h > r.w * r.h && w > 0 && hh > 0 && w * hh > 0.3 * r.w * r.h;
        });
    });
    return kept;
}

} // namespace fusain::bench::paper

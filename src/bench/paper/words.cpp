// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/paper/eye.h"
#include "bench/paper/paper.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <tuple>

namespace fusain::bench::paper {
namespace {

using printout::Page;
using printout::Word;

constexpr double wanted_height = 32;           ///< what the reader knows letters by best
constexpr double most_turn_deg = 20;           ///< of a sheet that lies askew
constexpr int whitest = 190;                   ///< of the evened picture, the ground of which is 200: made 255
constexpr int black_ink = 30, faint_ink = 140; ///< what is made 0 lies between them: its darkest dots
constexpr double second_look = 0.72;           ///< the scale at which numbers are read again
constexpr double unlike = 0.35;                ///< how sure a number is whose two readings differ
constexpr double closer = 0.9;                 ///< how much is thought of a number that was read alone
constexpr double poor = 0.62;                  ///< so unsure on average: the sheet may lie on its side

/// Of a number only what makes its value: no unit that is glued to it.
std::string digits_of(const std::string& s)
{
    std::string out;
    for (char c : s)
        if ((c >= '0' && c <= '9') || c == '.' || c == ',' || c == '-' || c == ':') out += c;
    while (!out.empty() && (out.back() == '.' || out.back() == ',' || out.back() == '-')) out.pop_back();
    return out;
}

bool has_digit(const std::string& s) { return s.find_first_of("0123456789") != std::string::npos; }

bool alike(const std::string& a, const std::string& b)
{
    return has_digit(a) && has_digit(b) ? digits_of(a) == digits_of(b) : a == b;
}

template <class Words>
double mean_confidence(const Words& words)
{
    double sum = 0, n = 0;
    for (const auto& w : words) {
        const auto size = static_cast<double>(w.text.size());
        sum += w.confidence * size;
        n += size;
    }
    return n > 0 ? sum / n : 0;
}

std::string without_spaces(const std::vector<Read>& words)
{
    std::string out;
    for (const Read& w : words) out += w.text;
    return out;
}

/// "cells...11,8" are two words: dots that were left of a leader.
void apart(Word word, std::vector<Word>& out)
{
    const std::string text = word.text;
    const double step = 1 / static_cast<double>(std::max<std::size_t>(1, text.size()));
    std::size_t from = 0;
    const auto put = [&](std::size_t to) {
        if (to <= from) return;
        Word part = word;
        part.text = text.substr(from, to - from);
        for (printout::Box* b : {&part.box, &part.on_paper}) {
            b->x += b->w * step * static_cast<double>(from);
            b->w *= step * static_cast<double>(to - from);
        }
        out.push_back(std::move(part));
    };
    for (std::size_t i = 0; i < text.size();) {
        std::size_t end = i;
        while (end < text.size() && text[end] == '.') ++end;
        if (end - i >= 2) {
            put(i);
            from = end;
        }
        i = std::max(end, i + 1);
    }
    put(text.size());
}

/// The grey of the darkest two hundredth of an evened picture.
int darkest(Pix* grey)
{
    const Grey g = to_grey(grey);
    std::array<std::size_t, 256> count{};
    for (unsigned char c : g.pixels) ++count[c];
    std::size_t sum = 0;
    for (int c = 0; c < 256; ++c)
        if ((sum += count[std::size_t(c)]) * 200 > g.pixels.size()) return std::clamp(c, black_ink, faint_ink);
    return black_ink;
}

/// By how much the rows lie askew, in radian; 0: not at all, or nobody knows.
double askew(Pix* grey, double range_deg)
{
    const PixHeld black = black_of(grey);
    float angle = 0, sure = 0;
    const int smaller = std::max(pixGetWidth(grey), pixGetHeight(grey)) > 1800 ? 4 : 2;
    const bool found =
        pixFindSkewSweepAndSearch(black.get(), &angle, &sure, smaller, smaller / 2, float(range_deg), 1, 0.01f) == 0;
    return found && sure > 1.6f ? angle * std::numbers::pi / 180 : 0;
}

PixHeld turned(Pix* grey, double by)
{
    return PixHeld(pixRotate(grey, float(by), L_ROTATE_AREA_MAP, L_BRING_IN_WHITE, 0, 0));
}

/// A page that is being read: turned by quarters, straightened, evened, enlarged.
class Straight {
public:
    Straight(const Grey& grey, int quarters) : quarters_(quarters), mm_per_px_(grey.mm_per_px)
    {
        PixHeld pix = to_pix(grey);
        if (!pix) return;
        width_ = grey.width;
        height_ = grey.height;
        if (quarters) pix.reset(pixRotateOrth(pix.get(), quarters));
        if (PixHeld level(pixBackgroundNormSimple(pix.get(), nullptr, nullptr)); level) pix = std::move(level);
        pixGammaTRC(pix.get(), pix.get(), 1, darkest(pix.get()), whitest);
        const PixHeld even(pixClone(pix.get()));
        for (int again = 0; again < 3 && pix; ++again) { // a sheet that is far askew is found in steps
            const double more = askew(pix.get(), again == 0 ? most_turn_deg : 2);
            if (std::abs(more) < 5e-4) break;
            turn_ += more;
            pix = turned(even.get(), turn_);
        }
        if (!pix) return;
        centre_x_ = pixGetWidth(pix.get()) / 2.0;
        centre_y_ = pixGetHeight(pix.get()) / 2.0;
        const double h = letter_height(connected(black_of(pix.get()).get()), 6);
        if (h <= 0) return;
        scale_ = std::clamp(wanted_height / h, 0.4, 4.0);
        if (std::abs(scale_ - 1) < 0.15) scale_ = 1;
        if (scale_ != 1) pix.reset(pixScale(pix.get(), float(scale_), float(scale_)));
        if (!pix) return;
        letter_ = h * scale_;
        turn_light(pix.get(), letter_);
        rub_lines_out(pix.get(), letter_);
        std::vector<Rect> parts = connected(black_of(pix.get()).get());
        rub_leaders_out(pix.get(), parts, letter_);
        rub_dots_in_zeros_out(pix.get(), parts, letter_);
        chunks_ = chunks(std::move(parts), letter_);
        std::sort(chunks_.begin(), chunks_.end(), [](const Rect& a, const Rect& b) { return a.y < b.y; });
        pix_ = std::move(pix);
    }

    const std::vector<Rect>& parts() const { return chunks_; }

    std::vector<Word> read(const Rect& chunk, bool twice = true) const
    {
        const int margin = int(0.25 * letter_);
        BOX box = {
            int(chunk.x) - margin, int(chunk.y) - margin, int(chunk.w) + 2 * margin, int(chunk.h) + 2 * margin, 1};
        box.x = std::max(0, box.x);
        box.y = std::max(0, box.y);
        const PixHeld cut(pixClipRectangle(pix_.get(), &box, nullptr));
        if (!cut) return {};
        constexpr int border = 12;
        const PixHeld framed(pixAddBorder(cut.get(), border, 255));
        std::vector<Read> words = line_of(framed.get());
        if (twice && (has_digit(without_spaces(words)) || mean_confidence(words) < poor)) {
            const PixHeld smaller(pixScale(framed.get(), float(second_look), float(second_look)));
            std::vector<Read> again = line_of(smaller.get());
            for (Read& r : again)
                r.box = {r.box.x / second_look, r.box.y / second_look, r.box.w / second_look, r.box.h / second_look};
            if (mean_confidence(again) > mean_confidence(words) + 0.05) std::swap(words, again);
            compare(words, again);
            for (Read& w : words)
                if (has_digit(w.text) && w.confidence < printout::sure_enough) {
                    part_unit(framed.get(), w);
                    look_closer(framed.get(), w);
                }
        }
        std::vector<Word> out;
        for (const Read& w : words) {
            const Rect at = {(w.box.x - border + box.x) / scale_, (w.box.y - border + box.y) / scale_, w.box.w / scale_,
                w.box.h / scale_};
            Word word;
            word.text = w.text;
            word.confidence = w.confidence;
            word.box = {at.x * mm_per_px_, at.y * mm_per_px_, at.w * mm_per_px_, at.h * mm_per_px_};
            word.on_paper = as_it_came(at);
            apart(std::move(word), out);
        }
        return out;
    }

private:
    /// A word with a digit that the other look does not find is not sure; what both find is as sure as the better one.
    static void compare(std::vector<Read>& words, const std::vector<Read>& again)
    {
        for (Read& w : words) {
            const auto same = std::find_if(again.begin(), again.end(), [&](const Read& a) {
                return alike(a.text, w.text) && std::abs(a.box.x - w.box.x) < 0.5 * w.box.w + 12;
            });
            if (same != again.end())
                w.confidence = std::max(w.confidence, same->confidence);
            else if (has_digit(w.text))
                w.confidence = std::min(w.confidence, unlike);
        }
    }

    /// What stands between two columns of a chunk, by itself.
    std::vector<Read> alone_between(Pix* chunk, double from, double to, double scale = 1) const
    {
        const int margin = int(0.12 * letter_);
        const int x = std::max(0, int(from) - margin);
        BOX box = {x, 0, int(to) + margin - x, pixGetHeight(chunk), 1};
        const PixHeld cut(pixClipRectangle(chunk, &box, nullptr));
        if (!cut || pixGetWidth(cut.get()) < 6) return {};
        PixHeld framed(pixAddBorder(cut.get(), 12, 255));
        if (scale != 1) framed.reset(pixScale(framed.get(), float(scale), float(scale)));
        return line_of(framed.get());
    }

    /// A number with which its unit was read as one word ("33,71" for "33,7 L"): the widest gap in it parts them.
    void part_unit(Pix* chunk, Read& w) const
    {
        const PixHeld black = black_of(chunk);
        BOX box = {int(w.box.x), 0, int(w.box.w), pixGetHeight(chunk), 1};
        const PixHeld cut(pixClipRectangle(black.get(), &box, nullptr));
        std::vector<Rect> signs = cut ? connected(cut.get()) : std::vector<Rect>();
        std::erase_if(signs, [&](const Rect& r) { return r.w < speck * letter_ && r.h < speck * letter_; });
        std::sort(signs.begin(), signs.end(), [](const Rect& a, const Rect& b) { return a.x < b.x; });
        double widest = 0, second = 0, at = 0, right = 0;
        for (std::size_t i = 0; i < signs.size(); ++i) {
            if (const double gap = signs[i].x - right; i > 0 && gap > widest) {
                second = widest;
                widest = gap;
                at = right;
            } else if (i > 0) {
                second = std::max(second, gap);
            }
            right = std::max(right, signs[i].right());
        }
        if (widest < 0.28 * letter_ || widest < 1.35 * second) return;
        const std::vector<Read> one = alone_between(chunk, w.box.x, w.box.x + at),
                                again = alone_between(chunk, w.box.x, w.box.x + at, second_look);
        if (one.size() != 1 || again.size() != 1 || one[0].text != again[0].text || !w.text.starts_with(one[0].text))
            return;
        const std::string left = w.text.substr(one[0].text.size());
        if (left.empty() || left.size() > 2 || digits_of(one[0].text) != one[0].text) return;
        if (has_digit(left) && one[0].text.find_first_of(".,") == std::string::npos) return;
        w.text = one[0].text;
        w.confidence = std::max(one[0].confidence, again[0].confidence);
        w.box.w = at;
    }

    /// The number alone, without what stands beside it.
    void look_closer(Pix* chunk, Read& w) const
    {
        const std::vector<Read> alone = alone_between(chunk, w.box.x, w.box.right());
        if (alone.size() == 1 && alike(alone[0].text, w.text))
            w.confidence = std::max(w.confidence, closer * alone[0].confidence);
    }

    printout::Box as_it_came(const Rect& r) const
    {
        const double c = std::cos(-turn_), s = std::sin(-turn_);
        double x0 = 1e9, y0 = 1e9, x1 = -1e9, y1 = -1e9;
        for (const auto& [x, y] : {std::pair(r.x, r.y), {r.right(), r.y}, {r.x, r.bottom()}, {r.right(), r.bottom()}}) {
            const double dx = x - centre_x_, dy = y - centre_y_;
            double px = centre_x_ + c * dx - s * dy, py = centre_y_ + s * dx + c * dy;
            switch (quarters_) { // back to how it lay
            case 1: std::tie(px, py) = std::pair(py, height_ - px); break;
            case 2: std::tie(px, py) = std::pair(width_ - px, height_ - py); break;
            case 3: std::tie(px, py) = std::pair(width_ - py, px); break;
            default: break;
            }
            x0 = std::min(x0, px);
            y0 = std::min(y0, py);
            x1 = std::max(x1, px);
            y1 = std::max(y1, py);
        }
        return {x0 * mm_per_px_, y0 * mm_per_px_, (x1 - x0) * mm_per_px_, (y1 - y0) * mm_per_px_};
    }

    int quarters_ = 0, width_ = 0, height_ = 0;
    double mm_per_px_ = 1, turn_ = 0, centre_x_ = 0, centre_y_ = 0, scale_ = 1, letter_ = 0;
    PixHeld pix_;
    std::vector<Rect> chunks_;
};

/// How sure the longest chunks are read when the sheet is turned so.
double sample(const Straight& page)
{
    std::vector<Rect> longest = page.parts();
    std::sort(longest.begin(), longest.end(), [](const Rect& a, const Rect& b) { return a.w > b.w; });
    if (longest.size() > 6) longest.resize(6);
    std::vector<Word> words;
    for (const Rect& r : longest)
        for (Word& w : page.read(r, false)) words.push_back(std::move(w));
    return words.size() < 3 ? 0 : mean_confidence(words);
}

} // namespace

bool can_read_pictures() { return eye_is_ready(); }

Page words_of(const Grey& grey, const Progress& progress)
{
    quiet_libraries();
    Page out;
    out.picture = true;
    out.width_mm = grey.width * grey.mm_per_px;
    out.height_mm = grey.height * grey.mm_per_px;
    if (!eye_is_ready() || grey.width < 8 || grey.height < 8) return out;
    bool stopped = false;
    const auto read = [&](const Straight& page, double from) {
        std::vector<Word> words;
        double done = 0;
        for (const Rect& chunk : page.parts()) {
            const double part = done++ / static_cast<double>(page.parts().size());
            if ((stopped = stopped || !progress(from + (1 - from) * part))) break;
            for (Word& w : page.read(chunk)) words.push_back(std::move(w));
        }
        return words;
    };
    auto page = std::make_unique<Straight>(grey, 0);
    if (double best = sample(*page); best < poor)
        for (int quarters : {2, 1, 3}) { // it may lie on its side
            auto turned_page = std::make_unique<Straight>(grey, quarters);
            const double sure = sample(*turned_page);
            if (sure < best + 0.1) continue;
            best = sure;
            page = std::move(turned_page);
        }
    out.words = read(*page, 0.1);
    if (stopped) out.words.clear();
    return out;
}

} // namespace fusain::bench::paper

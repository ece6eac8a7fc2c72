// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/paper/paper.h"
#include "bench/paper/pix.h"

#include <omp.h>
#include <tesseract/baseapi.h>
#include <tesseract/resultiterator.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>
#include <optional>
#include <tuple>

namespace fusain::bench::paper {
namespace {

using printout::Page;
using printout::Word;

// Heights are those of a capital letter or a digit, in dots of the evened picture.
constexpr double wanted_height = 32;   ///< what the reader knows letters by best
constexpr double most_turn_deg = 8;    ///< of a sheet that lies askew
constexpr int blackest = 30, whitest = 190; ///< of the evened picture, the ground of which is 200: made 0 and 255
constexpr int ink = 160;               ///< darker than this then
constexpr double speck = 0.09;         ///< heights: smaller is dust
constexpr double tall = 3.6;           ///< heights: higher is a frame
constexpr double gap_in_chunk = 0.95;  ///< heights: what is nearer to each other is read together
constexpr double second_look = 0.72;   ///< the scale at which numbers are read again
constexpr double unlike = 0.35;        ///< how sure a number is whose two readings differ
constexpr double closer = 0.9;         ///< how much is thought of a number that was read alone
constexpr double poor = 0.62;          ///< so unsure on average: the sheet may lie on its side

struct Rect {
    double x = 0, y = 0, w = 0, h = 0;
    double right() const { return x + w; }
    double bottom() const { return y + h; }
    double middle() const { return y + h / 2; }
};

Rect around(const Rect& a, const Rect& b)
{
    const double x = std::min(a.x, b.x), y = std::min(a.y, b.y);
    return {x, y, std::max(a.right(), b.right()) - x, std::max(a.bottom(), b.bottom()) - y};
}

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

/// The usual height of a capital or a digit: the upper half of what is higher than wide and no dust.
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

void whiten(Pix* grey, const Rect& r)
{
    pixRasterop(grey, int(r.x), int(r.y), int(std::ceil(r.w)), int(std::ceil(r.h)), PIX_SET, nullptr, 0, 0);
}

/// White letters on dark become dark on white.
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

/// Lines of tables and frames.
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
}

/// Dots that lead from a label to its number: four and more at one distance.
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

/// What stands close together in one row, to be read together.
std::vector<Rect> chunks(std::vector<Rect> parts, double h)
{
    std::erase_if(parts, [&](const Rect& r) {
        return (r.w < speck * h && r.h < speck * h) || r.h > tall * h || r.w > 14 * h;
    });
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
            const bool sign = low < 0.45 * high; // dots, commas, dashes, degrees
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
        if (highest[i] > 0.3 * h && !(out[i].w < 0.3 * h && out[i].h > 1.35 * h)) // no dust, leaders, pieces of frames
            kept.push_back(out[i]);
    return kept;
}

struct Read {
    std::string text;
    Rect box;
    double confidence = 0;
};

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

/// "75-9": a point that was taken for a dash.
bool dash_for_a_point(const std::string& s)
{
    const std::size_t at = s.find('-');
    return at != std::string::npos && at > 0 && at + 1 < s.size() && at < 5 && s.size() - at <= 4 &&
           s.find_first_not_of("0123456789-") == std::string::npos;
}

class Eye {
public:
    Eye()
    {
        omp_set_max_active_levels(0); // four threads for one line of letters wait for each other more than they work
        const std::vector<std::string> names = {"load_system_dawg", "load_freq_dawg", "invert_threshold",
            "tessedit_do_invert"};
        const std::vector<std::string> values = {"0", "0", "0", "0"};
        ready_ = api_.Init(nullptr, "eng", tesseract::OEM_LSTM_ONLY, nullptr, 0, &names, &values, false) == 0;
        api_.SetVariable("user_defined_dpi", "300");
    }
    bool ready() const { return ready_; }

    /// One line of words; boxes in dots of the picture that was given.
    std::vector<Read> line(Pix* grey, bool digits_only = false)
    {
        std::vector<Read> out;
        api_.SetVariable("tessedit_char_whitelist", digits_only ? "0123456789.," : "");
        api_.SetPageSegMode(tesseract::PSM_SINGLE_LINE);
        api_.SetImage(grey);
        if (api_.Recognize(nullptr) != 0) return out;
        const std::unique_ptr<tesseract::ResultIterator> it(api_.GetIterator());
        if (it) do {
                const std::unique_ptr<char[]> text(it->GetUTF8Text(tesseract::RIL_WORD));
                int x = 0, y = 0, right = 0, bottom = 0;
                if (!text || !*text.get() || !it->BoundingBox(tesseract::RIL_WORD, &x, &y, &right, &bottom)) continue;
                out.push_back({text.get(), {double(x), double(y), double(right - x), double(bottom - y)},
                    std::clamp(it->Confidence(tesseract::RIL_WORD) / 100.0, 0.0, 1.0)});
            } while (it->Next(tesseract::RIL_WORD));
        api_.Clear();
        return out;
    }

private:
    tesseract::TessBaseAPI api_;
    bool ready_ = false;
};

/// Made once a thread: it takes a tenth of a second.
Eye& eye()
{
    thread_local Eye one;
    return one;
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
        // too fine a picture only takes time
        if (PixHeld even(pixBackgroundNormSimple(pix.get(), nullptr, nullptr)); even) pix = std::move(even);
        pixGammaTRC(pix.get(), pix.get(), 1, blackest, whitest);
        const PixHeld black = black_of(pix.get());
        float angle = 0, sure = 0;
        const int smaller = std::max(pixGetWidth(pix.get()), pixGetHeight(pix.get())) > 1800 ? 4 : 2;
        if (pixFindSkewSweepAndSearch(black.get(), &angle, &sure, smaller, smaller / 2, float(most_turn_deg), 1.0f, 0.01f) == 0 &&
            sure > 1.6f && std::abs(angle) > 0.03f) {
            turn_ = angle * std::numbers::pi / 180;
            pix.reset(pixRotate(pix.get(), float(turn_), L_ROTATE_AREA_MAP, L_BRING_IN_WHITE, 0, 0));
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
        if (getenv("DUMP")) pixWrite("/tmp/o/dump.png", pix.get(), IFF_PNG);
        chunks_ = chunks(std::move(parts), letter_);
        std::sort(chunks_.begin(), chunks_.end(), [](const Rect& a, const Rect& b) { return a.y < b.y; });
        pix_ = std::move(pix);
    }

    const std::vector<Rect>& parts() const { return chunks_; }

    std::vector<Word> read(const Rect& chunk, bool twice = true) const
    {
        const int margin = int(0.25 * letter_);
        BOX box = {int(chunk.x) - margin, int(chunk.y) - margin, int(chunk.w) + 2 * margin, int(chunk.h) + 2 * margin, 1};
        box.x = std::max(0, box.x);
        box.y = std::max(0, box.y);
        const PixHeld cut(pixClipRectangle(pix_.get(), &box, nullptr));
        if (!cut) return {};
        constexpr int border = 12;
        const PixHeld framed(pixAddBorder(cut.get(), border, 255));
        std::vector<Read> words = eye().line(framed.get());
        if (twice && (has_digit(without_spaces(words)) || mean_confidence(words) < poor)) {
            const PixHeld smaller(pixScale(framed.get(), float(second_look), float(second_look)));
            std::vector<Read> again = eye().line(smaller.get());
            for (Read& r : again)
                r.box = {r.box.x / second_look, r.box.y / second_look, r.box.w / second_look, r.box.h / second_look};
            if (mean_confidence(again) > mean_confidence(words) + 0.05) std::swap(words, again);
            compare(words, again);
            for (Read& w : words)
                if (has_digit(w.text) && (w.confidence < printout::sure_enough || dash_for_a_point(w.text)))
                    look_closer(framed.get(), w);
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

    /// The number alone, without what stands beside it.
    void look_closer(Pix* chunk, Read& w) const
    {
        const int margin = int(0.12 * letter_);
        const int x = std::max(0, int(w.box.x) - margin);
        BOX box = {x, 0, int(w.box.right()) + margin - x, pixGetHeight(chunk), 1};
        const PixHeld cut(pixClipRectangle(chunk, &box, nullptr));
        if (!cut) return;
        const PixHeld framed(pixAddBorder(cut.get(), 12, 255));
        const bool dash = dash_for_a_point(w.text);
        const std::vector<Read> alone = eye().line(framed.get(), dash);
        if (dash && alone.size() == 1) {
            std::string with_dash = alone[0].text;
            std::replace_if(with_dash.begin(), with_dash.end(), [](char c) { return c == '.' || c == ','; }, '-');
            if (with_dash == w.text) {
                w.text = alone[0].text;
                w.confidence = closer * std::max(w.confidence, alone[0].confidence);
            }
            return;
        }
        if (alone.size() == 1 && alike(alone[0].text, w.text)) w.confidence = std::max(w.confidence, closer * alone[0].confidence);
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
    if (longest.size() > 12) longest.resize(12);
    std::vector<Word> words;
    for (const Rect& r : longest)
        for (Word& w : page.read(r, false)) words.push_back(std::move(w));
    return words.size() < 4 ? 0 : mean_confidence(words);
}

} // namespace

Page words_of(const Grey& grey, const Progress& progress)
{
    quiet_libraries();
    Page out;
    out.picture = true;
    out.width_mm = grey.width * grey.mm_per_px;
    out.height_mm = grey.height * grey.mm_per_px;
    if (!eye().ready() || grey.width < 8 || grey.height < 8) return out;
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
    out.words = read(Straight(grey, 0), 0);
    if (double best = mean_confidence(out.words); !stopped && best < poor)
        for (int quarters : {2, 1, 3}) { // it may lie on its side
            const Straight turned(grey, quarters);
            const double sure = sample(turned);
            if (stopped || sure < best + 0.1) continue;
            out.words = read(turned, 0.5);
            best = mean_confidence(out.words);
        }
    if (stopped) out.words.clear();
    return out;
}

} // namespace fusain::bench::paper

// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/find.h"

#include "core/printout/read.h"
#include "core/printout/text.h"
#include "core/printout/unit.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace fusain::printout {
namespace {

constexpr std::size_t none = std::numeric_limits<std::size_t>::max(), longest_label = 10;
constexpr double apart = 1.2;     ///< heights of a word: a gap from there on separates
constexpr double indent = 8;      ///< heights: how far a section's rows may stand in from its heading
constexpr double beside_by = 2.5; ///< heights: how far off to the side of its label a number under it may stand
constexpr double below_by = 4;    ///< heights: how far under its label a number may stand

double overlap(double a0, double a1, double b0, double b1) { return std::min(a1, b1) - std::max(a0, b0); }
double gap(double a0, double a1, double b0, double b1) { return std::max(0.0, -overlap(a0, a1, b0, b1)); }
double gap_x(const Box& a, const Box& b) { return gap(a.x, a.right(), b.x, b.right()); }

bool has_digit(const std::string& s)
{
    return std::any_of(s.begin(), s.end(), [](char c) { return c >= '0' && c <= '9'; });
}

/// A word of a sentence or of a longer label: no number, unit, sign.
bool is_word(const std::string& text, const Marks& marks)
{
    const auto items = items_of({text}, {}, marks);
    return items.size() == 1 && items[0].kind == Item::Kind::word && !has_digit(text);
}

int allowed_misreadings(std::size_t length) { return length < 3 ? 0 : length < 8 ? 1 : 2; }

} // namespace

Sheet::Sheet(const std::vector<Page>& pages, const Layout& layout)
    : pages_(pages), layout_(layout), marks_{layout.decimal, layout.thousands}
{
    for (const Page& p : pages) {
        std::vector<double> heights;
        for (const Word& w : p.words) heights.push_back(w.box.h);
        std::sort(heights.begin(), heights.end());
        height_.push_back(heights.empty() ? 3 : heights[heights.size() / 2]);
        std::vector<std::size_t> next(p.words.size(), none), previous(p.words.size(), none);
        for (std::size_t a = 0; a < p.words.size(); ++a)
            for (std::size_t b = 0; b < p.words.size(); ++b) {
                if (a == b || !same_row(p.words[a].box, p.words[b].box)) continue;
                if (p.words[b].box.middle_x() <= p.words[a].box.middle_x()) continue;
                if (next[a] == none || p.words[b].box.x < p.words[next[a]].box.x) next[a] = b;
                if (previous[b] == none || p.words[a].box.right() > p.words[previous[b]].box.right()) previous[b] = a;
            }
        next_.push_back(std::move(next));
        previous_.push_back(std::move(previous));
    }
    const auto add = [&](const std::string& label) {
        const std::string s = squashed(label);
        if (!s.empty() && std::find(labels_.begin(), labels_.end(), s) == labels_.end()) labels_.push_back(s);
    };
    for (const Field& f : layout.fields) {
        add(f.label);
        add(f.under);
    }
    const ClientLabels& c = layout.client;
    for (const std::string* l : {&c.number, &c.at, &c.height_cm, &c.age_y, &c.sex}) add(*l);
    for (const std::string& h : layout.headings) add(h);
    for (const Page& p : pages) begins_.emplace_back(p.words.size(), false);
    for (const std::string& l : labels_)
        for (const Place& p : find(l)) begins_[p.page][p.words.front()] = true;
    std::vector<std::string> headings;
    const auto head = [&](const std::string& text) {
        const std::string s = squashed(text);
        if (!s.empty() && std::find(headings.begin(), headings.end(), s) == headings.end()) headings.push_back(s);
    };
    for (const Field& f : layout.fields) head(f.under);
    for (const std::string& h : layout.headings) head(h);
    for (const std::string& h : headings)
        for (const Place& p : find(h)) headings_.push_back({h, p});
    for (Heading& h : headings_) {
        const Page& p = pages[h.place.page];
        for (std::size_t w = 0; w < p.words.size() && !h.has_rows; ++w)
            h.has_rows =
                begins_[h.place.page][w] && p.words[w].box.middle_y() > h.place.box.bottom() && over(h, p.words[w].box);
    }
}

bool Sheet::over(const Heading& h, const Box& label) const
{
    const Box& b = h.place.box;
    return gap_x(b, label) <= 0 || (std::abs(b.x - label.x) <= indent * height_[h.place.page] && b.x <= label.right());
}

bool Sheet::same_row(const Box& a, const Box& b) const
{
    return overlap(a.y, a.bottom(), b.y, b.bottom()) >= 0.5 * std::min(a.h, b.h);
}

bool Sheet::joined(const Page& page, std::size_t a, std::size_t b) const
{
    const std::size_t at = static_cast<std::size_t>(&page - pages_.data());
    const Box &x = page.words[a].box, &y = page.words[b].box;
    const double h = std::max({x.h, y.h, height_[at]});
    return y.x - x.right() < apart * std::min(h, 2 * height_[at]) && std::max(x.h, y.h) < 2.5 * std::min(x.h, y.h) + 1;
}

/// A label that begins at a word: the words that make it up, joined to each other.
std::optional<Place> Sheet::at(std::size_t page, std::size_t first, const std::string& label, int most) const
{
    const Page& p = pages_[page];
    const std::string wanted = most < 0 ? label : alike(label);
    Place out;
    out.page = page;
    out.box = p.words[first].box;
    std::string text;
    int best = std::numeric_limits<int>::max();
    std::vector<std::size_t> run, best_run;
    for (std::size_t w = first; w != none && run.size() < longest_label; w = next_[page][w]) {
        if (!run.empty() && !joined(p, run.back(), w)) break;
        const std::string more = most < 0 ? squashed(p.words[w].text) : alike(p.words[w].text);
        run.push_back(w);
        if (more.empty()) continue; // a sign by itself
        text += more;
        if (text.size() > wanted.size() + static_cast<std::size_t>(std::max(0, most))) break;
        const int d = most < 0 ? (text == wanted ? 0 : 99) : distance(text, wanted, most);
        if (d < best) {
            best = d;
            best_run = run;
        }
    }
    if (best > std::max(0, most)) return std::nullopt;
    out.words = best_run;
    for (std::size_t w : best_run) out.box = around(out.box, p.words[w].box);
    out.sure = 1 - static_cast<double>(best) / static_cast<double>(std::max<std::size_t>(1, wanted.size()));
    if (squashed(p.words[first].text).empty() || !whole(page, out.words, out.in_a_sentence)) return std::nullopt;
    return out;
}

/// Nothing that belongs to a longer label stands before it or behind it.
bool Sheet::whole(std::size_t page, const std::vector<std::size_t>& run, bool& in_a_sentence) const
{
    const Page& p = pages_[page];
    if (const std::size_t b = previous_[page][run.front()]; b != none && joined(p, b, run.front())) {
        const std::string& text = p.words[b].text;
        if (is_word(text, marks_) && text.back() != ':' && text.back() != '.' && text.back() != '|') return false;
    }
    std::string text; // "Fat percent 34.2" is another label's
    for (std::size_t w : run) text += squashed(p.words[w].text);
    std::size_t more = run.back();
    for (int k = 0; k < 6; ++k) {
        const std::size_t then = next_[page][more];
        if (then == none || !joined(p, more, then)) break;
        const std::string word = squashed(p.words[then].text);
        text += word;
        more = then;
        if (!word.empty() && std::find(labels_.begin(), labels_.end(), text) != labels_.end()) return false;
    }
    const std::string& last = p.words[run.back()].text;
    const bool ended = last.ends_with(':') || last.ends_with('.');
    std::size_t a = next_[page][run.back()];
    if (a == none || ended || !joined(p, run.back(), a)) return true;
    if (!is_word(p.words[a].text, marks_)) { // "A reading within 0.2 kg counts …"
        for (int k = 0; k < 2 && next_[page][a] != none && joined(p, a, next_[page][a]); ++k) a = next_[page][a];
        in_a_sentence = is_word(p.words[a].text, marks_);
        return true;
    }
    const std::string after = squashed(p.words[a].text);
    for (const auto* words : {&layout_.female, &layout_.male})
        for (const std::string& w : *words)
            if (after == squashed(w)) return true;
    const std::size_t after_it = next_[page][a]; // a month, a weekday before a date
    return after_it != none && joined(p, a, after_it) &&
           moment_in("1 " + p.words[a].text + " 2000", DateOrder::unknown);
}

std::vector<Place> Sheet::find(const std::string& label) const
{
    const std::string wanted = squashed(label);
    if (wanted.empty()) return {};
    std::vector<Place> out;
    for (std::size_t page = 0; page < pages_.size(); ++page)
        for (std::size_t w = 0; w < pages_[page].words.size(); ++w)
            if (auto place = at(page, w, wanted, -1)) out.push_back(*place);
    if (!out.empty()) return out;
    // misread letters, as long as no other word of the layout is as near; the nearest on the pages
    const int most = allowed_misreadings(wanted.size());
    for (std::size_t page = 0; page < pages_.size(); ++page) {
        if (!pages_[page].picture) continue;
        for (std::size_t w = 0; w < pages_[page].words.size(); ++w) {
            const auto place = at(page, w, wanted, most);
            if (!place) continue;
            std::string text;
            for (std::size_t k : place->words) text += alike(pages_[page].words[k].text);
            const int mine = distance(text, alike(wanted), most);
            const bool another = std::any_of(labels_.begin(), labels_.end(),
                [&](const std::string& l) { return l != wanted && distance(text, alike(l), most) <= mine; });
            if (!another) out.push_back(*place);
        }
    }
    double best = 0;
    for (const Place& p : out) best = std::max(best, p.sure);
    std::erase_if(out, [&](const Place& p) { return p.sure < best; });
    return out;
}

bool Sheet::begins_label(std::size_t page, std::size_t word) const { return begins_[page][word]; }

/// The heading whose section a label stands in: the nearest above it, in its own column where sections stand beside
/// each other; the last of the pages before, if there is none on its own.
std::optional<Sheet::Section> Sheet::section_of(const Place& place) const
{
    std::optional<std::size_t> best;
    double best_y = 0, best_gap = 0;
    bool best_own = false;
    for (std::size_t i = 0; i < headings_.size(); ++i) {
        const Place& h = headings_[i].place;
        if (h.page != place.page || h.box.bottom() > place.box.middle_y()) continue;
        const double away = gap_x(h.box, place.box);
        const bool own = over(headings_[i], place.box);
        if (!own && headings_[i].has_rows) continue; // of a column beside it
        const bool level = best && same_row(h.box, headings_[*best].place.box);
        const bool nearer =
            !best || (own && !best_own) || (own == best_own && (level ? away < best_gap : h.box.y > best_y));
        if (!nearer) continue;
        best = i;
        best_y = h.box.y;
        best_gap = away;
        best_own = own;
    }
    for (std::size_t page = place.page; !best && page-- > 0;)
        for (std::size_t i = 0; i < headings_.size(); ++i)
            if (headings_[i].place.page == page && (!best || headings_[i].place.box.y > best_y)) {
                best = i;
                best_y = headings_[i].place.box.y;
                best_own = true;
            }
    if (!best) return std::nullopt;
    return Section{headings_[*best].text, best_own};
}

/// The heading of a column, to the right of the label, that its row crosses.
std::optional<Place> Sheet::column_head(const Place& place, const Field& field) const
{
    const std::string under = squashed(field.under);
    if (under.empty()) return std::nullopt;
    const Heading* best = nullptr;
    for (const Heading& h : headings_)
        if (h.text == under && h.place.page == place.page && h.place.box.bottom() <= place.box.middle_y() &&
            h.place.box.x > place.box.right() && (!best || h.place.box.y > best->place.box.y))
            best = &h;
    if (!best) return std::nullopt;
    for (const Heading& other : headings_) { // another heading between them ends the section
        const Box& b = other.place.box;
        if (other.place.page == place.page && b.y > best->place.box.bottom() && b.bottom() <= place.box.middle_y() &&
            overlap(b.x, b.right(), place.box.x, best->place.box.right()) > 0)
            return std::nullopt;
    }
    return best->place;
}

std::vector<Place> Sheet::places_of(const std::string& label) const { return find(label); }

std::vector<Place> Sheet::places_of(const Field& field) const
{
    std::vector<Place> out, crossing, far;
    const std::string under = squashed(field.under), label = squashed(field.label);
    for (const Place& p : find(field.label)) {
        const auto section = section_of(p);
        const std::string in = section ? section->text : "";
        if (!under.empty()) {
            if (in == under && section->own)
                out.push_back(p);
            else if (column_head(p, field))
                crossing.push_back(p);
            else if (in == under)
                far.push_back(p);
            continue;
        }
        const bool ends = std::any_of(layout_.headings.begin(), layout_.headings.end(),
            [&](const std::string& h) { return !in.empty() && squashed(h) == in; });
        const bool anothers = std::any_of(layout_.fields.begin(), layout_.fields.end(),
            [&](const Field& f) { return !in.empty() && squashed(f.under) == in && squashed(f.label) == label; });
        if (!ends && !anothers) out.push_back(p);
    }
    if (out.empty()) out = crossing.empty() ? std::move(far) : std::move(crossing);
    std::stable_sort(
        out.begin(), out.end(), [](const Place& a, const Place& b) { return a.in_a_sentence < b.in_a_sentence; });
    if (!out.empty() && !out.front().in_a_sentence) std::erase_if(out, [](const Place& p) { return p.in_a_sentence; });
    return out;
}

std::vector<std::size_t> Sheet::right_of(std::size_t page, const Box& box, double from) const
{
    const auto& words = pages_[page].words;
    std::vector<std::size_t> out;
    for (std::size_t w = 0; w < words.size(); ++w)
        if (words[w].box.x >= from - 0.3 * box.h && words[w].box.middle_x() > from && same_row(words[w].box, box))
            out.push_back(w);
    std::sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) { return words[a].box.x < words[b].box.x; });
    return out;
}

/// The number among these words of a row: the first, or the one with the field's unit; its limits stand behind it.
std::optional<Beside> Sheet::taken(
    std::size_t page, const std::vector<std::size_t>& words, const Field& field, const Place& place) const
{
    const Page& p = pages_[page];
    std::vector<std::string> texts;
    std::vector<bool> close;
    for (std::size_t i = 0; i < words.size(); ++i) {
        texts.push_back(p.words[words[i]].text);
        close.push_back(i + 1 < words.size() && p.words[words[i + 1]].box.x - p.words[words[i]].box.right() <
                                                    0.9 * std::max(p.words[words[i]].box.h, height_[page]));
    }
    const std::vector<Item> items = items_of(texts, close, marks_);
    const auto unit_after = [&](std::size_t i) {
        if (!items[i].unit.empty()) return items[i].unit;
        return i + 1 < items.size() && items[i + 1].kind == Item::Kind::unit ? items[i + 1].unit : std::string();
    };
    std::optional<std::size_t> at;
    for (std::size_t i = 0; i < items.size(); ++i) {
        if (items[i].kind == Item::Kind::word) break; // what follows belongs to other words
        if (items[i].kind != Item::Kind::number) continue;
        if (!at) at = i;
        const std::string unit = unit_after(i);
        const bool fits = !unit.empty() && !field.unit.empty() && converted(1, unit, field.unit);
        const std::string first = unit_after(*at);
        if (fits && (first.empty() ? i == *at : !converted(1, first, field.unit))) at = i;
    }
    for (std::size_t i = 0; i < items.size() && !at && items[i].kind != Item::Kind::word; ++i)
        if (items[i].misread) at = i;
    if (!at) return std::nullopt;
    const Item& item = items[*at];
    Beside out;
    out.number = item.kind == Item::Kind::limits ? *item.misread : item.number;
    out.unit = unit_after(*at);
    out.page = page;
    out.sure = place.sure;
    bool fresh = true;
    for (std::size_t k = item.first; k <= item.last; ++k) {
        const Word& w = p.words[words[k]];
        out.box = fresh ? w.box : around(out.box, w.box);
        out.on_paper = fresh ? w.on_paper : around(out.on_paper, w.on_paper);
        fresh = false;
        out.sure = std::min(out.sure, w.confidence);
    }
    if (!field.range) return out;
    for (int step : {1, -1}) // behind it, or before it
        for (std::size_t i = *at + static_cast<std::size_t>(step); i < items.size() && !out.low;
             i += static_cast<std::size_t>(step)) {
            if (items[i].kind == Item::Kind::number || items[i].kind == Item::Kind::word) break;
            if (items[i].kind != Item::Kind::limits) continue;
            out.limits_broken = items[i].broken;
            if (items[i].broken) break;
            out.low = items[i].number;
            out.high = items[i].high;
            for (std::size_t k = items[i].first; k <= items[i].last; ++k)
                if (const double sure = p.words[words[k]].confidence; has_digit(texts[k])) {
                    out.sure = std::min(out.sure, sure);
                    out.limits_unsure = out.limits_unsure || sure < sure_enough;
                }
        }
    return out;
}

std::optional<Beside> Sheet::below(const Place& place, const Field& field) const
{
    const Page& p = pages_[place.page];
    const double h = std::max(place.box.h, height_[place.page]);
    std::vector<std::size_t> near; // in its column: the label may be narrower than the number, and stand off its middle
    double top = 1e9;
    for (std::size_t w = 0; w < p.words.size(); ++w) {
        const Box& b = p.words[w].box;
        if (b.middle_y() <= place.box.bottom() || b.y - place.box.bottom() > below_by * h) continue;
        if (gap_x(b, place.box) > beside_by * h || squashed(p.words[w].text).empty()) continue;
        near.push_back(w);
        top = std::min(top, b.bottom());
    }
    std::optional<std::size_t> best;
    for (std::size_t w : near) {
        const Box& b = p.words[w].box;
        if (b.y > top) continue; // a row further down
        if (!best || gap_x(b, place.box) < gap_x(p.words[*best].box, place.box)) best = w;
    }
    if (!best || is_word(p.words[*best].text, marks_) || begins_label(place.page, *best)) return std::nullopt;
    // the number may begin left of the label's first letter
    std::size_t first = *best;
    while (previous_[place.page][first] != none && joined(p, previous_[place.page][first], first) &&
           overlap(p.words[previous_[place.page][first]].box.x, p.words[previous_[place.page][first]].box.right(),
               place.box.x - h, place.box.right()) > 0)
        first = previous_[place.page][first];
    std::vector<std::size_t> words = {first};
    for (std::size_t w = next_[place.page][first]; w != none && words.size() < 8; w = next_[place.page][w]) {
        if (p.words[w].box.x - p.words[words.back()].box.right() > 2.5 * h) break;
        words.push_back(w);
    }
    return taken(place.page, words, field, place);
}

std::optional<Beside> Sheet::crossing(const Place& place, const Place& head, const Field& field) const
{
    const Page& p = pages_[place.page];
    std::vector<Box> heads; // all that stands on the heading's row, word by word joined
    std::size_t mine = 0;
    for (std::size_t w : right_of(place.page, head.box, 0)) {
        const bool part = std::find(head.words.begin(), head.words.end(), w) != head.words.end();
        if (part) {
            if (heads.empty() || w == head.words.front()) {
                heads.push_back(head.box);
                mine = heads.size() - 1;
            }
            continue;
        }
        const std::size_t before = previous_[place.page][w];
        const bool goes_on = before != none && joined(p, before, w) && !heads.empty() &&
                             std::find(head.words.begin(), head.words.end(), before) == head.words.end() &&
                             !begins_label(place.page, w);
        if (goes_on)
            heads.back() = around(heads.back(), p.words[w].box);
        else
            heads.push_back(p.words[w].box);
    }
    const auto column = [&](const Box& b) {
        std::size_t best = 0;
        const auto away = [&](std::size_t i) {
            return gap_x(heads[i], b) + 1e-3 * std::abs(heads[i].middle_x() - b.middle_x());
        };
        for (std::size_t i = 1; i < heads.size(); ++i)
            if (away(i) < away(best)) best = i;
        return best;
    };
    std::vector<std::size_t> words;
    for (std::size_t w : right_of(place.page, place.box, place.box.right())) {
        const std::string& text = p.words[w].text;
        const bool behind = !words.empty() && !has_digit(text) && joined(p, words.back(), w); // its unit
        if (behind || column(p.words[w].box) == mine)
            words.push_back(w);
        else if (!words.empty())
            break;
    }
    return words.empty() ? std::nullopt : taken(place.page, words, field, place);
}

std::optional<Beside> Sheet::beside(const Place& place, const Field& field) const
{
    const auto section = section_of(place);
    const bool own = section && section->own && section->text == squashed(field.under);
    if (const auto head = own ? std::nullopt : column_head(place, field)) return crossing(place, *head, field);
    std::vector<std::size_t> words;
    for (std::size_t w : right_of(place.page, place.box, place.box.right())) {
        if (begins_label(place.page, w)) break;
        words.push_back(w);
    }
    if (auto found = taken(place.page, words, field, place)) return found;
    return below(place, field);
}

std::optional<Sheet::Words> Sheet::words_beside(const Place& place) const
{
    const Page& p = pages_[place.page];
    const auto signs_only = [&](std::size_t w) { return squashed(p.words[w].text).empty(); };
    std::vector<std::size_t> words;
    for (std::size_t w : right_of(place.page, place.box, place.box.right())) {
        if (begins_label(place.page, w)) break;
        if (words.empty() && signs_only(w)) continue;
        if (!words.empty() &&
            p.words[w].box.x - p.words[words.back()].box.right() > 2 * std::max(p.words[w].box.h, height_[place.page]))
            break;
        words.push_back(w);
    }
    if (words.empty()) { // a column head
        Field any;
        const double h = std::max(place.box.h, height_[place.page]);
        std::optional<std::size_t> best;
        for (std::size_t w = 0; w < p.words.size(); ++w) {
            const Box& b = p.words[w].box;
            if (b.middle_y() > place.box.bottom() && b.y - place.box.bottom() <= below_by * h &&
                overlap(b.x, b.right(), place.box.x, place.box.right()) > 0 &&
                (!best || b.y < p.words[*best].box.y ||
                    (same_row(b, p.words[*best].box) && b.x < p.words[*best].box.x)))
                best = w;
        }
        if (!best || begins_label(place.page, *best)) return std::nullopt;
        words = {*best};
        for (std::size_t w = next_[place.page][*best]; w != none && joined(p, words.back(), w);
             w = next_[place.page][w])
            words.push_back(w);
    }
    Words out;
    out.page = place.page;
    out.sure = place.sure;
    out.box = p.words[words.front()].box;
    out.on_paper = p.words[words.front()].on_paper;
    out.first = p.words[words.front()].text;
    for (std::size_t w : words) {
        out.text += (out.text.empty() ? "" : " ") + p.words[w].text;
        out.box = around(out.box, p.words[w].box);
        out.on_paper = around(out.on_paper, p.words[w].on_paper);
        out.sure = std::min(out.sure, p.words[w].confidence);
    }
    return out;
}

} // namespace fusain::printout

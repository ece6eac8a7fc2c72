// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/taught.h"

#include "core/printout/text.h"
#include "core/printout/typed.h"
#include "core/printout/unit.h"

#include <algorithm>
#include <cmath>

namespace fusain::printout {
namespace {

constexpr double within_mm = 2, wide = 1.3; ///< wide: gaps between words of one label, in heights of a letter

bool same_row(const Box& a, const Box& b) { return std::abs(a.middle_y() - b.middle_y()) < 0.6 * std::max(a.h, b.h); }

bool has_letter(const std::string& text)
{
    const std::string plain = squashed(text);
    return std::any_of(plain.begin(), plain.end(), [](char c) { return !(c >= '0' && c <= '9'); });
}

bool whole(const std::string& text)
{
    return std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
}

/// Dots that lead to a number, colons.
bool only_leads(const std::string& text) { return squashed(text).empty() && text.find('%') == std::string::npos; }

/// The words of a row, from left to right.
std::vector<std::size_t> row_of(const Page& page, std::size_t word)
{
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < page.words.size(); ++i)
        if (same_row(page.words[i].box, page.words[word].box)) out.push_back(i);
    std::sort(out.begin(), out.end(), [&](auto a, auto b) { return page.words[a].box.x < page.words[b].box.x; });
    return out;
}

std::string joined(const Page& page, const std::vector<std::size_t>& words)
{
    std::string out;
    for (std::size_t i : words) out += (out.empty() ? "" : " ") + page.words[i].text;
    while (!out.empty() && (out.back() == ':' || out.back() == '.' || out.back() == ' ')) out.pop_back();
    return out;
}

/// To the left of a word, up to the next number or a wide gap.
std::vector<std::size_t> label_left(const Page& page, std::size_t word, const Marks& marks)
{
    const auto row = row_of(page, word);
    auto at = std::find(row.begin(), row.end(), word);
    std::vector<std::size_t> out;
    while (at != row.begin()) {
        const std::size_t i = *--at;
        const Box& box = page.words[i].box;
        if (out.empty() && only_leads(page.words[i].text)) continue;
        if (!out.empty() && page.words[out.back()].box.x - box.right() > wide * box.h) break;
        if (is_number(page, i, marks)) {
            // "Phase angle 50 kHz": a whole number between words that stand close
            const bool within = !out.empty() && at != row.begin() && whole(page.words[i].text) &&
                                box.x - page.words[*(at - 1)].box.right() < wide * box.h &&
                                has_letter(page.words[*(at - 1)].text);
            if (!within) break;
        }
        out.push_back(i);
    }
    std::reverse(out.begin(), out.end());
    return has_letter(joined(page, out)) ? out : std::vector<std::size_t>{};
}

/// The nearest row above with a word over this one; `without_numbers`: a heading.
std::vector<std::size_t> row_above(
    const Page& page, const Box& of, const Marks& marks, bool without_numbers, double most)
{
    std::vector<std::size_t> best;
    double nearest = most;
    for (std::size_t i = 0; i < page.words.size(); ++i) {
        const Box& b = page.words[i].box;
        const double up = of.y - b.bottom();
        const bool over = without_numbers ? b.x < of.right() : b.x < of.right() && b.right() > of.x;
        if (!over || up < -0.3 * b.h || up >= nearest || !has_letter(page.words[i].text)) continue;
        std::vector<std::size_t> run;
        bool numbers = false;
        for (std::size_t k : row_of(page, i)) {
            numbers = numbers || is_number(page, k, marks);
            const Box& w = page.words[k].box;
            if (!run.empty() && w.x - page.words[run.back()].box.right() > wide * b.h) {
                if (std::count(run.begin(), run.end(), i)) break;
                run.clear();
            }
            run.push_back(k);
        }
        if (!std::count(run.begin(), run.end(), i) || (without_numbers && numbers)) continue;
        nearest = up;
        best = run;
    }
    return best;
}

/// A word of what identifies the client: a sex, a number, any word of a date.
std::optional<Field> of_client(const Page& page, std::size_t word, const Marks& marks)
{
    const auto row = row_of(page, word);
    const auto clicked = std::find(row.begin(), row.end(), word);
    for (auto at = clicked;; --at) { // back to where a date begins
        const std::string label = joined(page, label_left(page, *at, marks));
        const std::string id = identifies(label);
        const bool is_date =
            id == "at" &&
            moment_in(joined(page, std::vector<std::size_t>(at, row.end())), DateOrder::unknown).has_value();
        if (is_date || (!id.empty() && id != "at" && at == clicked)) {
            Field f;
            f.label = label;
            f.key = "client." + id;
            return f;
        }
        const Box& box = page.words[*at].box;
        if (at == row.begin() || box.x - page.words[*(at - 1)].box.right() > wide * box.h) return std::nullopt;
    }
}

} // namespace

std::optional<std::size_t> word_at(const Page& page, double x, double y)
{
    std::optional<std::size_t> best;
    double nearest = within_mm;
    for (std::size_t i = 0; i < page.words.size(); ++i) {
        const Box& b = page.words[i].on_paper;
        const double dx = std::max({b.x - x, x - b.right(), 0.0}), dy = std::max({b.y - y, y - b.bottom(), 0.0});
        if (std::hypot(dx, dy) < nearest) nearest = std::hypot(dx, dy), best = i;
    }
    return best;
}

bool is_number(const Page& page, std::size_t word, const Marks& marks)
{
    std::string unit;
    const auto n = number_in(page.words[word].text, marks, unit);
    return n && !n->letters;
}

Outcome<Field> taught(const Page& page, std::size_t word, const Marks& marks)
{
    if (auto client = of_client(page, word, marks)) return std::move(*client);
    std::string unit;
    const auto number = number_in(page.words[word].text, marks, unit);
    if (!number)
        return Outcome<Field>::refuse({"not_a_number", Level::error, "",
            "\"" + page.words[word].text +
                "\" is no number. Click the number itself, its name is found beside it; a date or a sex: type its "
                "name."});
    std::vector<std::size_t> label = label_left(page, word, marks);
    const Box& box = page.words[word].box;
    const bool left = !label.empty();
    if (!left) label = row_above(page, box, marks, false, 3 * box.h);
    if (label.empty())
        return Outcome<Field>::refuse({"missing_field", Level::error, "",
            "No words stand beside or above " + page.words[word].text + ": type its name instead."});
    Field f = named(joined(page, label));
    f.decimals = number->decimals;
    // what follows the number: its unit, its limits
    const auto row = row_of(page, word);
    std::vector<std::string> words;
    std::vector<bool> close;
    for (auto at = std::find(row.begin(), row.end(), word) + 1; at != row.end() && words.size() < 8; ++at) {
        const Box &b = page.words[*at].box, &before = page.words[*(at - 1)].box;
        words.push_back(page.words[*at].text);
        close.push_back(at + 1 != row.end() && page.words[*(at + 1)].box.x - b.right() < wide * b.h);
        if (b.x - before.right() > 12 * b.h) {
            words.pop_back();
            close.pop_back();
            break;
        }
    }
    for (const Item& item : items_of(words, close, marks)) {
        if (item.kind == Item::Kind::unit && unit.empty() && !f.range) {
            unit = item.unit;
        } else if (item.kind == Item::Kind::limits) {
            f.range = !item.broken;
            break;
        } else if (item.kind != Item::Kind::unit) {
            break;
        }
    }
    if (!unit.empty()) {
        const bool other = unit != f.unit;
        f.unit = unit;
        if (other) { // "Body fat 21.3 %": what it is goes by the unit too
            const Field again = named(f.label + " (" + unit + ")");
            f.quantity = again.quantity;
            f.key = again.key;
        }
    }
    const auto heading = row_above(page, left ? page.words[label.front()].box : box, marks, true, 80);
    f.under = heading.empty() || heading == label ? "" : joined(page, heading);
    if (!f.segment.empty() && !f.under.empty()) { // "Right arm" under "Fat by segment"
        const Field whole = named(f.under + ", " + f.label + " (" + f.unit + ")");
        if (whole.segment == f.segment) f.quantity = whole.quantity, f.key = whole.key;
    }
    return f;
}

char decimal_of(const std::vector<Page>& pages)
{
    int points = 0, commas = 0;
    for (const Page& p : pages)
        for (const Word& w : p.words)
            for (std::size_t i = 1; i + 1 < w.text.size(); ++i) {
                const auto digit = [&](std::size_t k) { return w.text[k] >= '0' && w.text[k] <= '9'; };
                if (!digit(i - 1) || !digit(i + 1)) continue;
                points += w.text[i] == '.';
                commas += w.text[i] == ',';
            }
    return commas > points ? ',' : '.';
}

} // namespace fusain::printout

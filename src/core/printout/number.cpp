// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/number.h"

#include "core/base/units.h"
#include "core/printout/layout.h"
#include "core/printout/text.h"
#include "core/printout/unit.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <tuple>

namespace fusain::printout {
namespace {

bool digit(char c) { return c >= '0' && c <= '9'; }
bool letter(char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; }

/// What a reader of pictures makes of a digit; 0: nothing of the kind.
char digit_of(char c)
{
    switch (c) {
    case 'O':
    case 'o':
    case 'D': return '0';
    case 'I':
    case 'l':
    case '|': return '1';
    case 'Z': return '2';
    case 'S': return '5';
    case 'B': return '8';
    default: return 0;
    }
}

std::string replaced(std::string_view text, std::string_view what, std::string_view by)
{
    std::string out(text);
    for (std::size_t at = out.find(what); at != std::string::npos; at = out.find(what, at + by.size()))
        out.replace(at, what.size(), by);
    return out;
}

/// Minus signs and dashes are one; spaces that do not break are spaces.
std::string plain_signs(std::string_view text)
{
    std::string out(text);
    for (const char* dash : {"\u2010", "\u2011", "\u2012", "\u2013", "\u2014", "\u2015", "\u2212"})
        out = replaced(out, dash, "-");
    for (const char* space : {"\u00A0", "\u202F", "\u2009"}) out = replaced(out, space, " ");
    return replaced(replaced(out, "\u2026", "..."), "\u00B7", ".");
}

/// The length of the number at the beginning of `s`; 0: none. Digits in groups, one decimal mark.
std::size_t number_length(const std::string& s, bool letters)
{
    const auto is = [&](char c) { return digit(c) || (letters && digit_of(c)); };
    std::size_t i = 0;
    if (i < s.size() && (s[i] == '-' || s[i] == '+')) ++i;
    if (i >= s.size() || !is(s[i])) return 0;
    while (i < s.size() && (is(s[i]) || ((s[i] == '.' || s[i] == ',' || s[i] == ' ' || s[i] == '\'') &&
                                            i + 1 < s.size() && is(s[i + 1]))))
        ++i;
    return i;
}

std::optional<Printed> parsed(const std::string& text, const Marks& marks)
{
    Printed out;
    out.text = text;
    std::string digits;
    std::size_t sign = !text.empty() && (text[0] == '-' || text[0] == '+') ? 1 : 0;
    if (sign) digits += text[0] == '-' ? "-" : "";
    const auto groups_of_three = [&](std::size_t at) {
        std::size_t n = 0;
        while (at + 1 + n < text.size() && (digit(text[at + 1 + n]) || digit_of(text[at + 1 + n]))) ++n;
        return n == 3;
    };
    bool after = false;
    for (std::size_t i = sign; i < text.size(); ++i) {
        char c = text[i];
        if (!digit(c) && digit_of(c)) {
            c = digit_of(c);
            out.letters = true;
        }
        if (digit(c)) {
            digits += c;
            out.decimals += after;
        } else if (!after && marks.thousands.size() == 1 && c == marks.thousands[0] && c != marks.decimal &&
                   groups_of_three(i)) {
            continue;
        } else if (!after && (c == '.' || c == ',')) {
            out.other_mark = c != marks.decimal;
            digits += '.';
            after = true;
        } else {
            return std::nullopt;
        }
    }
    char* end = nullptr;
    out.value = std::strtod(digits.c_str(), &end);
    if (digits.empty() || *end || !std::isfinite(out.value)) return std::nullopt;
    return out;
}

std::string without(std::string s, std::string_view these)
{
    while (!s.empty() && these.find(s.back()) != std::string_view::npos) s.pop_back();
    while (!s.empty() && these.find(s.front()) != std::string_view::npos) s.erase(0, 1);
    return s;
}

constexpr std::string_view brackets = "()[]{}";

/// Limits as they stand: "50.4 - 68.2", "50.4-68.2", "50.4 to 68.2", "50.4~68.2".
std::optional<std::pair<Printed, Printed>> limits_in(std::string s, const Marks& marks)
{
    s = without(s, "()[]{} ");
    const auto trimmed_part = [](std::string part) {
        part = without(part, "()[]{} ");
        while (!part.empty() && !digit(part.back()) && !digit_of(part.back())) part.pop_back(); // its unit
        return part;
    };
    for (std::size_t at = s.find(marks.decimal); at != std::string::npos; at = s.find(marks.decimal, at + 1))
        while (at + 1 < s.size() && s[at + 1] == ' ') s.erase(at + 1, 1); // "93, 5": letters all of one width
    for (std::string_view dash : {" to ", "...", "..", "~", "-", " "}) {
        const std::size_t at = s.find(dash, 1);
        if (at == std::string::npos) continue;
        const auto low = parsed(trimmed_part(s.substr(0, at)), marks),
                   high = parsed(trimmed_part(s.substr(at + dash.size())), marks);
        if (low && high) return std::pair(*low, *high);
    }
    return std::nullopt;
}

bool only_signs(const std::string& s)
{
    for (char c : s)
        if (digit(c) || letter(c) || (c & 0x80)) return false;
    return true;
}

bool a_dash(const std::string& s) { return s == "-" || s == "--" || s == "~" || s == "to" || s == "..." || s == ".."; }

int days_in(int year, int month)
{
    constexpr int days[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
    const bool leap = (year % 4 == 0 && year % 100 != 0) || year % 400 == 0;
    return month == 2 && leap ? 29 : days[month - 1];
}

constexpr const char* months[] = {"january", "february", "march", "april", "may", "june", "july", "august", "september",
    "october", "november", "december"};

int month_named(const std::string& word)
{
    if (word.size() < 3) return 0;
    for (int m = 0; m < 12; ++m)
        if (std::string_view(months[m]).starts_with(word) || (m == 8 && word == "sept")) return m + 1;
    return 0;
}

struct Part {
    std::string text;
    std::size_t at = 0, end = 0;
    bool number = false;
};

std::vector<Part> parts_of(const std::string& s)
{
    std::vector<Part> out;
    for (std::size_t i = 0; i < s.size();) {
        const bool number = digit(s[i]);
        if (!number && !letter(s[i])) {
            ++i;
            continue;
        }
        std::size_t end = i;
        while (end < s.size() && (number ? digit(s[end]) : letter(s[end]))) ++end;
        out.push_back({s.substr(i, end - i), i, end, number});
        i = end;
    }
    return out;
}

struct Date {
    int year = 0, month = 0, day = 0;
    bool good() const
    {
        return year >= 1900 && year < 2200 && month >= 1 && month <= 12 && day >= 1 && day <= days_in(year, month);
    }
};

int full_year(const std::string& text)
{
    const int y = std::atoi(text.c_str());
    return text.size() == 2 ? 2000 + y : y;
}

/// A date of three numbers; `order` as told, or as it can only be.
std::optional<std::pair<Date, bool>> of_numbers(const std::array<std::string, 3>& n, DateOrder order)
{
    const auto read = [&](DateOrder o) -> Date {
        const std::size_t y = o == DateOrder::ymd ? 0 : 2,
                          m = o == DateOrder::dmy   ? 1
                              : o == DateOrder::mdy ? 0
                                                    : 1,
                          d = o == DateOrder::dmy   ? 0
                              : o == DateOrder::mdy ? 1
                                                    : 2;
        if (n[y].size() != 2 && n[y].size() != 4) return {};
        if (n[m].size() > 2 || n[d].size() > 2) return {};
        return {full_year(n[y]), std::atoi(n[m].c_str()), std::atoi(n[d].c_str())};
    };
    if (n[0].size() == 4) { // nothing else begins with a year of four digits
        const Date d = read(DateOrder::ymd);
        return d.good() ? std::optional(std::pair(d, false)) : std::nullopt;
    }
    if (order != DateOrder::unknown)
        if (const Date d = read(order); d.good()) return std::pair(d, false);
    std::optional<Date> found;
    bool two_ways = order != DateOrder::unknown; // it is not as the layout says
    for (DateOrder o : {DateOrder::dmy, DateOrder::mdy, DateOrder::ymd}) {
        if (o == DateOrder::ymd && n[0].size() != 2) continue;
        const Date d = read(o);
        if (!d.good()) continue;
        if (found && (found->day != d.day || found->month != d.month || found->year != d.year)) two_ways = true;
        if (!found) found = d;
    }
    if (!found) return std::nullopt;
    return std::pair(*found, two_ways);
}

} // namespace

std::optional<Printed> number_in(std::string_view word, const Marks& marks, std::string& unit)
{
    unit.clear();
    std::string s = plain_signs(word);
    for (const char* note : {"\u2020", "\u2021"}) s = replaced(s, note, ""); // daggers of a footnote
    s = without(s, "*!^:;=");
    for (bool letters : {false, true}) {
        const std::size_t n = number_length(s, letters);
        if (n == 0) continue;
        std::string rest = s.substr(n), head = s.substr(0, n);
        if (letters && std::none_of(head.begin(), head.end(), digit)) continue;
        if (!rest.empty() && (rest == "." || rest == ",")) { // the decimals are lost, or it ends a sentence
            head += rest;
            rest.clear();
        }
        rest = without(rest, ".,*;:!^ ");
        if (!rest.empty() && !find_unit(rest)) continue;
        auto out = parsed(head, marks);
        if (!out) continue;
        unit = rest;
        return out;
    }
    return std::nullopt;
}

std::vector<Item> items_of(const std::vector<std::string>& words, const std::vector<bool>& close, const Marks& marks)
{
    std::vector<Item> out;
    std::vector<std::string> plain;
    for (const std::string& w : words) plain.push_back(plain_signs(w));
    const auto opens = [](const std::string& w) { return !w.empty() && (w[0] == '(' || w[0] == '[' || w[0] == '{'); };
    const auto closes = [](const std::string& w) {
        return !w.empty() && (w.back() == ')' || w.back() == ']' || w.back() == '}');
    };
    for (std::size_t i = 0; i < plain.size(); ++i) {
        Item item;
        item.first = item.last = i;
        if (opens(plain[i])) { // up to where it closes, five words at most
            std::string inside = plain[i];
            std::size_t last = i;
            while (!closes(plain[last]) && last + 1 < plain.size() && last < i + 6) inside += ' ' + plain[++last];
            const auto range = limits_in(inside, marks);
            const bool whole = closes(plain[last]);
            if (range || (whole && inside.find_first_of("0123456789") != std::string::npos)) {
                item.kind = Item::Kind::limits;
                item.broken = !range;
                if (range) std::tie(item.number, item.high) = *range;
                item.last = i = last;
                out.push_back(item);
                continue;
            }
            if (find_unit(without(inside, brackets))) {
                item.kind = Item::Kind::unit;
                item.unit = without(inside, brackets);
                item.last = i = last;
                out.push_back(item);
                continue;
            }
        }
        if (const auto range = limits_in(plain[i], marks)) {
            item.kind = Item::Kind::limits;
            std::tie(item.number, item.high) = *range;
            std::string as_point = plain[i];
            if (std::count(as_point.begin(), as_point.end(), '-') == 1 && range->first.decimals == 0 &&
                range->second.decimals == 0) {
                std::replace(as_point.begin(), as_point.end(), '-', marks.decimal);
                if (auto n = number_in(as_point, marks, item.unit)) {
                    n->letters = true;
                    n->text = words[i];
                    item.misread = *n;
                }
            }
            out.push_back(item);
            continue;
        }
        std::string w = plain[i];
        if (marks.thousands == " ") // groups that stand apart
            while (i + 1 < plain.size() && i < close.size() && close[i] && plain[i + 1].size() >= 3 &&
                   number_length(w, false) == w.size() && digit(plain[i + 1][0]) && digit(plain[i + 1][1]) &&
                   digit(plain[i + 1][2]) && (plain[i + 1].size() == 3 || !digit(plain[i + 1][3])))
                w += ' ' + plain[item.last = ++i];
        // "6." and "52", "6" and ",52" stand apart where every letter is as wide
        const auto decimals_follow = [&] {
            if (i + 1 >= plain.size() || i >= close.size() || !close[i] ||
                w.find_first_of("0123456789") == std::string::npos)
                return false;
            const std::string& then = plain[i + 1];
            const bool mark = w.back() == marks.decimal &&
                              number_length(w.substr(0, w.size() - 1), false) == w.size() - 1 &&
                              w.find(marks.decimal) == w.size() - 1;
            return (mark && digit(then[0])) || (number_length(w, false) == w.size() && then.size() > 1 &&
                                                   then[0] == marks.decimal && digit(then[1]));
        };
        if (decimals_follow()) w += plain[item.last = ++i];
        if (auto n = number_in(w, marks, item.unit)) {
            item.kind = Item::Kind::number;
            item.number = *n;
            // "50.4 - 68.2" in words of their own
            if (i + 2 < plain.size() && a_dash(plain[i + 1]) && item.unit.empty()) {
                std::string unit;
                if (auto high = number_in(plain[i + 2], marks, unit)) {
                    item.kind = Item::Kind::limits;
                    item.high = *high;
                    item.last = i += 2;
                }
            }
            out.push_back(item);
            continue;
        }
        const std::string bare = without(w, "()[]{},;: ");
        if (find_unit(bare)) {
            item.kind = Item::Kind::unit;
            item.unit = bare;
        } else if (only_signs(w)) {
            item.kind = Item::Kind::mark;
        }
        out.push_back(item);
    }
    return out;
}

std::optional<Moment> moment_in(std::string_view raw, DateOrder order)
{
    const std::string s = lower(plain_signs(raw));
    const std::vector<Part> parts = parts_of(s);
    std::optional<Moment> out;
    std::size_t from = 0, used = 0;
    const auto keep = [&](const Date& d, bool two_ways, std::size_t first, std::size_t n) {
        if (!d.good()) return false;
        char text[32];
        std::snprintf(text, sizeof text, "%04d-%02d-%02d", d.year, d.month, d.day);
        out = Moment{text, two_ways};
        from = first;
        used = n;
        return true;
    };
    const auto separated = [&](std::size_t i) { // by one sign, the same on both sides, or spaces
        const std::string a = s.substr(parts[i].end, parts[i + 1].at - parts[i].end),
                          b = s.substr(parts[i + 1].end, parts[i + 2].at - parts[i + 1].end);
        return without(a, " ") == without(b, " ") &&
               (without(a, " ") == "." || without(a, " ") == "-" || without(a, " ") == "/");
    };
    for (std::size_t i = 0; i + 2 < parts.size() && !out; ++i) {
        const Part &a = parts[i], &b = parts[i + 1], &c = parts[i + 2];
        if (a.number && b.number && c.number && separated(i)) {
            if (const auto d = of_numbers({a.text, b.text, c.text}, order)) keep(d->first, d->second, i, 3);
        } else if (a.number && !b.number && c.number && month_named(b.text) && a.text.size() <= 2) {
            keep({full_year(c.text), month_named(b.text), std::atoi(a.text.c_str())}, c.text.size() == 2, i, 3);
        } else if (!a.number && month_named(a.text) && b.number && c.number && b.text.size() <= 2 &&
                   c.text.size() == 4) {
            keep({full_year(c.text), month_named(a.text), std::atoi(b.text.c_str())}, false, i, 3);
        } else if (a.number && a.text.size() == 4 && !b.number && month_named(b.text) && c.number) {
            keep({full_year(a.text), month_named(b.text), std::atoi(c.text.c_str())}, false, i, 3);
        }
    }
    if (!out) return out;
    for (std::size_t i = 0; i + 1 < parts.size(); ++i) {
        if (i + 1 >= from && i < from + used) continue;
        const Part &h = parts[i], &m = parts[i + 1];
        const std::string between = s.substr(h.end, m.at - h.end);
        if (!h.number || !m.number || m.text.size() != 2 || h.text.size() > 2 ||
            (without(between, " ") != ":" && between != "."))
            continue;
        int hour = std::atoi(h.text.c_str());
        const int minute = std::atoi(m.text.c_str());
        for (std::size_t k = i + 2; k < std::min(parts.size(), i + 4); ++k) {
            if (parts[k].text == "pm" || parts[k].text == "p") hour = hour % 12 + 12;
            if ((parts[k].text == "am" || parts[k].text == "a") && hour == 12) hour = 0;
        }
        if (hour > 23 || minute > 59) continue;
        char text[32];
        std::snprintf(text, sizeof text, "T%02d:%02d", hour, minute);
        out->at += text;
        break;
    }
    return out;
}

std::optional<double> feet_and_inches_cm(std::string_view text)
{
    std::string s = lower(plain_signs(text));
    for (const char* sign : {"\u2032", "\u2019", "'"}) s = replaced(s, sign, " ft ");
    for (const char* sign : {"\u2033", "\u201D", "\""}) s = replaced(s, sign, " in ");
    double feet = 0, inches = 0;
    int n = 0;
    if (std::sscanf(s.c_str(), " %lf ft %lf%n", &feet, &inches, &n) >= 2 && n > 0 && feet > 0 && inches >= 0 &&
        inches < 12)
        return units::in_to_cm(12 * feet + inches);
    return std::nullopt;
}

} // namespace fusain::printout

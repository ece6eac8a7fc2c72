// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/compare.h"

#include "core/base/limits.h"

#include <cctype>
#include <cmath>

namespace fusain::compare {
namespace {
constexpr MethodDifference rows[] = {
    {method::air_displacement, method::hydrostatic, -4, 2, -0.5,
        "common laboratory experience; 95 % limits of agreement are ±4 to ±9 % fat"},
    {method::air_displacement, method::absorptiometry, -3, 2, std::nullopt,
        "common laboratory experience; 95 % limits of agreement are ±4 to ±9 % fat"},
    {method::impedance, method::absorptiometry, -6, 2, std::nullopt,
        "common laboratory experience; 95 % limits of agreement are ±4 to ±9 % fat"},
};
std::string signed_number(double v) { return (v > 0 ? "+" : v < 0 ? "−" : "") + limits::plain(std::abs(v), 1); }
} // namespace

std::span<const MethodDifference> differences() { return rows; }

std::optional<Beside> beside(Method first, double first_fat, Method second, double second_fat)
{
    for (const MethodDifference& d : rows) {
        if (d.first == second && d.second == first) return beside(second, second_fat, first, first_fat);
        if (d.first != first || d.second != second) continue;
        Beside out;
        out.difference = first_fat - second_fat;
        out.usual = out.difference >= d.low && out.difference <= d.high;
        std::string a = first->title;
        const std::string b = second->title;
        a[0] = static_cast<char>(std::toupper(a[0]));
        out.sentence = a + " minus " + b + ": " + signed_number(std::round(10 * out.difference) / 10) +
                       " % fat. On one body the two usually differ by " + signed_number(d.low) + " to " +
                       signed_number(d.high) + (d.mean ? " (mean " + signed_number(*d.mean) + ")" : "") +
                       (out.usual ? ", so they agree." : ": more than usual, look at both again.");
        return out;
    }
    return std::nullopt;
}

} // namespace fusain::compare

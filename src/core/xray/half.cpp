// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/half.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace fusain::xray {
namespace {

using Eigen::Index;

constexpr double head_from_mm = 40, head_to_mm = 150; ///< under the crown: skull, no shoulders
constexpr double legs_from = 0.62, legs_to = 0.85;    ///< of the body's length: two legs with air between them
constexpr double least_gap_mm = 4;
constexpr int fewest_rows = 10;

struct Point {
    double x, y;
};

double median(std::vector<double> values)
{
    const auto mid = values.begin() + static_cast<long>(values.size() / 2);
    std::nth_element(values.begin(), mid, values.end());
    return *mid;
}

/// Of the rows in which `x_of` sees it: the median of both.
template <class XOf>
std::optional<Point> seen(Index from, Index to, double dy, XOf x_of)
{
    std::vector<double> x, y;
    for (Index r = from; r < to; ++r)
        if (const auto at = x_of(r)) {
            x.push_back(*at);
            y.push_back((static_cast<double>(r) + 0.5) * dy);
        }
    if (static_cast<int>(x.size()) < fewest_rows) return std::nullopt;
    return Point{median(x), median(y)};
}

} // namespace

Outcome<Map> mirrored(const Map& map, const Table& table, Half half)
{
    using Refused = Outcome<Map>;
    if (half == Half::none) return map;
    const auto shape = shape_of(map, table);
    if (!shape) return Refused::refuse(shape.messages());
    const Mask& body = shape->body;
    const double dx = map.dx_mm, dy = map.dy_mm;
    Index first = 0, last = body.rows();
    while (first < last && !body.row(first).any()) ++first;
    while (last > first && !body.row(last - 1).any()) --last;
    const auto row = [&](double mm) { return std::clamp<Index>(std::lround(mm / dy), 0, body.rows()); };
    const double crown = static_cast<double>(first) * dy, length = static_cast<double>(last - first) * dy;
    const auto head = seen(row(crown + head_from_mm), row(crown + head_to_mm), dy, [&](Index r) {
        Index a = 0, b = body.cols();
        while (a < b && !body(r, a)) ++a;
        while (b > a && !body(r, b - 1)) --b;
        return b > a ? std::optional(static_cast<double>(a + b) / 2 * dx) : std::nullopt;
    });
    // the widest air that has body on both sides and lies nearest to under the head
    const auto fork =
        !head ? std::nullopt : seen(row(crown + legs_from * length), row(crown + legs_to * length), dy, [&](Index r) {
            std::optional<double> best;
            for (Index c = 0; c < body.cols();) {
                Index end = c;
                while (end < body.cols() && !body(r, end)) ++end;
                const bool between = c > 0 && end < body.cols() && static_cast<double>(end - c) * dx >= least_gap_mm;
                const double x = static_cast<double>(c + end) / 2 * dx;
                if (between && (!best || std::abs(x - head->x) < std::abs(*best - head->x))) best = x;
                c = std::max(end, c) + 1;
            }
            return best;
        });
    if (!head || !fork || !(fork->y > head->y))
        return Refused::refuse({"no_lines", Level::repeat, "",
            "The middle of the body cannot be seen: head and the gap between the legs must lie in the field. Scan "
            "again."});
    const double slope = (fork->x - head->x) / (fork->y - head->y);
    const auto middle = [&](Index r) { return head->x + slope * ((static_cast<double>(r) + 0.5) * dy - head->y); };
    // room for the farther of both sides
    double reach = 0;
    for (Index r : {Index{0}, map.rows() - 1})
        reach = std::max(reach, half == Half::right ? middle(r) : static_cast<double>(map.columns()) * dx - middle(r));
    const auto side = static_cast<Index>(std::ceil(reach / dx)) + 2;
    Map out;
    out.dx_mm = dx;
    out.dy_mm = dy;
    out.low = out.high = Image::Zero(map.rows(), 2 * side);
    const auto value = [&](const Image& from, Index r, double x_mm) {
        const double at = x_mm / dx - 0.5, whole = std::floor(at), part = at - whole;
        const auto c = static_cast<Index>(whole);
        const auto pixel = [&](Index k) { return k >= 0 && k < from.cols() ? from(r, k) : 0.0; };
        return (1 - part) * pixel(c) + part * pixel(c + 1);
    };
    for (Index r = 0; r < map.rows(); ++r)
        for (Index c = 0; c < side; ++c) {
            const double away = (static_cast<double>(c) + 0.5) * dx,
                         x = middle(r) + (half == Half::right ? -away : away);
            for (const auto& [from, to] : {std::pair{&map.low, &out.low}, {&map.high, &out.high}}) {
                const double v = value(*from, r, x);
                (*to)(r, side - 1 - c) = v;
                (*to)(r, side + c) = v;
            }
        }
    return out;
}

} // namespace fusain::xray

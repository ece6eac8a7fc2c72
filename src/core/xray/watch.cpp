// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/watch.h"

#include "core/base/limits.h"
#include "core/xray/scan.h"

#include <algorithm>
#include <cmath>

namespace fusain::xray {
namespace {

using Eigen::Index;

constexpr double seen_mm = 250; ///< of the body, before anything is said of it
constexpr double least_seen_cm2 = 150;
constexpr double feet_mm = 130, run_mm = 15;      ///< the part that tells head from feet
constexpr double beside_mm = 40, opaque_ln = 3.5; ///< a narrow peak over both sides of so many millimetres
/// g/cm²: skull, jaw and the spine behind them lie over each other in the head, nowhere else so much
constexpr double most_bone = 4, most_bone_in_head = 8, head_mm = 320;
constexpr double one_px_noise = 0.28, sure_sd = 5; ///< of a blur of one pixel: 1/√(4π)
constexpr int fewest_metal = 3;                    ///< pixels

/// How many separate stretches of body lie in a row.
int runs(const Mask& body, Index row, Index least)
{
    int found = 0;
    Index length = 0;
    for (Index c = 0; c <= body.cols(); ++c) {
        if (c < body.cols() && body(row, c)) {
            ++length;
            continue;
        }
        found += length >= least;
        length = 0;
    }
    return found;
}

} // namespace

std::optional<Message> wrong_way_round(const Shape& s)
{
    const auto least = std::max<Index>(2, static_cast<Index>(std::lround(run_mm / s.dx_mm)));
    Index first = 0;
    while (first < s.body.rows() && runs(s.body, first, least) == 0) ++first;
    const Index last = first + static_cast<Index>(std::lround(feet_mm / s.dy_mm));
    if (last >= s.body.rows()) return std::nullopt;
    int apart = 0;
    for (Index r = first; r < last; ++r) apart += runs(s.body, r, least) > 1;
    if (2 * apart < static_cast<int>(last - first)) return std::nullopt;
    return Message{"wrong_way_round", Level::repeat, "",
        "The scan begins with two feet, not with a head: the client lies the wrong way round. Stop, turn the client, "
        "and scan again."};
}

std::optional<Message> metal(const Map& map, const Shape& s, const Table& table)
{
    const auto reach = std::max<Index>(2, static_cast<Index>(std::lround(beside_mm / map.dx_mm)));
    // behind a thick trunk a pixel alone says nothing
    const Image high = blurred(map.high, 1), fat = blurred(s.fat, 1),
                most = fat + sure_sd * one_px_noise * blurred(s.variance, 1).max(0.0).sqrt();
    const double reads = Soft(table).fat_of_bone;
    Index crown = 0;
    while (crown < s.body.rows() && !s.body.row(crown).any()) ++crown;
    const Index neck = crown + static_cast<Index>(std::lround(head_mm / map.dy_mm));
    int found = 0;
    Index row = 0;
    for (Index r = 0; r < map.rows(); ++r)
        for (Index c = reach; c + reach < map.columns(); ++c) {
            const double beside = std::max(high(r, c - reach), high(r, c + reach));
            const double bone = r < neck ? most_bone_in_head : most_bone;
            if (!(high(r, c) - beside > opaque_ln || most(r, c) < bone * reads)) continue;
            if (found++ == 0) row = r;
        }
    if (found < fewest_metal) return std::nullopt;
    return Message{"metal", Level::caution, "",
        "At " + limits::plain(static_cast<double>(row) * map.dy_mm, 0) +
            " mm from the top something lets hardly a photon through, over " +
            limits::plain(static_cast<double>(found) * map.pixel_cm2(), 1) +
            " cm²: metal. It reads as bone; where it was on the client and not in, take it off and scan again."};
}

Messages watch(const Map& so_far, const Table& table, bool half)
{
    Messages out;
    const auto shape = shape_of(so_far, table, least_seen_cm2);
    if (!shape) {
        if (shape.messages().front().code == "frames_swapped") out = shape.messages();
        return out;
    }
    Index rows = 0;
    for (Index r = 0; r < shape->body.rows(); ++r) rows += shape->body.row(r).any();
    if (static_cast<double>(rows) * so_far.dy_mm < seen_mm) return out;
    for (auto found : {wrong_way_round(*shape), motion(*shape), half ? std::nullopt : off_sides(*shape)})
        if (found) out.push_back(*found);
    if (const auto found = metal(so_far, *shape, table)) out.push_back(*found);
    return out;
}

} // namespace fusain::xray

// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/scan.h"

#include "core/base/limits.h"
#include "core/xray/visceral.h"
#include "core/xray/watch.h"

#include <algorithm>
#include <cmath>

namespace fusain::xray {
namespace {

using Eigen::Index;

constexpr double edge_mm = 15; ///< of body on the picture's edge
constexpr double jump_mm = 6;  ///< seen as motion; moves of 10 mm are to be caught
constexpr double searched_mm = 40, across_px = 0.7;
constexpr double little_soft_share = 0.85; ///< of a limb over or beside bone: its fat is a guess then
constexpr int calm_rows = 5;               ///< a body's own slant is told from its neighbours

std::vector<Part> parts_by(const Lines& lines, const Shape& shape)
{
    auto all = shares(lines, shape.fat.rows(), shape.fat.cols(), shape.dx_mm, shape.dy_mm);
    std::vector<Part> out;
    for (std::size_t i = 0; i < part_count; ++i) {
        const auto region = static_cast<Region>(i);
        out.push_back({region == Region::head    ? Part::Kind::head
                       : region == Region::trunk ? Part::Kind::trunk
                                                 : Part::Kind::limb,
            std::move(all[i])});
    }
    return out;
}

/// Limbs in which hardly a pixel shows its fat by itself.
Messages little_soft(const Composition& scan, const std::vector<Part>& parts)
{
    Messages out;
    for (std::size_t i = 0; i < parts.size(); ++i) {
        if (parts[i].kind != Part::Kind::limb) continue;
        const Mask here = parts[i].share > 0.5 && scan.area;
        const double share =
            static_cast<double>((here && scan.has_bone).count()) / std::max(1.0, static_cast<double>(here.count()));
        if (share > little_soft_share)
            out.push_back({"little_soft", Level::caution, std::string("regions.") + region_rows[i].id,
                std::string("Of the ") + region_rows[i].title + ' ' + limits::plain(100 * share, 0) +
                    " % lie over bone or beside it: hardly a place shows its fat by itself. Its fat may be far off, "
                    "and its lean "
                    "the other way."});
    }
    return out;
}

/// How far a row lies to the right of the one before it, mm: the shift that leaves the least difference. What grows
/// wider on both sides cancels.
Eigen::ArrayXd shifts(const Shape& shape)
{
    const Image t = blurred(Image(shape.fat + shape.lean), 0, across_px);
    const Index n = t.cols();
    const Index most = std::clamp<Index>(static_cast<Index>(std::lround(searched_mm / shape.dx_mm)), 2, n / 4);
    Eigen::ArrayXd out = Eigen::ArrayXd::Zero(t.rows());
    std::vector<double> left(static_cast<std::size_t>(2 * most + 1));
    for (Index r = 1; r < t.rows(); ++r) {
        for (Index s = -most; s <= most; ++s)
            left[static_cast<std::size_t>(s + most)] =
                (t.row(r).segment(most, n - 2 * most) - t.row(r - 1).segment(most - s, n - 2 * most)).square().sum();
        const auto at = std::min_element(left.begin(), left.end());
        const auto k = static_cast<Index>(at - left.begin());
        double part = 0;
        if (k > 0 && k < 2 * most) { // the bottom of a parabola through three
            const double a = *(at - 1), b = *at, c = *(at + 1);
            if (a - 2 * b + c > 0) part = 0.5 * (a - c) / (a - 2 * b + c);
        }
        out(r) = (static_cast<double>(k - most) + part) * shape.dx_mm;
    }
    return out;
}

} // namespace

namespace {

struct Edge {
    const char* where;
    double mm; ///< of body on it
};

std::optional<Message> over(std::initializer_list<Edge> edges)
{
    for (const Edge& e : edges)
        if (e.mm > edge_mm)
            return Message{"off_field", Level::repeat, "",
                std::string("The body touches the picture's ") + e.where + " edge over " + limits::plain(e.mm, 0) +
                    " mm: something of it was not scanned. Centre the client, or scan one half and mirror it."};
    return std::nullopt;
}

template <class Line>
double mm_of(const Line& line, double step)
{
    return static_cast<double>(line.count()) * step;
}

} // namespace

std::optional<Message> off_sides(const Shape& s)
{
    return over({{"left", mm_of(s.body.col(0), s.dy_mm)}, {"right", mm_of(s.body.col(s.body.cols() - 1), s.dy_mm)}});
}

std::optional<Message> off_field(const Shape& s)
{
    const auto ends =
        over({{"top", mm_of(s.body.row(0), s.dx_mm)}, {"bottom", mm_of(s.body.row(s.body.rows() - 1), s.dx_mm)}});
    return ends ? ends : off_sides(s);
}

std::optional<Message> motion(const Shape& shape)
{
    const Eigen::ArrayXd shift = shifts(shape);
    const Eigen::ArrayXd mass = shape.thickness.rowwise().sum();
    double worst = 0;
    Index at = -1;
    std::vector<double> near;
    for (Index r = 1; r < shift.size(); ++r) {
        if (mass(r) * shape.dx_mm < 300 || mass(r - 1) * shape.dx_mm < 300) continue; // a toe, a crown
        near.clear();
        for (Index k = std::max<Index>(1, r - calm_rows); k <= std::min(shift.size() - 1, r + calm_rows); ++k)
            if (k != r) near.push_back(shift(k));
        std::nth_element(near.begin(), near.begin() + static_cast<long>(near.size() / 2), near.end());
        const double jump = shift(r) - near[near.size() / 2];
        if (std::abs(jump) > std::abs(worst)) {
            worst = jump;
            at = r;
        }
    }
    if (!(std::abs(worst) >= jump_mm)) return std::nullopt;
    return Message{"motion", Level::repeat, "",
        "At " + limits::plain(static_cast<double>(at) * shape.dy_mm, 0) + " mm from the top the rows jump " +
            limits::plain(std::abs(worst), 0) + " mm to the " + (worst > 0 ? "right" : "left") +
            " of the picture: the client moved. Scan again."};
}

Outcome<Scan> read(const Map& map, const Table& table, const Lines* lines, IfSpoilt if_spoilt)
{
    const auto shape = shape_of(map, table);
    if (!shape) return Outcome<Scan>::refuse(shape.messages());
    Messages spoilt;
    for (const auto& wrong : {wrong_way_round(*shape), off_field(*shape), motion(*shape)})
        if (wrong) spoilt.push_back(*wrong);
    if (!spoilt.empty() && (if_spoilt == IfSpoilt::refuse || spoilt.front().code == "wrong_way_round"))
        return Outcome<Scan>::refuse(spoilt.front());
    if (lines)
        if (Messages bad = check(
                *lines, map.dx_mm * static_cast<double>(map.columns()), map.dy_mm * static_cast<double>(map.rows()));
            !bad.empty())
            return Outcome<Scan>::refuse(std::move(bad));
    // what the pixels hold must not depend on who drew the lines
    const auto placed = place(*shape);
    if (!placed && !lines) return Outcome<Scan>::refuse(spoilt.empty() ? placed.messages() : spoilt);
    Scan out;
    out.lines_given = lines;
    out.lines = lines ? *lines : *placed;
    const std::vector<Part> parts = parts_by(placed ? *placed : *lines, *shape);
    out.made_of = decompose(*shape, table, parts);
    out.regions = regions(out.made_of, out.lines);
    out.photons_kg = std::sqrt(shape->body.select(shape->variance, 0).sum()) * map.pixel_cm2() / 1000;
    out.visceral = visceral_fat(out.made_of, out.lines);
    Messages cautions = std::move(spoilt);
    for (Message& m : little_soft(out.made_of, parts)) cautions.push_back(std::move(m));
    if (const auto found = metal(map, *shape, table)) cautions.push_back(*found);
    return {std::move(out), std::move(cautions)};
}

} // namespace fusain::xray

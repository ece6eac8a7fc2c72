// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/table/anatomy.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fusain::virt {
namespace {

using Eigen::Index;
using xray::Image;

constexpr double fat_g_per_mm = 0.0907, lean_g_per_mm = 0.1055; ///< g/cm² in a millimetre
constexpr double lung_g_per_mm = 0.030;
constexpr double marbling = 0.045;     ///< fat within muscle and organs
constexpr double head_marbling = 0.15; ///< brain and skin
constexpr double bone_room = 0.55;     ///< soft tissue that a gram of bone mineral displaces, g
constexpr double crown_mm = 70;        ///< above it the field begins

/// In shares of height, from the middle and from the crown.
struct At {
    double x, y;
};
/// A tapered limb with an oval section: half widths at both ends, depth over width, coat over the usual one.
struct Limb {
    At a, b;
    double ra, rb, depth, coat;
    bool is_arm() const { return a.x > 0.1; }
};
constexpr At shoulder{0.106, 0.197}, elbow{0.140, 0.375}, wrist{0.140, 0.520}, fingers{0.133, 0.615};
constexpr At hip{0.060, 0.487}, knee{0.049, 0.710}, ankle{0.047, 0.950}, toes{0.052, 0.995};
constexpr Limb limbs[] = {{shoulder, elbow, 0.0270, 0.0215, 1.0, 0.8}, {elbow, wrist, 0.0220, 0.0135, 0.9, 0.6},
    {wrist, fingers, 0.0150, 0.0125, 0.45, 0.35}, {hip, knee, 0.0500, 0.0335, 1.0, 1.25},
    {knee, {0.048, 0.78}, 0.0335, 0.0340, 1.0, 0.7}, {{0.048, 0.78}, ankle, 0.0340, 0.0190, 1.05, 0.6},
    {ankle, toes, 0.0200, 0.0230, 2.2, 0.7}};
/// Trunk, neck and head: half width, half depth, coat at a height.
struct Slice {
    double y, half, depth, coat;
};
constexpr Slice trunk[] = {{0.000, 0.004, 0.010, 0.05}, {0.010, 0.026, 0.032, 0.05}, {0.035, 0.040, 0.048, 0.08},
    {0.070, 0.043, 0.052, 0.10}, {0.105, 0.037, 0.045, 0.20}, {0.128, 0.031, 0.038, 0.40}, {0.145, 0.029, 0.033, 0.50},
    {0.165, 0.034, 0.036, 0.6}, {0.178, 0.066, 0.045, 0.6}, {0.200, 0.098, 0.056, 0.7}, {0.250, 0.095, 0.064, 0.9},
    {0.320, 0.087, 0.063, 1.0}, {0.370, 0.083, 0.060, 1.3}, {0.420, 0.089, 0.062, 1.5}, {0.470, 0.098, 0.066, 1.4},
    {0.510, 0.094, 0.062, 1.3}, {0.530, 0.070, 0.045, 1.2}, {0.540, 0.030, 0.020, 1.0}};
struct Bone {
    At a, b;
    double ra, rb, g_per_cm2;
    bool is_arm() const { return a.x > 0.1; }
};
/// Of the right side; the left is its mirror. Areal densities before scaling to the body's bone mineral.
constexpr Bone bones[] = {{shoulder, shoulder, 0.0140, 0.0140, 1.2}, {shoulder, elbow, 0.0078, 0.0070, 1.1},
    {elbow, elbow, 0.0110, 0.0110, 1.0}, {{0.137, 0.38}, {0.135, 0.515}, 0.0045, 0.0045, 0.9},
    {{0.146, 0.38}, {0.147, 0.515}, 0.0040, 0.0045, 0.8}, {{0.141, 0.527}, {0.135, 0.60}, 0.0100, 0.0085, 0.30},
    {{0.02, 0.193}, {0.098, 0.187}, 0.0040, 0.0040, 0.5}, {{0.066, 0.205}, {0.052, 0.262}, 0.0200, 0.0060, 0.18},
    {hip, hip, 0.0145, 0.0145, 1.6}, {{0.066, 0.492}, {0.076, 0.512}, 0.0090, 0.0110, 1.5},
    {{0.078, 0.51}, {0.054, 0.700}, 0.0090, 0.0085, 1.7}, {knee, knee, 0.0170, 0.0170, 1.5},
    {{0.047, 0.725}, {0.045, 0.940}, 0.0085, 0.0065, 1.4}, {{0.062, 0.735}, {0.056, 0.935}, 0.0032, 0.0032, 0.7},
    {{0.047, 0.955}, {0.052, 0.985}, 0.0130, 0.0140, 1.1}, {{0.040, 0.412}, {0.046, 0.448}, 0.0250, 0.0220, 0.42},
    {{0.030, 0.495}, {0.012, 0.510}, 0.0070, 0.0060, 0.8}, {{0.030, 0.520}, {0.014, 0.512}, 0.0060, 0.0060, 0.7}};

double at(const Slice& a, const Slice& b, double y, double Slice::*what)
{
    const double t = std::clamp((y - a.y) / (b.y - a.y), 0.0, 1.0), s = t * t * (3 - 2 * t);
    return a.*what + s * (b.*what - a.*what);
}

/// Chord of an oval at so far from its middle.
double chord(double half, double depth, double x)
{
    return half > 0 && std::abs(x) < half ? 2 * depth * std::sqrt(1 - x * x / (half * half)) : 0;
}

/// Where on a line from a to b a spot lies, and how far from it.
struct Foot {
    double t, d;
    bool outwards; ///< of the line
};
Foot foot(const At& a, const At& b, double x, double y)
{
    const double ux = b.x - a.x, uy = b.y - a.y, length2 = ux * ux + uy * uy;
    const double t = length2 > 0 ? std::clamp(((x - a.x) * ux + (y - a.y) * uy) / length2, 0.0, 1.0) : 0;
    return {t, std::hypot(x - a.x - t * ux, y - a.y - t * uy), x > a.x + t * ux};
}

class Painter {
public:
    Painter(const Body& body, const Posture& posture, double width_mm, double height_mm, double pixel_mm)
        : body_(body), p_(posture), h_(10 * body.height_cm), px_(pixel_mm),
          rows_(static_cast<Index>(std::lround(height_mm / pixel_mm))),
          columns_(static_cast<Index>(std::lround(width_mm / pixel_mm))), middle_mm_(width_mm / 2 + posture.centre_mm)
    {
    }

    /// `wide`: half widths over the usual; `coat`: of fat, in shares of height; `mineral`: of the bones' densities.
    TrueMap paint(double wide, double coat, double mineral) const
    {
        TrueMap out;
        out.dx_mm = out.dy_mm = px_;
        out.fat = out.lean = out.bone = out.visceral = Image::Zero(rows_, columns_);
        const double turn = p_.turned_deg * std::numbers::pi / 180, area = px_ * px_ / 100;
        for (Index r = 0; r < rows_; ++r)
            for (Index c = 0; c < columns_; ++c) {
                const double x0 = (static_cast<double>(c) + 0.5) * px_ - middle_mm_,
                             y0 = (static_cast<double>(r) + 0.5) * px_ - crown_mm - h_ / 2;
                const double x = (x0 * std::cos(turn) + y0 * std::sin(turn)) / h_,
                             y = (y0 * std::cos(turn) - x0 * std::sin(turn)) / h_ + 0.5;
                const Spot s = spot(x, y, wide, coat, mineral);
                out.fat(r, c) = s.fat;
                out.lean(r, c) = s.lean;
                out.bone(r, c) = s.bone;
                out.visceral(r, c) = s.visceral;
                out.visceral_fat_kg += s.visceral * area / 1000;
            }
        out.lines = lines(wide, coat);
        return out;
    }

private:
    struct Spot {
        double fat = 0, lean = 0, bone = 0, visceral = 0;
    };

    double side_lean(double x, bool arm) const
    {
        return x < 0 ? arm ? body_.right_arm : body_.right_leg : arm ? body_.left_arm : body_.left_leg;
    }
    /// Moved outwards where the arms hang: the further down, the more.
    At hung(At a, bool arm) const
    {
        if (arm) a.x += (p_.arms_out - 1) * 0.022 * std::clamp((a.y - shoulder.y) / 0.2, 0.0, 1.0);
        return a;
    }
    const Slice& above(double y) const
    {
        std::size_t i = 0;
        while (i + 2 < std::size(trunk) && y > trunk[i + 1].y) ++i;
        return trunk[i];
    }
    double trunk_half(double y, double wide) const
    {
        const Slice &a = above(y), &b = *(&a + 1);
        const double shape = y > 0.42 ? p_.hips : y > 0.30 ? p_.waist : 1;
        return y < 0 || y > 0.54 ? 0 : at(a, b, y, &Slice::half) * (y < 0.17 ? 1 : wide * shape);
    }
    double trunk_coat(double y, double coat) const
    {
        const Slice &a = above(y), &b = *(&a + 1);
        return at(a, b, y, &Slice::coat) * coat * (y > 0.18 ? p_.coat_on_trunk : 1);
    }

    /// Outer and inner chord, mm, of the thickest part at this place.
    Spot spot(double x, double y, double wide, double coat, double mineral) const
    {
        Spot s;
        double outer = 0, inner = 0, lungs = 0, visceral = 0;
        const double ax = std::abs(x);
        if (const double half = trunk_half(y, wide); half > 0) {
            const Slice &a = above(y), &b = *(&a + 1);
            const double depth = at(a, b, y, &Slice::depth) * (y < 0.17 ? 1 : wide), c = trunk_coat(y, coat);
            outer = chord(half + c, depth + c, x);
            inner = chord(half, depth, x);
            const Foot lung = foot({0.040 * wide, 0.225}, {0.045 * wide, 0.305}, ax, y);
            if (lung.d < 0.030 * wide) lungs = 1.3 * depth * std::sqrt(1 - lung.d * lung.d / (0.0009 * wide * wide));
            const double vx = x / (0.060 * wide), vy = (y - 0.40) / 0.075;
            if (vx * vx + vy * vy < 1) visceral = 2 * 0.042 * wide * std::sqrt(1 - vx * vx - vy * vy);
        }
        for (const Limb& l : limbs) {
            const double thick = wide * std::sqrt(side_lean(x, l.is_arm()));
            const Foot f = foot(hung(l.a, l.is_arm()), hung(l.b, l.is_arm()), ax, y);
            const double r = (l.ra + f.t * (l.rb - l.ra)) * thick, c = l.coat * coat;
            const double depth = l.depth * p_.flat, o = chord(r + c, depth * (r + c), f.d);
            if (o <= outer) continue;
            outer = o;
            inner = chord(r, depth * r, f.d + (f.outwards ? -1 : 1) * p_.off_centre * c);
            lungs = visceral = 0;
        }
        if (!(outer > 0)) return s;
        for (const Bone& b : bones) {
            const Foot f = foot(hung(b.a, b.is_arm()), hung(b.b, b.is_arm()), ax, y);
            const double r = b.ra + f.t * (b.rb - b.ra);
            if (f.d < r) s.bone = std::max(s.bone, b.g_per_cm2 * std::sqrt(1 - 0.85 * f.d * f.d / (r * r)));
        }
        s.bone = mineral * std::max(s.bone, axial(x, y, wide));
        const double mm = h_ * inner, air = std::min(h_ * lungs, 0.8 * mm);
        const double deep =
            std::clamp(p_.visceral_share / 0.12 * 0.30, 0.0, 0.75) * h_ * std::min(visceral, 0.8 * inner);
        const double muscle =
            std::max(0.0, lean_g_per_mm * (mm - air - deep) + lung_g_per_mm * air - bone_room * s.bone);
        s.visceral = fat_g_per_mm * deep;
        const double within = y < 0.147 ? head_marbling : marbling;
        s.fat = fat_g_per_mm * h_ * (outer - inner) + s.visceral + within * muscle;
        s.lean = (1 - within) * muscle;
        return s;
    }

    /// Skull, jaw, spine and ribs.
    double axial(double x, double y, double wide) const
    {
        double g = 0;
        const double sx = x / 0.040, sy = (y - 0.062) / 0.062, skull = sx * sx + sy * sy;
        if (skull < 1) {
            const double in = skull / 0.80;
            g = 2.0 * (std::sqrt(1 - skull) - (in < 1 ? 0.82 * std::sqrt(1 - in) : 0)) + (y > 0.075 ? 0.5 : 0.15);
        }
        const double ax = std::abs(x);
        if (y > 0.095 && y < 0.128 && ax < 0.030 && ax > 0.030 * (y < 0.118 ? 0.55 : 0)) g = std::max(g, 1.0);
        if (y > 0.11 && y < 0.435) {
            const double half = 0.009 + 0.010 * std::clamp((y - 0.14) / 0.25, 0.0, 1.0);
            if (ax < half)
                g = std::max(g, (0.75 + 0.35 * y / 0.4) * (0.85 + 0.15 * std::sin(y * 2 * std::numbers::pi / 0.021)));
        }
        if (y > 0.425 && y < 0.47 && ax < 0.022 * (0.47 - y) / 0.045 + 0.006) g = std::max(g, 0.7);
        const double cage = 0.076 * wide * (0.70 + 0.30 * std::min(1.0, (y - 0.19) / 0.06));
        if (y > 0.19 && y < 0.345 && ax < cage) {
            const double drop = 0.035 * (ax / cage) * (ax / cage); // a rib runs down and outwards
            const double phase = std::fmod((y - 0.19 - drop + 1.0) / 0.0155, 1.0);
            const double away = std::abs(phase - 0.5) * 0.0155;
            if (away < 0.0030 && (y < 0.30 || ax > 0.035)) g = std::max(g, 0.26 + (ax > 0.92 * cage ? 0.15 : 0));
        }
        return g;
    }

    xray::Spot mm(double x, double y) const
    {
        const double turn = p_.turned_deg * std::numbers::pi / 180, u = h_ * x, v = h_ * (y - 0.5);
        return {middle_mm_ + u * std::cos(turn) - v * std::sin(turn),
            crown_mm + h_ / 2 + u * std::sin(turn) + v * std::cos(turn)};
    }

    xray::Lines lines(double wide, double coat) const
    {
        xray::Lines out;
        out.neck_mm = mm(0, 0.147).y_mm;
        out.pelvis_mm = mm(0, 0.389).y_mm;
        for (int side : {-1, 1}) {
            xray::Polyline& arm = side < 0 ? out.right_arm : out.left_arm;
            arm.push_back(mm(side * 0.091 * wide, 0.175));
            for (double y : {0.24, 0.28, 0.32, 0.36, 0.40, 0.45, 0.50, 0.54, 0.58, 0.61}) {
                const Limb& l = limbs[y < elbow.y ? 0 : y < wrist.y ? 1 : 2];
                const At a = hung(l.a, true), b = hung(l.b, true);
                const double t = std::clamp((y - a.y) / (b.y - a.y), 0.0, 1.0);
                const double inner = a.x + t * (b.x - a.x) - (l.ra + t * (l.rb - l.ra)) * wide - l.coat * coat;
                const double thigh =
                    hip.x + (0.050 - 0.0165 * std::clamp((y - hip.y) / 0.22, 0.0, 1.0)) * wide + 1.25 * coat;
                const double body = std::max(
                    trunk_half(y, wide) > 0 ? trunk_half(y, wide) + trunk_coat(y, coat) : 0, y > hip.y ? thigh : 0);
                arm.push_back(mm(side * (inner + body) / 2, y));
            }
            xray::Polyline& leg = side < 0 ? out.right_leg : out.left_leg;
            leg = {mm(side * 0.125, 0.530 - 0.125 * 1.05), mm(0, 0.530)};
        }
        for (double y : {0.530, 0.60, 0.70, 0.80, 0.90, 1.0}) out.between_legs.push_back(mm(0, y));
        return out;
    }

    Body body_;
    Posture p_;
    double h_, px_;
    Index rows_, columns_;
    double middle_mm_;
};

} // namespace

xray::Regions TrueMap::regions(const xray::Lines& by) const
{
    xray::Composition c;
    c.fat = fat;
    c.lean = lean;
    c.bone = bone;
    c.area = fat + lean + bone >= 1;
    c.dx_mm = dx_mm;
    c.dy_mm = dy_mm;
    return xray::regions(c, by);
}

double TrueMap::visceral_g(const xray::Lines& by) const
{
    xray::Composition c;
    c.fat = visceral;
    c.lean = c.bone = Image::Zero(fat.rows(), fat.cols());
    c.area = visceral > 0;
    c.dx_mm = dx_mm;
    c.dy_mm = dy_mm;
    return xray::regions(c, by)[xray::index(xray::Region::android)].fat_g;
}

TrueMap lie_down(const Body& body, const Posture& posture, double width_mm, double height_mm, double pixel_mm)
{
    constexpr double coarse_mm = 8;
    const Painter draft(body, posture, width_mm, height_mm, coarse_mm);
    double wide = 1, coat = 0.008, mineral = 1;
    const auto sums = [](const TrueMap& m) {
        const double area = m.dx_mm * m.dy_mm / 1e5; // kg of a g/cm²
        return std::array{m.fat.sum() * area, m.lean.sum() * area, m.bone.sum() * area};
    };
    const auto better = [&](const Painter& painter, int times) {
        for (int i = 0; i < times; ++i) {
            const auto [fat, lean, bone] = sums(painter.paint(wide, coat, mineral));
            const double wanted_bone = posture.bone_share * body.fat_free_mass_kg;
            mineral *= wanted_bone / bone;
            wide *= std::sqrt((body.fat_free_mass_kg - wanted_bone) / lean);
            coat *= std::clamp(body.fat_mass_kg / fat, 0.5, 2.0);
        }
    };
    better(draft, 12);
    const Painter fine(body, posture, width_mm, height_mm, pixel_mm);
    better(fine, 2);
    return fine.paint(wide, coat, mineral);
}

} // namespace fusain::virt

// SPDX-License-Identifier: GPL-3.0-or-later
// Lines by the shape of the body. Every limit here is this lab's rule, found on synthetic bodies.
#include "core/xray/lines.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace fusain::xray {
namespace {

using Eigen::Index;

// shares of the body's length from crown to sole
constexpr double neck_from = 0.08, neck_to = 0.22, fork_from = 0.45, legs_apart_at = 0.66;
constexpr double crest_above_fork = 0.132, crest_search = 0.035, flank_from = 0.150, flank_to = 0.178,
                 wing_from = 0.095, wing_to = 0.118;
constexpr double arm_seen_from = 0.06, arm_seen_to = 0.30; ///< below the neck an arm hangs beside the trunk
constexpr double fork_depth = 0.55;                        ///< of the thighs beside it: shallower is pelvis
constexpr double armpit_depth = 0.88;                      ///< of the arm beside it: shallower is shoulder
constexpr double shoulder_lean = 0.04, leg_slope = 1.06;
constexpr double vertex_mm = 60;

class Placer {
public:
    explicit Placer(const Shape& shape) : s_(shape), t_(shape.thickness) {}

    Outcome<Lines> place()
    {
        if (!frame()) return none("the picture is no whole body from crown to sole");
        Lines out;
        neck_ = thinnest_row();
        out.neck_mm = y_of(neck_);
        if (!find_fork(out)) return none("no legs are found");
        out.pelvis_mm = find_crest();
        if (!(out.pelvis_mm > out.neck_mm)) return none("no pelvis is found");
        out.right_arm = arm(-1);
        out.left_arm = arm(+1);
        out.right_leg = leg(out.right_arm, -1);
        out.left_leg = leg(out.left_arm, +1);
        const Messages bad =
            check(out, s_.dx_mm * static_cast<double>(t_.cols()), s_.dy_mm * static_cast<double>(t_.rows()));
        if (!bad.empty()) return none("the lines by the shape of the body cross (" + bad.front().text + ")");
        return out;
    }

private:
    static Outcome<Lines> none(const std::string& why)
    {
        return Outcome<Lines>::refuse(
            {"no_lines", Level::repeat, "lines", "Lines cannot be placed: " + why + ". Draw them, or scan again."});
    }
    double y_of(double row) const { return (row + 0.5) * s_.dy_mm; }
    double x_of(double column) const { return (column + 0.5) * s_.dx_mm; }
    Index rows_of(double share) const { return static_cast<Index>(std::lround(share * static_cast<double>(length_))); }
    Index px(double mm) const { return std::max<Index>(1, static_cast<Index>(std::lround(mm / s_.dx_mm))); }
    Index row(Index r) const { return std::clamp<Index>(r, top_, bottom_); }

    bool frame()
    {
        const Eigen::ArrayXd wide = as_image(s_.body).rowwise().sum();
        top_ = -1;
        for (Index r = 0; r < wide.size(); ++r)
            if (wide(r) * s_.dx_mm > 20) {
                if (top_ < 0) top_ = r;
                bottom_ = r;
            }
        length_ = bottom_ - top_ + 1;
        return top_ >= 0 && static_cast<double>(length_) * s_.dy_mm > 600;
    }

    /// Mass of a row around the body's middle, without arms.
    Index thinnest_row() const
    {
        Index at = top_;
        double least = 1e300;
        for (Index r = top_ + rows_of(neck_from); r <= top_ + rows_of(neck_to); ++r) {
            const double mass = t_.row(r).sum();
            if (mass < least) {
                least = mass;
                at = r;
            }
        }
        return at;
    }

    double middle_of(Index r) const
    {
        double mass = 0, moment = 0;
        for (Index c = 0; c < t_.cols(); ++c) {
            mass += t_(r, c);
            moment += t_(r, c) * static_cast<double>(c);
        }
        return mass > 0 ? moment / mass : static_cast<double>(t_.cols()) / 2;
    }
    Index least_between(Index r, Index from, Index to) const
    {
        Index at = std::clamp<Index>(from, 0, t_.cols() - 1);
        for (Index c = at; c <= std::min(to, t_.cols() - 1); ++c)
            if (t_(r, c) < t_(r, at)) at = c;
        return at;
    }
    double most_between(Index r, Index from, Index to) const
    {
        double most = 0;
        for (Index c = std::max<Index>(0, from); c <= std::min(to, t_.cols() - 1); ++c) most = std::max(most, t_(r, c));
        return most;
    }
    /// The middle of a gap of air around a column; the column itself where there is none.
    double middle_of_gap(Index r, Index c) const
    {
        if (t_(r, c) > 0.3) return static_cast<double>(c);
        Index a = c, b = c;
        while (a > 0 && t_(r, a - 1) <= 0.3) --a;
        while (b + 1 < t_.cols() && t_(r, b + 1) <= 0.3) ++b;
        return a == 0 || b + 1 == t_.cols() ? static_cast<double>(c) : static_cast<double>(a + b) / 2;
    }

    bool find_fork(Lines& out)
    {
        Index r = row(top_ + rows_of(legs_apart_at));
        const auto centre = static_cast<Index>(std::lround(middle_of(r)));
        Index c = least_between(r, centre - px(60), centre + px(60));
        const auto depth = [&](Index at) {
            const double peaks = std::min(most_between(at, c - px(120), c), most_between(at, c, c + px(120)));
            return peaks > 0 ? t_(at, c) / peaks : 1;
        };
        if (!(depth(r) < fork_depth)) return false;
        const Index seen_at = r, seen_c = c;
        std::vector<std::pair<Index, double>> gap;
        for (; r > top_ + rows_of(fork_from); --r) {
            c = least_between(r, c - 2, c + 2);
            if (!(depth(r) < fork_depth)) break;
            gap.emplace_back(r, middle_of_gap(r, c));
        }
        fork_ = r;
        fork_column_ = gap.empty() ? static_cast<double>(c) : gap.back().second;
        std::reverse(gap.begin(), gap.end());
        c = seen_c;
        for (r = seen_at + 1; r <= bottom_; ++r) {
            c = least_between(r, c - 2, c + 2);
            gap.emplace_back(r, middle_of_gap(r, c));
        }
        out.between_legs.push_back({x_of(fork_column_), y_of(static_cast<double>(fork_) + 0.5)});
        add_line(out.between_legs, gap);
        return out.between_legs.size() > 1;
    }

    /// Points of a traced gap, one every so many millimetres, each the mean of its neighbours.
    void add_line(Polyline& line, const std::vector<std::pair<Index, double>>& gap) const
    {
        const auto step = static_cast<std::size_t>(std::max(1.0, std::round(vertex_mm / s_.dy_mm)));
        for (std::size_t i = step / 2; i < gap.size(); i += step) {
            const std::size_t a = i >= step / 2 ? i - step / 2 : 0, b = std::min(gap.size(), i + step / 2 + 1);
            double x = 0;
            for (std::size_t k = a; k < b; ++k) x += gap[k].second;
            const double y = y_of(static_cast<double>(gap[i].first));
            if (line.empty() || y > line.back().y_mm + s_.dy_mm / 2)
                line.push_back({x_of(x / static_cast<double>(b - a)), y});
        }
    }

    /// Where apparent fat beside the spine falls, because the wings of the pelvis begin.
    double find_crest() const
    {
        const auto beside_spine = [&](Index r) {
            double sum = 0, weight = 0;
            const double centre = fork_column_;
            for (Index c = 0; c < t_.cols(); ++c) {
                const double mm = std::abs(static_cast<double>(c) - centre) * s_.dx_mm;
                if (mm < 50 || mm > 110 || !s_.body(r, c)) continue;
                sum += s_.fat(r, c) / s_.variance(r, c);
                weight += 1 / s_.variance(r, c);
            }
            return weight > 0 ? sum / weight : 0;
        };
        const auto mean = [&](double from, double to) {
            double sum = 0;
            int n = 0;
            for (Index r = fork_ - rows_of(to); r <= fork_ - rows_of(from); ++r, ++n) sum += beside_spine(row(r));
            return n ? sum / n : 0;
        };
        const double expected = y_of(static_cast<double>(fork_ - rows_of(crest_above_fork)));
        const double flank = mean(flank_from, flank_to), wing = mean(wing_from, wing_to);
        if (!(flank - wing > 1.5)) return expected; // too noisy to tell
        for (Index r = fork_ - rows_of(crest_above_fork + crest_search);
             r <= fork_ - rows_of(crest_above_fork - crest_search); ++r) {
            const double three = (beside_spine(row(r)) + beside_spine(row(r + 1)) + beside_spine(row(r + 2))) / 3;
            if (three < (2 * flank + wing) / 3) return y_of(static_cast<double>(r));
        }
        return expected;
    }

    /// One arm's line, side −1 on the picture's left.
    Polyline arm(int side) const
    {
        // the gap between arm and trunk, first where it is deepest
        const auto outermost = [&](Index r) {
            Index c = side < 0 ? 0 : t_.cols() - 1;
            while (c >= 0 && c < t_.cols() && !s_.body(r, c)) c -= side;
            return c;
        };
        const auto gap_at = [&](Index r, double& depth) {
            Index at = -1;
            depth = 1;
            double peak = 0;
            const Index edge = outermost(r);
            for (Index c = edge, n = 0; c >= 0 && c < t_.cols() && n < px(190); c -= side, ++n) {
                if (n > 2 && peak > 2 && t_(r, c) / peak < depth && t_(r, c) < 0.8 * peak) {
                    depth = t_(r, c) / peak;
                    at = c;
                }
                if (at < 0) peak = std::max(peak, t_(r, c));
                if (at >= 0 && t_(r, c) > 1.5 * peak) break; // the trunk
            }
            return at;
        };
        Index best_row = -1, best = -1;
        double deepest = 0.75;
        for (Index r = neck_ + rows_of(arm_seen_from); r <= neck_ + rows_of(arm_seen_to); ++r) {
            double depth = 1;
            const Index c = gap_at(row(r), depth);
            if (c >= 0 && depth < deepest) {
                deepest = depth;
                best = c;
                best_row = row(r);
                if (depth < 0.02) break; // air
            }
        }
        const double shoulder_y = y_of(static_cast<double>(neck_)) + 0.01 * static_cast<double>(length_) * s_.dy_mm;
        if (best < 0) { // arms beside nothing: the line of the outermost tenth
            const double x = x_of(static_cast<double>(outermost(row(neck_ + rows_of(0.15))))) - side * 60;
            return {{x, shoulder_y}, {x, y_of(static_cast<double>(fork_))}};
        }
        std::vector<std::pair<Index, double>> gap;
        Index c = best;
        const auto arm_peak = [&](Index r) {
            const Index edge = outermost(r);
            return side < 0 ? most_between(r, edge, c) : most_between(r, c, edge);
        };
        for (Index r = best_row; r > neck_; --r) {
            c = least_between(r, c - 1, c + 1);
            if (!(t_(r, c) < armpit_depth * arm_peak(r))) break;
            gap.emplace_back(r, middle_of_gap(r, c));
        }
        std::reverse(gap.begin(), gap.end());
        c = best;
        for (Index r = best_row + 1; r <= bottom_; ++r) {
            c = least_between(r, c - 1, c + 1);
            const Index edge = outermost(r);
            if ((edge - c) * side <= 1) break; // the hand has ended
            gap.emplace_back(r, middle_of_gap(r, c));
        }
        Polyline line;
        if (gap.empty()) gap.emplace_back(best_row, static_cast<double>(best));
        const double armpit_x = x_of(gap.front().second), armpit_y = y_of(static_cast<double>(gap.front().first));
        if (armpit_y > shoulder_y + s_.dy_mm)
            line.push_back({armpit_x + side * shoulder_lean * (armpit_y - shoulder_y), shoulder_y});
        line.push_back({armpit_x, armpit_y});
        add_line(line, gap);
        line.push_back({line.back().x_mm, line.back().y_mm + vertex_mm}); // straight down beside the leg
        return line;
    }

    /// From the body's outer side up at the hip down to the fork.
    Polyline leg(const Polyline& arm_line, int side) const
    {
        const Spot fork{x_of(fork_column_), y_of(static_cast<double>(fork_) + 0.5)};
        Spot outer = fork;
        while (outer.y_mm > y_of(static_cast<double>(neck_)) && (x_at(arm_line, outer.y_mm) - outer.x_mm) * side > 0) {
            outer.x_mm += side * s_.dx_mm;
            outer.y_mm -= leg_slope * s_.dx_mm;
        }
        return {outer, fork};
    }

    const Shape& s_;
    const Image& t_;
    Index top_ = 0, bottom_ = 0, length_ = 0, neck_ = 0, fork_ = 0;
    double fork_column_ = 0;
};

} // namespace

Outcome<Lines> place(const Shape& shape) { return Placer(shape).place(); }

} // namespace fusain::xray

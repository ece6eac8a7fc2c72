// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/decompose.h"

#include "core/base/limits.h"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace fusain::xray {
namespace {

using Eigen::ArrayXd;
using Eigen::Index;

constexpr double body_g_per_cm2 = 1.0;
constexpr int air_from_px = 3;
constexpr double air_g_per_cm2 = 0.2;   ///< under it nothing is in the beam
constexpr double default_photons = 1e5; ///< a pixel, where there is no air to tell
constexpr double fine_px = 0.7, coarse_px = 1.5;
constexpr double sure_sd = 3, sure_g = 0.5; ///< apparent fat so far under nothing is bone
constexpr double bone_sd = 3, bone_g = 0.3;
constexpr double limb_bone_share = 0.1, trunk_bone_share = 0.12; ///< so far under what surrounds it is bone
constexpr double above_sd = 2.5, above_g = 0.5;                  ///< so far over what surrounds it fits nothing
constexpr double limb_rim = 0.5;                                 ///< of the thickest of that height
constexpr int limb_rim_px = 2, edge_px = 3;
constexpr double edge_counts =
    0.02; ///< so near the blurred edge a pixel tells little of the coat; alone, it is better than none
constexpr double trunk_rim_mm = 25;
constexpr double tip_mm = 25; ///< of a hand or foot: coat from every side, which tells nothing of the coat along a limb
constexpr double own_g =
    1; ///< what soft tissue varies by itself: or thin places, fatter and less noisy, would count for all
constexpr double near_rows_mm = 20, near_columns_mm = 15;
constexpr double alike_rows_mm = 40, alike_columns_mm = 7; ///< what the law of the coat leaves is alike along a limb
constexpr double wide_px = 3, hides_g = 0.85; ///< of error in the coarse mean: from there bone is looked for wider
constexpr double muscles_own_fat = 0.05;
constexpr double least_muscle =
    0.6;                          ///< of the thickest, in the weight of a pixel: nearly all coat must not count for all
constexpr double all_coat = 0.85; ///< of a pixel: it tells nothing of how thick the coat is
constexpr double trunk_expectile = 0.8,
                 limb_expectile = 0.65; ///< the first guess leans upwards: bone only lowers apparent fat
constexpr int first_rounds = 8, rounds = 10;
constexpr double usual_fat = 0.20,
                 head_follows = 0.22; ///< of what the rest of the body holds over the usual, its head has so much more
constexpr double thinnest = 0.3;      ///< of the thickest, in the law of the coat

/// Photons in a pixel of plain air, from its scatter there: var(ln) = 1/N.
double photons_in(const Image& log, const Mask& air)
{
    std::vector<double> values;
    for (Index i = 0; i < log.size(); ++i)
        if (air.data()[i]) values.push_back(log.data()[i]);
    if (values.size() < 200) return default_photons;
    const auto middle = [](std::vector<double>& v) {
        const auto at = v.begin() + static_cast<long>(v.size() / 2);
        std::nth_element(v.begin(), at, v.end());
        return *at;
    };
    const double median = middle(values);
    for (double& v : values) v = std::abs(v - median);
    const double sd = 1.4826 * middle(values);
    return 1 / std::max(sd * sd, 1e-9);
}

/// Of N photons the mean of ln N lies under the logarithm of their mean, that of ln(N + ½) on it, down to two of them.
Image unbiased(const Image& log, double photons) { return -((-log).exp() + 0.5 / photons).log(); }

/// The variance of a pixel's logarithm, from the photons that arrive around it.
Image noise(const Image& log, double photons) { return (blurred(Image((-log).exp()), 1) * photons).max(0.5).inverse(); }

/// Mean over a neighbourhood, weighted, with its standard error.
struct Smoothed {
    Image value, sd;
};
Smoothed smoothed(const Image& values, const Image& weight, const Image& variance, double px)
{
    const Image sum = blurred(weight, px).max(1e-15);
    constexpr double pi = 3.14159265358979323846;
    const Image square = blurred(Image(weight.square() * variance), px / std::sqrt(2.0)) / (4 * pi * px * px);
    return {blurred(Image(values * weight), px) / sum, square.sqrt() / sum};
}

/// One part of the body on its way from apparent to true fat.
class PartReader {
public:
    PartReader(const Shape& shape, const Part& part, const Image& depth) : shape_(shape)
    {
        const bool trunk = part.kind == Part::Kind::trunk;
        trunk_ = trunk;
        inside_ = shape.body && part.share > 0.5;
        const Image in = as_image(inside_);
        weight_ = in / (shape.variance + own_g * own_g);
        const Image total = shape.fat + shape.lean;
        const Image thickness = (blurred(Image(total * in), 1) / blurred(in, 1).max(1e-9) * in).max(0.0);
        if (trunk) {
            rim_ = inside_ && depth <= std::round(trunk_rim_mm / shape.dx_mm);
        } else {
            const ArrayXd most = blurred(thickest(thickness), 10 / shape.dy_mm).max(0.5);
            size_ = most.replicate(1, in.cols());
            relative_ = (thickness / size_).max(thinnest).min(1.0);
            const Image fat = (shape.fat / size_ - muscles_own_fat * relative_) / (1 - muscles_own_fat);
            coat_ = 2 * relative_ * fat - fat.square();
            const Image muscle = (relative_ - fat).max(least_muscle);
            coat_weight_ =
                size_.square() / muscle.square() *
                (depth < edge_px)
                    .select(Image::Constant(in.rows(), in.cols(), edge_counts), Image::Ones(in.rows(), in.cols()));
            rim_ = inside_ && (relative_ < limb_rim || depth < limb_rim_px || fat > all_coat * relative_ ||
                                  tip(static_cast<Index>(tip_mm / shape.dy_mm)));
        }
        zone_ = inside_ && !rim_;
        find_sure();
        fit();
    }

    const Image& expected() const { return expected_; }
    const Mask& bone() const { return bone_; }
    const Mask& inside() const { return inside_; }

private:
    /// The lowest rows of what is inside.
    Mask tip(Index rows) const
    {
        Index end = inside_.rows();
        while (end > 0 && !inside_.row(end - 1).any()) --end;
        Mask out = Mask::Constant(inside_.rows(), inside_.cols(), false);
        const Index from = std::max<Index>(0, end - rows);
        out.middleRows(from, end - from) = true;
        return out;
    }

    /// The mean of the three thickest pixels of each row.
    static ArrayXd thickest(const Image& thickness)
    {
        ArrayXd out(thickness.rows());
        std::vector<double> row(static_cast<std::size_t>(thickness.cols()));
        for (Index r = 0; r < thickness.rows(); ++r) {
            for (Index c = 0; c < thickness.cols(); ++c) row[static_cast<std::size_t>(c)] = thickness(r, c);
            const auto third = row.begin() + std::min<long>(3, static_cast<long>(row.size()));
            std::partial_sort(row.begin(), third, row.end(), std::greater<>());
            out(r) = (row[0] + row[1] + row[2]) / 3;
        }
        return out;
    }

    Image fat_inside() const { return shape_.fat * as_image(inside_); }
    Smoothed rest(double px) const
    {
        return smoothed((shape_.fat - expected_) * as_image(inside_), weight_, shape_.variance, px);
    }

    void find_sure()
    {
        sure_ = Mask::Constant(inside_.rows(), inside_.cols(), false);
        for (double px : {fine_px, coarse_px}) {
            const Smoothed s = smoothed(fat_inside(), weight_, shape_.variance, px);
            sure_ = sure_ || (inside_ && s.value < -sure_sd * s.sd - sure_g);
        }
    }

    /// Carried from what lies near; from far away where nothing near is free of bone.
    Image carried(const Image& field, const Image& weight) const
    {
        const double rows = near_rows_mm / shape_.dy_mm, columns = near_columns_mm / shape_.dx_mm;
        // a foot is bone but for a few pixels of its rim: the shin above it knows its coat better
        const double far = trunk_ ? 1e-4 : 0.1;
        const auto near = [&](const Image& v) -> Image {
            return blurred(v, rows, columns) + 1e-2 * blurred(v, 3 * rows, 3 * columns) +
                   far * blurred(v, 9 * rows, 9 * columns) + 1e-7 * blurred(v, 30 * rows, 30 * columns);
        };
        return near(weight * field) / near(weight).max(1e-30);
    }

    /// What fat would be where bone is, from pixels with this weight.
    Image expect(const Image& weight) const
    {
        if (trunk_) return carried(shape_.fat, weight);
        const Image q = carried(coat_, weight * coat_weight_).max(0.0);
        const Image fat = relative_ - (relative_.square() - q).max(0.0).sqrt();
        return size_ * (fat + muscles_own_fat * (relative_ - fat));
    }

    /// Muscle that lies off the limb's middle is not what the law of the coat has: what it leaves near by.
    Image left_over(const Image& weight) const
    {
        const double rows = alike_rows_mm / shape_.dy_mm, columns = alike_columns_mm / shape_.dx_mm;
        const Image near = blurred(weight, rows, columns) + 1e-6 * weight.maxCoeff();
        return blurred(Image(weight * (shape_.fat - expected_)), rows, columns) / near;
    }

    /// Bone too thin for the noise of a few pixels.
    Mask hidden(const Smoothed& coarse, const Image& margin) const
    {
        const Mask dark = zone_ && coarse.sd > hides_g;
        if (!dark.any()) return dark;
        const Smoothed wide = rest(wide_px);
        return dark && wide.value < -bone_sd * wide.sd - margin;
    }

    void fit()
    {
        const Image start = weight_ * as_image(zone_ && !grown(sure_, 1));
        expected_ = expect(start);
        const double expectile = trunk_ ? trunk_expectile : limb_expectile;
        for (int i = 0; i < first_rounds; ++i) {
            const Smoothed r = rest(1.0);
            expected_ = expect(start * (r.value > 0)
                                           .select(Image::Constant(start.rows(), start.cols(), expectile),
                                               Image::Constant(start.rows(), start.cols(), 1 - expectile)));
        }
        bone_ = Mask::Constant(inside_.rows(), inside_.cols(), false);
        for (int i = 0; i < rounds; ++i) {
            const Smoothed fine = rest(fine_px), coarse = rest(coarse_px);
            const Image margin = bone_g + (trunk_ ? trunk_bone_share : limb_bone_share) * expected_.abs();
            Mask under =
                zone_ && (fine.value < -bone_sd * fine.sd - margin || coarse.value < -bone_sd * coarse.sd - margin);
            if (trunk_) under = under || hidden(coarse, margin);
            const Mask found = (grown(under, 1) && zone_) || (grown(sure_, 1) && inside_);
            Mask free = zone_ && !found;
            if (trunk_) free = free && fine.value < above_sd * fine.sd + above_g;
            expected_ = expect(weight_ * as_image(free));
            if (!trunk_) expected_ = (expected_ + left_over(weight_ * as_image(free))).max(0.0);
            if ((found == bone_).all()) break;
            bone_ = found;
        }
        // a rim cannot hold more fat than there is of anything
        const Image most = (0.9 * (shape_.fat + shape_.lean)).max(0.0);
        expected_ = rim_.select(expected_.min(most), expected_);
    }

    const Shape& shape_;
    bool trunk_ = false;
    Mask inside_, rim_, zone_, sure_, bone_;
    Image weight_, size_, relative_, coat_, coat_weight_, expected_;
};

/// The smallest block that holds a part.
struct Box {
    Index row = 0, column = 0, rows = 0, columns = 0;
    template <class Picture>
    Picture of(const Picture& whole) const
    {
        return whole.block(row, column, rows, columns);
    }
    template <class Picture>
    void put_back(Picture& whole, const Picture& part) const
    {
        whole.block(row, column, rows, columns) = part;
    }
};
Box box_of(const Mask& mask)
{
    Index top = mask.rows(), bottom = -1, left = mask.cols(), right = -1;
    for (Index r = 0; r < mask.rows(); ++r)
        for (Index c = 0; c < mask.cols(); ++c)
            if (mask(r, c)) {
                top = std::min(top, r);
                bottom = std::max(bottom, r);
                left = std::min(left, c);
                right = std::max(right, c);
            }
    return bottom < 0 ? Box{} : Box{top, left, bottom - top + 1, right - left + 1};
}

} // namespace

Soft::Soft(const Table& t)
{
    const double det = t.low.fat * t.high.lean - t.low.lean * t.high.fat;
    f_low = t.high.lean / det;
    f_high = -t.low.lean / det;
    l_low = -t.high.fat / det;
    l_high = t.low.fat / det;
    fat_of_bone = fat(t.low.bone, t.high.bone);
    lean_of_bone = lean(t.low.bone, t.high.bone);
}

Messages check(const Table& t)
{
    Messages bad;
    const auto say = [&](const std::string& field, const std::string& text) {
        bad.push_back({"out_of_range", Level::error, field, text});
    };
    for (const auto& [path, value] :
        {std::pair{"low.fat", t.low.fat}, {"low.lean", t.low.lean}, {"low.bone", t.low.bone}, {"high.fat", t.high.fat},
            {"high.lean", t.high.lean}, {"high.bone", t.high.bone}})
        if (!(value > 0 && value < 100))
            say(std::string("profile.mu_cm2_per_g.") + path, std::string("profile.mu_cm2_per_g.") + path + " is " +
                                                                 limits::plain(value) +
                                                                 " cm²/g; allowed is over 0 to 100.");
    if (bad.empty() &&
        !(t.low.fat / t.high.fat < t.low.lean / t.high.lean && t.low.lean / t.high.lean < t.low.bone / t.high.bone))
        say("profile.mu_cm2_per_g", "The ratio of low to high must rise from fat over lean to bone; here it is " +
                                        limits::plain(t.low.fat / t.high.fat, 3) + ", " +
                                        limits::plain(t.low.lean / t.high.lean, 3) + ", " +
                                        limits::plain(t.low.bone / t.high.bone, 3) + '.');
    return bad;
}

Outcome<Shape> shape_of(const Map& map, const Table& table, double least_cm2)
{
    if (Messages bad = check(table); !bad.empty()) return Outcome<Shape>::refuse(std::move(bad));
    Shape out;
    out.dx_mm = map.dx_mm;
    out.dy_mm = map.dy_mm;
    const double soft_high = (table.high.fat + table.high.lean) / 2;
    out.thickness = blurred(Image(map.high / soft_high), fine_px);
    out.body = out.thickness > body_g_per_cm2;
    const Mask air = !grown(out.thickness > air_g_per_cm2, 3);
    const double low_photons = photons_in(map.low, air), high_photons = photons_in(map.high, air);
    if (out.body.cast<double>().sum() * map.pixel_cm2() < least_cm2)
        return Outcome<Shape>::refuse({"no_body", Level::repeat, "",
            "There is no body in the picture: under 2 000 cm² of it stop the beam by 1 g/cm² and more."});

    const Image low = unbiased(map.low, low_photons), high = unbiased(map.high, high_photons);
    const Image low_noise = noise(map.low, low_photons), high_noise = noise(map.high, high_photons);
    const double ratio = (as_image(out.body) * low).sum() / (as_image(out.body) * high).sum();
    const double least = table.low.fat / table.high.fat, most = table.low.bone / table.high.bone;
    if (!(ratio > least - 0.1 && ratio < most))
        return Outcome<Shape>::refuse({"frames_swapped", Level::error, "PixelData",
            "The body's ratio of low to high is " + limits::plain(ratio, 3) + "; tissue has " +
                limits::plain(least, 2) + " to " + limits::plain(most, 2) +
                ". Are the frames swapped, or is the map of another table?"});
    const Soft s(table);
    out.fat = s.fat(low, high);
    out.lean = s.lean(low, high);
    out.variance = s.f_low * s.f_low * low_noise + s.f_high * s.f_high * high_noise;
    return out;
}

Composition decompose(const Shape& shape, const Table& table, const std::vector<Part>& parts)
{
    const Soft s(table);
    Composition out;
    out.dx_mm = shape.dx_mm;
    out.dy_mm = shape.dy_mm;
    out.area = shape.fat + shape.lean >= body_g_per_cm2;
    const Mask near = grown(shape.body, air_from_px); // beyond it there is only the noise of air
    out.fat = near.select(shape.fat, 0);
    out.lean = near.select(shape.lean, 0);
    out.bone = Image::Zero(shape.fat.rows(), shape.fat.cols());
    out.has_bone = Mask::Constant(shape.fat.rows(), shape.fat.cols(), false);
    const Image depth = depth_in(shape.body, static_cast<int>(std::round(trunk_rim_mm / shape.dx_mm)) + 2);
    std::vector<Part> order = parts;
    std::stable_partition(order.begin(), order.end(), [](const Part& part) { return part.kind != Part::Kind::head; });
    for (const Part& part : order) {
        const Box box = box_of(part.share > 0.5);
        if (box.rows < 3 || box.columns < 3) continue;
        const Shape here{box.of(shape.fat), box.of(shape.lean), box.of(shape.variance), box.of(shape.thickness),
            box.of(shape.body), shape.dx_mm, shape.dy_mm};
        Mask where = box.of(part.share) > 0.5;
        Image fat;
        if (part.kind == Part::Kind::head) {
            // the fat of soft tissue is p: fat − p·(fat + lean) must vanish once bone is taken out
            const Mask rest = shape.body && part.share <= 0.5;
            const double soft = rest.select(out.fat + out.lean, 0).sum(), share = rest.select(out.fat, 0).sum() / soft;
            const double p = table.fat_of_the_head + (soft > 0 ? head_follows * (share - usual_fat) : 0);
            fat = here.fat - s.fat_of_bone * (here.fat - p * (here.fat + here.lean)) /
                                 (s.fat_of_bone - p * (s.fat_of_bone + s.lean_of_bone));
        } else {
            const PartReader reader(here, {part.kind, box.of(part.share)}, box.of(depth));
            where = reader.bone() && reader.inside();
            fat = reader.expected();
        }
        const Image bone = (fat - here.fat) / -s.fat_of_bone;
        box.put_back(out.bone, Image(where.select(bone, box.of(out.bone))));
        box.put_back(out.fat, Image(where.select(fat, box.of(out.fat))));
        box.put_back(out.lean, Image(where.select(here.lean - s.lean_of_bone * bone, box.of(out.lean))));
        box.put_back(out.has_bone, Mask(box.of(out.has_bone) || where));
    }
    return out;
}

} // namespace fusain::xray

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/person.h"
#include "core/base/propagate.h"
#include "core/xray/region.h"

#include <optional>
#include <string>

/// X-ray absorptiometry: from what each region holds to the whole body, its ratios and indexes.
namespace fusain::xray {

/// Standard uncertainties of a scan, for a body of 75 kg; the fat and lean a line shifts are of one scan beside
/// another. Usual precision of whole bodies (ISCD 2019; this product's defaults until the lab has a study of its own)
/// and this lab's rule for the lines.
struct InputErrors {
    double height_cm = 0.5;
    double partition_kg = 0.45;   ///< read as fat instead of lean: posture, water, and photons where they are not known
    double bone_share = 0.010;    ///< of the bone mineral
    double arm_line_kg = 0.10;    ///< between trunk and one arm
    double leg_line_kg = 0.20;    ///< between trunk and one leg
    double neck_line_kg = 0.10;   ///< between head and trunk
    double tables_percent = 1.25; ///< fat, of the whole body: against four compartments −2 to +3 % in most people
    double band_line_mm = 5;      ///< of the line of the pelvis, on which both bands hang
    double half_share = 0.02;     ///< of fat and of lean: the half that was not scanned beside the one that was
    double photons_kg = 0;        ///< read as fat instead of lean by few photons, of this very map; 0: within the first
};

/// Fat around the organs, within the android band.
struct Visceral {
    double mass_g = 0, u_g = 0;
    double area_cm2 = 0; ///< of a slice; 0: not known
};

inline constexpr double visceral_limit_kg = 0.45, visceral_limit_cm2 = 100; ///< ceilings; this lab's rule

/// Bone mineral of the whole body of people of one sex and age. None ships with the program.
struct BoneReference {
    double mean_kg = 0, sd_kg = 0;
    std::string source;
};
inline constexpr double below_expected_z = -2.0; ///< "below the expected range for age" from here on down (ISCD 2019)

struct Input {
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, mass_kg = 0;
    bool pregnant = false; ///< never
    std::array<bool, region_count> given{};
    Regions regions{};
    bool trunk_has_head = false;  ///< a table that folds the head into the trunk: there is no head then
    bool sides_told_apart = true; ///< false: halves of a sum, or one half mirrored; no right less left
    bool mirrored = false;        ///< one half was scanned, the other is its mirror
    std::optional<double> visceral_fat_g;
    std::optional<Visceral> visceral; ///< as estimated from the map
    std::optional<BoneReference> bone_reference;
    std::optional<Mass> total; ///< as the instrument tells it; checked against the sum
    std::string from = "regions of the scan";
    InputErrors errors;
};

/// Everything that follows from the regions.
///
/// Given:    in   fat, lean soft tissue and bone mineral of the six regions that make up the body; of android and
///                gynoid where they are known
/// Returned: percent fat of the whole (fat / (fat + lean + bone)) and of soft tissue, fat, lean soft tissue and bone
///           mineral, fat-free mass (lean + bone mineral), appendicular lean and its index, android/gynoid (of the
///           percent fat of their soft tissue), right less left, each region's fat, lean, bone mineral and percent fat;
///           Z-score of the bone mineral where a reference is given
/// Source:   sums and ratios; thresholds and bands below by their own. Default errors: ISCD 2019 and this lab's rule
/// Refused:  `pregnant` · error: out_of_range, missing_field
/// Cautions: bone_low (Z-score of −2.0 and lower), sum_differs (regions against a total that was given, over 0.5 %),
/// part_over_whole (visceral fat over the android band's, android over the trunk's, gynoid over trunk's and legs'),
///           mass_apart (regions against the scale, over 3 %), fat_unusual, under_minimum, low_reserve
Outcome<Result> compute(const Input& in, Detail detail = Detail::whole);

/// The trunk as this house counts it.
inline Mass trunk(const Regions& regions, bool with_head)
{
    Mass out = regions[index(Region::trunk)];
    if (with_head) out += regions[index(Region::head)];
    return out;
}

/// What a mistake or another day would do: one litre of water drunk, a belt buckle left on, hips rotated, lines 5 mm
/// off. `lean_per_mm`: lean soft tissue, kg, that a millimetre of each limb's line shifts; all 0: not known.
struct LinesWorth {
    double arms_kg = 0, legs_kg = 0, one_leg_kg = 0;
};
std::vector<WhatIf> what_ifs(const Input& in, const LinesWorth& lean_per_mm);

/// Appendicular lean under what is published as low, each threshold by its name.
struct LowLean {
    const char *id, *title, *source;
    double men, women;
    bool by_bmi; ///< lean in kilograms over body mass index, else over height squared
};
inline constexpr LowLean low_lean_rows[] = {
    {"baumgartner_1998", "Baumgartner 1998", "Am J Epidemiol 147:755–763", 7.26, 5.45, false},
    {"ewgsop2_2019", "European consensus 2019", "Cruz-Jentoft et al. 2019, Age Ageing 48:16–31", 7.0, 5.5, false},
    {"fnih_2014", "FNIH 2014", "Studenski et al. 2014, J Gerontol A 69:547–558", 0.789, 0.512, true},
};

/// Fat mass index in words (Kelly et al. 2009, PLoS ONE 4:e7038).
struct FatBand {
    const char* title;
    double men, women; ///< from here on, kg/m²
};
inline constexpr FatBand fat_bands[] = {{"severe deficit", 0, 0}, {"moderate deficit", 2, 3.5},
    {"mild deficit", 2.3, 4}, {"normal", 3, 5}, {"excess", 6, 9}, {"obesity class I", 9, 13},
    {"obesity class II", 12, 17}, {"obesity class III", 15, 21}};
const FatBand& fat_band(Sex sex, double fmi_kg_per_m2);

} // namespace fusain::xray

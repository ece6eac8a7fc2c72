// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/quantity.h"

#include <string>
#include <vector>

/// What a lab's own instrument prints, and under which words: the lab's layout of its printout
/// (docs/formats/printout-layout.md). No layout of any maker ships.
namespace fusain::printout {

/// One number on the paper.
struct Field {
    std::string key;      ///< the layout's own name of it
    std::string quantity; ///< an id of `find_quantity` or of `further_quantities`; empty: the instrument's own index
    std::string label;    ///< as printed beside or above the number
    std::string unit;     ///< as printed; empty: none
    std::string segment;  ///< of `segments`; empty: the whole body
    std::string under;    ///< the heading or column head it stands under; empty: any
    int decimals = -1;    ///< as printed; −1: any
    bool range = false;   ///< the instrument prints its own limits beside it
    bool optional = false;
};

/// The labels of what identifies a printout; empty: not printed.
struct ClientLabels {
    std::string number, at, height_cm, age_y, sex;
};

/// How a date of numbers is read; unknown: one that can be read two ways is doubtful.
enum class DateOrder { unknown, dmy, mdy, ymd };

struct Layout {
    std::string file; ///< where it was read from
    std::string id, title, method;
    char decimal = '.';    ///< or ','
    std::string thousands; ///< mark between groups of three digits; empty: none
    DateOrder date = DateOrder::unknown;
    std::vector<Field> fields;
    ClientLabels client;
    std::vector<std::string> headings; ///< that end a section though no field stands under them
    std::vector<std::string> female = {"Female", "F", "Woman"}, male = {"Male", "M", "Man"};
};

inline constexpr const char* segments[] = {
    "right_arm", "left_arm", "trunk", "right_leg", "left_leg", "head", "android", "gynoid"};

/// What a printout may say beside the registry of quantities, of a segment or of the whole body.
inline constexpr Quantity further_quantities[] = {
    {"protein_kg", "Protein", "protein", "kg", UnitKind::mass, 1, "fat_free_mass_kg", false},
    {"mineral_kg", "Mineral", "mineral", "kg", UnitKind::mass, 2, "fat_free_mass_kg", false},
    {"lean_kg", "Lean", "all but fat", "kg", UnitKind::mass, 2, "", false},
    {"fat_kg", "Fat", "fat", "kg", UnitKind::mass, 2, "", false},
    {"bone_mineral_content_kg", "Bone mineral content", "mineral of the bones", "kg", UnitKind::mass, 2, "", false}};

/// Null: a printout cannot say this.
const Quantity* said_quantity(std::string_view id);

/// What is wrong with a layout, each with the path of its field (`fields[3].quantity`); empty: it can be used.
[[nodiscard]] Messages faults(const Layout& layout);

} // namespace fusain::printout

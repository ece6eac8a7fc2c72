// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/person.h"
#include "core/base/result.h"
#include "core/before/protocol.h"
#include "core/printout/read.h"

#include <map>
#include <optional>
#include <string>
#include <vector>

/// What an instrument says of a body with its own, unpublished equations: made a result of today, held against what can
/// be computed from what it prints of its inputs.
namespace fusain::printout {

/// The registry's quantity for what a layout calls `quantity` of `segment`, by the method; null: it has none, and the
/// number is kept under its printed name.
const Quantity* known_as(Method method, std::string_view quantity, std::string_view segment);
/// In the quantity's unit. Nothing where the printed unit is not one of its kind.
std::optional<double> in_unit_of(const Quantity& quantity, const Value& value);

/// Told as it is printed; else by an equation of ours, by its id.
inline constexpr const char* as_printed = "printed";

struct Said {
    Method method;
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0;
    double mass_kg = 0;
    std::string mass_from{};
    const Reading* printed = nullptr; ///< with a value of percent fat, fat or fat-free mass; or of its inputs
    std::map<std::string, std::string> labels{}; ///< of each key, as printed
    double u_fat_percent = 0;                    ///< of the instrument's own percent fat: published for the method
    std::string how{};                           ///< "typed from the display", "read from march.pdf"
    std::string told_by = as_printed;            ///< or an id of `ways`
};

/// How the number may be told.
struct Way {
    std::string id, title;
};
/// What the printed numbers allow, the usual one first: as printed where fat is; by an equation for fat-free mass where
/// resistance and reactance at 50 kHz are; by a conversion where body density is. Empty: nothing can be told.
std::vector<Way> ways(const Said& said);

/// A number that can also be computed from others of the same printout.
struct Gap {
    const Quantity* of = nullptr;
    double printed = NAN, ours = 0; ///< printed: NaN where it is not
    std::string by;
    double allowed = 0; ///< of body volume, what surface and lung may make; 0: nothing is expected of it
    bool outside_group = false;
};
/// Percent fat by every way but the printed one; of a chamber its body volume from raw volume and lung gas.
std::vector<Gap> gaps(const Said& said);

/// Given:    a person within the usual limits; values with units of their kind; an error over 0 to 15 %
/// Returned: everything printed that the registry knows, and what follows by sums (told::compute); or the result of
///           the chosen equation on the printed inputs. Cautions: `sum_differs`, where numbers that must fit do not
///           within the rounding of their printed decimals; `gap`, where none of the published ways leads to the
///           printed number
/// Refused:  `missing_field`, where nothing of fat is printed and nothing it could be computed from; `unknown_choice`;
///           what the computation refuses
Outcome<Result> compute(const Said& said, Detail detail = Detail::whole);

/// Who the paper speaks of beside who stands here: `of_another`, one caution for each that does not agree. Number and
/// sex must be the same; the day the same; age within a year; height within 1.5 cm of the record or of today's.
struct Who {
    std::string number, day; ///< ISO
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, record_cm = 0;
};
[[nodiscard]] Messages of_another(const Reading& printed, const Who& who);

} // namespace fusain::printout

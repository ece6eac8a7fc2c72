// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/person.h"
#include "core/base/result.h"

#include <map>
#include <string>

/// A result that was told elsewhere, before this program or by another instrument: numbers that are taken over as they
/// are, held against each other, and completed by plain sums. Nothing is measured or estimated here.
namespace fusain::told {

struct Input {
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, mass_kg = 0;
    std::map<const Quantity*, double> given; ///< each in its quantity's unit
    double u_fat_percent = 0;                ///< standard error of percent fat, stated or by the lab's rule
    std::string from;                        ///< "march.csv, line 14"
    bool printed = false;                    ///< by today's instrument: the story says "printed" instead of "told"
};

/// A result from what was told.
///
/// Given:    a person whose age, height and mass lie within the usual limits; percent fat, fat mass or fat-free mass at
///           least; an error of percent fat over 0 to 15
/// Returned: everything given, and what follows from it by sums: percent fat, fat and fat-free mass, their indexes,
/// BMI,
///           the balance of muscle and fat; their errors follow that of percent fat. Whatever else was told carries a
///           usual doubt (water 5 %, bone mineral 3 %, muscle 10 %, visceral fat 20 %; this lab's rule), which its
///           story says
/// Refused:  `missing_field` without any of the three; `out_of_range`; `contradiction` where two of them tell of
/// another
///           body (0.5 kg, 0.5 L, 0.6 kg/m²) or a part is heavier than its whole
Outcome<Result> compute(const Input& in, Detail detail = Detail::whole);

} // namespace fusain::told

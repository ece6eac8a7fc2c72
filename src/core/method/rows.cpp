// SPDX-License-Identifier: GPL-3.0-or-later
// What is known of each method. Errors of results told elsewhere: densities, conversion to fat in a homogeneous group,
// 2.7 % fat; the others are this lab's rule. Repeats: common laboratory experience.
#include "core/method/method.h"

namespace fusain::method {
namespace {
constexpr const char* of_impedance[] = {"analyser"};
constexpr const char* of_absorptiometry[] = {"dexa", "x ray"};
constexpr const char* of_air_displacement[] = {"air displacement", "chamber"};
constexpr const char* of_hydrostatic[] = {"underwater", "underwater weighing", "hw", "tank"};
} // namespace

constexpr MethodRow impedance = {.word = "impedance",
    .title = "impedance",
    .term = "BIA",
    .place = "analyser",
    .other = of_impedance,
    .order = 0,
    .wet = 0,
    .licence = false,
    .rated = false,
    .by_height = true,
    .retest = {28, 42},
    .reads = Reads::current,
    .elsewhere_error = 3.5,
    .repeats_within = 1.0};

constexpr MethodRow absorptiometry = {.word = "absorptiometry",
    .title = "X-ray",
    .term = "DXA",
    .place = "X-ray",
    .other = of_absorptiometry,
    .order = 1,
    .wet = 0,
    .licence = true,
    .rated = true,
    .by_height = false,
    .retest = {84, 112},
    .reads = Reads::picture,
    .elsewhere_error = 2.0,
    .repeats_within = 0.6};

constexpr MethodRow air_displacement = {.word = "air_displacement",
    .title = "air displacement",
    .term = "ADP",
    .place = "chamber",
    .other = of_air_displacement,
    .order = 2,
    .wet = 1,
    .licence = false,
    .rated = false,
    .by_height = false,
    .retest = {56, 84},
    .reads = Reads::density,
    .elsewhere_error = 2.7,
    .repeats_within = 0.9};

constexpr MethodRow hydrostatic = {.word = "hydrostatic",
    .title = "underwater weighing",
    .term = "hydrostatic weighing",
    .place = "tank",
    .other = of_hydrostatic,
    .order = 3,
    .wet = 2,
    .licence = false,
    .rated = false,
    .by_height = false,
    .retest = {56, 84},
    .reads = Reads::density,
    .elsewhere_error = 2.7,
    .repeats_within = 0.9};

} // namespace fusain::method

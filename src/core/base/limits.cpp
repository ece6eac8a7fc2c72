// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/limits.h"

#include <cmath>
#include <cstdio>
#include <stdexcept>

namespace fusain::limits {
namespace {

constexpr Limit rows[] = {
    {"age_y", "Age", "y", 3, 110, false, 1},
    {"height_cm", "Height", "cm", 50, 260, false, 1},
    {"mass_kg", "Body mass", "kg", 0, 400, true, 2},
    {"hydrostatic.trials_kg", "Underwater mass of a trial", "kg", -15, 30, false, 3},
    {"hydrostatic.shown_kg", "Value on the display of the load cell", "kg", -20, 100, false, 3},
    {"instrument_check.reading", "Reading of the check", "", -10000, 10000, false, 3},
    {"hydrostatic.zero_kg", "Zero of chair and belt", "kg", -5, 40, false, 3},
    {"hydrostatic.water_temp_c", "Water temperature", "°C", 10, 40, false, 1},
    {"hydrostatic.salinity_g_per_l", "Salt in the water", "g/L", 0, 45, false, 1},
    {"hydrostatic.gut_gas_l", "Gut gas", "L", 0, 1, false, 2},
    {"hydrostatic.lung.residual_volume_l", "Residual volume", "L", 0.5, 3.5, false, 3},
    {"hydrostatic.lung.vital_capacity_l", "Vital capacity", "L", 0.5, 10, false, 3},
    {"hydrostatic.lung.gas_temp_c", "Gas temperature in the spirometer", "°C", 10, 40, false, 1},
    {"hydrostatic.lung.barometric_mmhg", "Barometric pressure", "mmHg", 400, 820, false, 1},
    {"air_displacement.raw_volumes_l", "Raw chamber volume of a run", "L", 5, 400, false, 3},
    {"air_displacement.lung.thoracic_gas_volume_l", "Thoracic gas volume", "L", 0.5, 10, false, 3},
    {"air_displacement.cylinder_l", "Volume of the calibration cylinder", "L", 1, 200, false, 3},
    {"impedance.f_khz", "Frequency", "kHz", 0.5, 2000, false, 1},
    {"impedance.r_ohm", "Resistance", "Ω", 5, 1500, false, 1},
    {"impedance.x_ohm", "Reactance (capacitive is positive)", "Ω", 0, 300, false, 1},
    {"absorptiometry.fat_g", "Fat of a region", "g", 0, 200000, false, 1},
    {"absorptiometry.lean_g", "Lean soft tissue of a region", "g", 0, 150000, false, 1},
    {"absorptiometry.bmc_g", "Bone mineral of a region", "g", 0, 8000, false, 1},
    {"bone_reference.mean_kg", "Bone mineral expected", "kg", 0.1, 8, false, 3},
    {"bone_reference.sd_kg", "SD of the bone mineral expected", "kg", 0.01, 3, false, 3},
    {"absorptiometry.visceral_fat_g", "Visceral fat", "g", 0, 20000, false, 1},
    {"energy.fat_mass_kg", "Fat mass", "kg", 0.5, 300, false, 2},
    {"energy.fat_free_mass_kg", "Fat-free mass", "kg", 10, 200, false, 2},
    {"energy.food_kcal", "Food a day, as the client tells it", "kcal", 200, 15000, false, 0},
    {"energy.activity_level", "Activity level", "", 1.2, 2.5, false, 2},
    {"plan.target.fat_percent", "Target percent fat", "%", 1, 75, false, 1},
    {"plan.weeks", "Time of the plan", "weeks", 1, 156, false, 0},
    {"precision.limit_percent", "Limit of the precision", "%", 0, 100, true, 1},
    {"callipers_and_tape.skinfolds_mm", "Skinfold", "mm", 1, 150, false, 1},
    {"callipers_and_tape.girths_cm", "Girth", "cm", 10, 300, false, 1},
    {"multi_compartment.body_volume_l", "Body volume", "L", 3, 400, false, 3},
    {"multi_compartment.total_body_water_kg", "Total body water", "kg", 1, 200, false, 2},
    {"multi_compartment.bone_mineral_content_kg", "Bone mineral content", "kg", 0.1, 8, false, 3},
    {"body_density_kg_per_l", "Body density", "kg/L", 0.93, 1.12, false, 5},
};

struct UnitGuess {
    std::string_view field;
    double low, high;
    const char* hint;
};
constexpr UnitGuess guesses[] = {
    {"impedance.r_ohm", 0.005, 1.5, "it looks like kilohms; give ohms"},
    {"impedance.x_ohm", -300, -0.001, "it looks like the sign of the imaginary part; capacitive is positive here"},
    {"impedance.f_khz", 3000, 2000000, "it looks like hertz; give kilohertz"},
    {"height_cm", 0.5, 2.6, "it looks like metres; give centimetres"},
    {"height_cm", 500, 2600, "it looks like millimetres; give centimetres"},
    {"mass_kg", 2000, 400000, "it looks like grams; give kilograms"},
    {"hydrostatic.trials_kg", 100, 15000, "it looks like grams; give kilograms"},
    {"hydrostatic.trials_kg", -15000, -100, "it looks like grams; give kilograms"},
    {"hydrostatic.shown_kg", 100, 100000, "it looks like grams; give kilograms"},
    {"hydrostatic.zero_kg", 100, 40000, "it looks like grams; give kilograms"},
    {"hydrostatic.water_temp_c", 50, 104, "it looks like °F; give °C"},
    {"hydrostatic.water_temp_c", 283, 313.2, "it looks like kelvin; give °C"},
    {"hydrostatic.lung.gas_temp_c", 50, 104, "it looks like °F; give °C"},
    {"hydrostatic.lung.barometric_mmhg", 850, 1100, "it looks like hPa; give mmHg (1 hPa = 0.750062 mmHg)"},
    {"hydrostatic.lung.barometric_mmhg", 50, 110, "it looks like kPa; give mmHg (1 kPa = 7.50062 mmHg)"},
    {"hydrostatic.lung.vital_capacity_l", 500, 10000, "it looks like millilitres; give litres"},
    {"air_displacement.raw_volumes_l", 5000, 400000, "it looks like millilitres; give litres"},
    {"air_displacement.lung.thoracic_gas_volume_l", 500, 10000, "it looks like millilitres; give litres"},
    {"air_displacement.cylinder_l", 1000, 200000, "it looks like millilitres; give litres"},
    {"hydrostatic.lung.residual_volume_l", 300, 3500, "it looks like millilitres; give litres"},
};

} // namespace

std::span<const Limit> table() { return rows; }

const Limit& of(std::string_view field)
{
    for (const Limit& row : rows)
        if (field == row.field) return row;
    throw std::logic_error("no limit row for field " + std::string(field));
}

std::string plain(double value, int decimals)
{
    if (!std::isfinite(value)) return std::isnan(value) ? "not a number" : "infinite";
    char text[64];
    std::snprintf(text, sizeof text, "%.*f", decimals, value);
    std::string s = text;
    if (s.find('.') != std::string::npos) {
        s.erase(s.find_last_not_of('0') + 1);
        if (s.back() == '.') s.pop_back();
    }
    return s == "-0" ? "0" : s;
}

std::optional<Message> check(std::string_view field, double value)
{
    const Limit& limit = of(field);
    const bool above_low = limit.low_excluded ? value > limit.low : value >= limit.low;
    if (above_low && value <= limit.high) return std::nullopt;
    std::string text = std::string(limit.title) + " (" + std::string(field) + ") is " + plain(value) + " " +
                       limit.unit + "; allowed is " + (limit.low_excluded ? "more than " : "") + plain(limit.low) +
                       " to " + plain(limit.high) + " " + limit.unit;
    for (const UnitGuess& guess : guesses)
        if (guess.field == field && value >= guess.low && value <= guess.high)
            text += " (" + std::string(guess.hint) + ")";
    return Message{"out_of_range", Level::error, std::string(field), text + "."};
}

} // namespace fusain::limits

// SPDX-License-Identifier: GPL-3.0-or-later
// The blocks of the methods that end in a density.
#include "cli/batch/block.h"
#include "core/density/displacement.h"
#include "core/density/hydrostatic.h"

namespace fusain::cli {
namespace {

constexpr std::string_view hydrostatic_fields[] = {
    "trials_kg", "trial_rule", "water_temp_c", "salinity_g_per_l", "lung", "gut_gas_l"};
constexpr std::string_view displacement_fields[] = {"raw_volumes_l", "lung"};
constexpr std::string_view gas_fields[] = {"source", "thoracic_gas_volume_l", "equation"};
constexpr std::string_view lung_fields[] = {
    "source", "residual_volume_l", "vital_capacity_l", "conditions", "gas_temp_c", "barometric_mmhg", "equation"};
hydrostatic::Lung read_lung(const simdjson::dom::object& block, Answer& answer)
{
    using hydrostatic::LungRoute;
    static constexpr std::string_view sources[] = {"measured", "vital_capacity", "age_height"},
                                      conditions[] = {"BTPS", "ATPS"};
    hydrostatic::Lung lung;
    Fields read(block, "hydrostatic.lung.", lung_fields, answer);
    const std::size_t before = answer.messages.size();
    lung.route = static_cast<LungRoute>(read.choice("source", sources));
    if (answer.messages.size() != before) return lung;
    switch (lung.route) {
    case LungRoute::measured: lung.residual_volume_l = read.number("residual_volume_l"); break;
    case LungRoute::vital_capacity:
        lung.vital_capacity_l = read.number("vital_capacity_l");
        lung.body_conditions = read.choice("conditions", conditions) == 0;
        if (!lung.body_conditions) {
            lung.gas_temp_c = read.number("gas_temp_c");
            lung.barometric_mmhg = read.number("barometric_mmhg");
        }
        break;
    case LungRoute::age_height: lung.equation = read.text("equation"); break;
    }
    return lung;
}

Computed hydrostatic_record(const Asked& person, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    hydrostatic::Input in;
    static_cast<densitometry::Person&>(in) = person;
    Fields read(block, "hydrostatic.", hydrostatic_fields, answer);
    in.trials_kg = read.numbers("trials_kg");
    in.trial_rule = read.text("trial_rule", trials::default_id);
    in.water_temp_c = read.number("water_temp_c");
    in.salinity_g_per_l = read.number("salinity_g_per_l", 0);
    in.gut_gas_l = read.number("gut_gas_l", in.gut_gas_l);
    if (const auto lung = read.block("lung")) in.lung = read_lung(*lung, answer);
    return computed(answer, [&] { return hydrostatic::compute(in, detail); });
}

Computed displacement_record(const Asked& person, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    static constexpr std::string_view sources[] = {"measured", "predicted"};
    displacement::Input in;
    static_cast<densitometry::Person&>(in) = person;
    Fields read(block, "air_displacement.", displacement_fields, answer);
    in.raw_volumes_l = read.numbers("raw_volumes_l");
    if (const auto lung = read.block("lung")) {
        Fields inner(*lung, "air_displacement.lung.", gas_fields, answer);
        const std::size_t before = answer.messages.size();
        in.lung.route = static_cast<displacement::LungRoute>(inner.choice("source", sources));
        if (answer.messages.size() == before) {
            if (in.lung.route == displacement::LungRoute::measured)
                in.lung.thoracic_gas_volume_l = inner.number("thoracic_gas_volume_l");
            else
                in.lung.equation = inner.text("equation", lung::default_gas_id);
        }
    }
    return computed(answer, [&] { return displacement::compute(in, detail); });
}

} // namespace

RecordBlock tank_block() { return {"hydrostatic", hydrostatic_record, "trials_used"}; }
RecordBlock chamber_block() { return {"air_displacement", displacement_record, "runs_used", true}; }

} // namespace fusain::cli

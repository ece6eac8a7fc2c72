// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/air_and_water/lung.h"

namespace fusain::lung {

double crapo_1981_fvc(Sex sex, double height_cm, double age_y)
{
    return sex == Sex::male ? 0.0600 * height_cm - 0.0214 * age_y - 4.650 : 0.0491 * height_cm - 0.0216 * age_y - 3.590;
}

namespace {
using uncertainty::Grad;

constexpr Equation rows[] = {
    {"quanjer_1993", "Quanjer 1993, age and height", quanjer_1993_rv<double>, quanjer_1993_rv<Grad>, 0.41, 0.35, 18, 70,
        "European adults 18–70 y", "Quanjer et al. 1993, Eur Respir J 6 Suppl 16:5–40"},
    {"goldman_becklake_1959", "Goldman & Becklake 1959, age and height", goldman_becklake_1959_rv<double>,
        goldman_becklake_1959_rv<Grad>, 0.45, 0.45, 18, 110, "healthy adults",
        "Goldman & Becklake 1959, Am Rev Tuberc Pulm Dis 79:457–467"},
    {"boren_black", "Boren 1966 / Black 1974, age and height", boren_black_rv<double>, boren_black_rv<Grad>, 0.53, 0.46,
        18, 110, "healthy adults",
        "Boren, Kory & Syner 1966, Am J Med 41:96–114; Black, Offord & Hyatt 1974, Am Rev Respir Dis 110:282–292"},
    {"crapo_1982", "Crapo 1982, age and height", crapo_1982_rv<double>, crapo_1982_rv<Grad>, 0.37, 0.38, 15, 91,
        "healthy non-smoking adults", "Crapo et al. 1982, Bull Eur Physiopathol Respir 18:419–425"},
};
constexpr GasEquation gas_rows[] = {
    {"mccrory_1998", "McCrory 1998, age and height", mccrory_1998_gas<double>, mccrory_1998_gas<Grad>, 0.44, 17, 91,
        "adults of 17 to 91 y",
        "McCrory et al. 1998, J Appl Physiol 84:1475–1479, on Crapo et al. 1982, Bull Eur Physiopathol Respir "
        "18:419–425"},
};
} // namespace

std::span<const GasEquation> gas_equations() { return gas_rows; }

const GasEquation* find_gas(std::string_view id)
{
    for (const GasEquation& row : gas_rows)
        if (id == row.id) return &row;
    return nullptr;
}

std::span<const Equation> equations() { return rows; }

const Equation* find(std::string_view id)
{
    for (const Equation& row : rows)
        if (id == row.id) return &row;
    return nullptr;
}

} // namespace fusain::lung

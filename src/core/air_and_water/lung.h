// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"
#include "core/base/uncertainty.h"

#include <span>
#include <string_view>

/// Residual volume (L, BTPS): the gas that stays after breathing out everything. Heights in cm, ages in years.
namespace fusain::lung {

/// Residual volume from vital capacity (Wilmore 1969): 0.24·VC men, 0.28·VC women.
///
/// Given:    sex
///           vital_capacity_l   forced vital capacity, L at BTPS, 0.5 to 10
/// Returned: residual volume, L BTPS
/// Made on:  healthy young adults
/// Error:    about 0.35 L
/// Source:   Wilmore 1969, Med Sci Sports 1:87–90
template <class T>
T wilmore_1969_rv(Sex sex, const T& vital_capacity_l)
{
    return T(sex == Sex::male ? 0.24 : 0.28) * vital_capacity_l;
}

/// Residual volume from age and height (Goldman & Becklake 1959).
///
/// Given:    sex; height_cm, 50 to 260; age_y, 3 to 110
/// Returned: residual volume, L BTPS
/// Made on:  healthy adults living at altitude
/// Error:    0.4–0.5 L
/// Source:   Goldman & Becklake 1959, Am Rev Tuberc Pulm Dis 79:457–467
/// Notes:    the inch form (0.06858, 0.08128 per inch) is the same equation.
template <class T>
T goldman_becklake_1959_rv(Sex sex, const T& height_cm, const T& age_y)
{
    return sex == Sex::male ? T(0.027) * height_cm + T(0.017) * age_y - T(3.447)
                            : T(0.032) * height_cm + T(0.009) * age_y - T(3.900);
}

/// Residual volume from age and height (men Boren 1966, women Black 1974).
///
/// Given:    sex; height_cm, 50 to 260; age_y, 3 to 110
/// Returned: residual volume, L BTPS
/// Made on:  healthy adult men and women, one laboratory group each
/// Error:    0.53 L men, 0.46 L women
/// Source:   Boren, Kory & Syner 1966, Am J Med 41:96–114; Black, Offord & Hyatt 1974, Am Rev Respir Dis 110:282–292
template <class T>
T boren_black_rv(Sex sex, const T& height_cm, const T& age_y)
{
    return sex == Sex::male ? T(0.019) * height_cm + T(0.0115) * age_y - T(2.24)
                            : T(0.023) * height_cm + T(0.021) * age_y - T(2.978);
}

/// Residual volume from age and height (Crapo 1982).
///
/// Given:    sex; height_cm, 50 to 260; age_y, 3 to 110
/// Returned: residual volume, L BTPS
/// Made on:  healthy non-smoking adults
/// Error:    0.37 L men, 0.38 L women
/// Source:   Crapo et al. 1982, Bull Eur Physiopathol Respir 18:419–425
template <class T>
T crapo_1982_rv(Sex sex, const T& height_cm, const T& age_y)
{
    return sex == Sex::male ? T(0.0216) * height_cm + T(0.0207) * age_y - T(2.840)
                            : T(0.0197) * height_cm + T(0.0201) * age_y - T(2.421);
}

/// Residual volume from age and height (Quanjer 1993).
///
/// Given:    sex; height_cm, 50 to 260; age_y, 3 to 110
/// Returned: residual volume, L BTPS
/// Made on:  European adults 18–70 y
/// Error:    0.41 L men, 0.35 L women
/// Source:   Quanjer et al. 1993, Eur Respir J 6 Suppl 16:5–40
/// Notes:    printed with height in metres; converted here.
template <class T>
T quanjer_1993_rv(Sex sex, const T& height_cm, const T& age_y)
{
    const T height_m = height_cm / T(100.0);
    return sex == Sex::male ? T(1.31) * height_m + T(0.022) * age_y - T(1.23)
                            : T(1.81) * height_m + T(0.016) * age_y - T(2.00);
}

/// Expected forced vital capacity, for plausibility only (Crapo 1981).
///
/// Given:    sex; height_cm, 50 to 260; age_y, 3 to 110
/// Returned: forced vital capacity, L BTPS
/// Made on:  healthy non-smoking adults
/// Error:    about 0.5–0.6 L
/// Source:   Crapo et al. 1981, Am Rev Respir Dis 123:659
double crapo_1981_fvc(Sex sex, double height_cm, double age_y);

/// Functional residual capacity: the gas that stays after a quiet breath out (Crapo 1982).
///
/// Given:    sex; height_cm, 50 to 260; age_y, 3 to 110
/// Returned: functional residual capacity, L BTPS
/// Made on:  healthy non-smoking adults
/// Error:    0.72 L men, 0.52 L women
/// Source:   Crapo et al. 1982, Bull Eur Physiopathol Respir 18:419–425
template <class T>
T crapo_1982_frc(Sex sex, const T& height_cm, const T& age_y)
{
    return sex == Sex::male ? T(0.0472) * height_cm + T(0.0090) * age_y - T(5.290)
                            : T(0.0360) * height_cm + T(0.0031) * age_y - T(3.182);
}

/// Mean gas in the chest during quiet breathing: functional residual capacity and half a tidal breath (McCrory 1998).
///
/// Given:    sex; height_cm, 50 to 260; age_y, 3 to 110
/// Returned: thoracic gas volume, L BTPS; tidal breath 1.2 L men, 0.7 L women
/// Made on:  adults of 17 to 91 y
/// Error:    about 0.44 L
/// Source:   McCrory et al. 1998, J Appl Physiol 84:1475–1479, on Crapo 1982
/// Notes:    man of 178 cm and 30 y → 3.98 L.
template <class T>
T mccrory_1998_gas(Sex sex, const T& height_cm, const T& age_y)
{
    return crapo_1982_frc(sex, height_cm, age_y) + T(sex == Sex::male ? 0.6 : 0.35);
}

/// Thoracic gas from the pressures of a puff against a closed valve inside the chamber (Boyle).
///
/// Given:    slope            chamber pressure per airway pressure while puffing, Pa/Pa, dimensionless (its size)
///           air_l            air in the chamber around the client as it behaves (chamber − raw volume), L
///           barometric_pa    Pa
///           water_pa         water vapour in the lungs, 6277 Pa at 37 °C
/// Returned: gas in the chest when the valve closed, L
/// Notes:    in the lungs, isothermal: ΔV = V·ΔP_airway/(P_B − P_H2O). In the chamber, adiabatic: ΔP = γ·P_B·ΔV/air.
/// Source:   Boyle's law; McCrory et al. 1995, Med Sci Sports Exerc 27:1686–1691 for the manoeuvre
template <class T>
T boyle_gas_l(const T& slope, const T& air_l, const T& barometric_pa, double water_pa = 6277)
{
    return slope * air_l * (barometric_pa - T(water_pa)) / (T(1.4) * barometric_pa);
}

/// One age-and-height equation a person may choose.
struct Equation {
    const char* id;
    const char* title;
    double (*predict)(Sex, const double& height_cm, const double& age_y);
    uncertainty::Grad (*predict_grad)(Sex, const uncertainty::Grad& height_cm, const uncertainty::Grad& age_y);
    double error_male_l, error_female_l; ///< standard error of the estimate
    double age_low_y, age_high_y;        ///< the people it was made on; outside is a caution
    const char* made_on;
    const char* source;

    double error_l(Sex sex) const { return sex == Sex::male ? error_male_l : error_female_l; }
};

inline constexpr double wilmore_1969_error_l = 0.35;
inline constexpr const char* wilmore_1969_source = "Wilmore 1969, Med Sci Sports 1:87–90";
/// Assumed standard uncertainty of a residual volume measured by gas dilution. No source: the lab's own repeats replace
/// it.
inline constexpr double measured_error_l = 0.10;

/// Assumed standard uncertainty of a thoracic gas volume measured by puffing, when the manoeuvre did not tell its own.
inline constexpr double measured_gas_error_l = 0.12;

/// One prediction of the mean gas in the chest.
struct GasEquation {
    const char* id;
    const char* title;
    double (*predict)(Sex, const double& height_cm, const double& age_y);
    uncertainty::Grad (*predict_grad)(Sex, const uncertainty::Grad& height_cm, const uncertainty::Grad& age_y);
    double error_l;
    double age_low_y, age_high_y;
    const char* made_on;
    const char* source;
};
std::span<const GasEquation> gas_equations();
const GasEquation* find_gas(std::string_view id);
inline constexpr const char* default_gas_id = "mccrory_1998";

std::span<const Equation> equations();
/// Null when no row has that id.
const Equation* find(std::string_view id);

} // namespace fusain::lung

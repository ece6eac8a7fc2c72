// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <cmath>

namespace fusain::gas {

inline constexpr double body_temp_k = 310.15;           ///< 37 °C
inline constexpr double water_vapour_body_mmhg = 47.08; ///< saturated at 37 °C

/// Saturated water vapour pressure over water (Buck 1981).
///
/// Given:    temp_c   gas temperature, °C, 10 to 40
/// Returned: pressure, mmHg
/// Error:    0.05 % over the range
/// Source:   Buck 1981, J Appl Meteorol 20:1527
template <class T>
T water_vapour_buck_1981_mmhg(const T& temp_c)
{
    using std::exp;
    return T(0.750062 * 6.1121) * exp(T(17.502) * temp_c / (T(240.97) + temp_c));
}

/// Factor that brings a gas volume from room conditions (ATPS) to body conditions (BTPS).
///
/// Given:    gas_temp_c        temperature of the gas in the spirometer, °C, 10 to 40
///           barometric_mmhg   barometric pressure, mmHg, 400 to 820
/// Returned: V_BTPS / V_ATPS
/// Error:    below 0.1 %
/// Source:   ideal gas with saturated vapour; vapour after Buck 1981
/// Notes:    at 760 mmHg 20 °C 1.1018, 22 °C 1.0910, 25 °C 1.0743, 37 °C 1.0000.
template <class T>
T atps_to_btps(const T& gas_temp_c, const T& barometric_mmhg)
{
    return (barometric_mmhg - water_vapour_buck_1981_mmhg(gas_temp_c)) / (barometric_mmhg - T(water_vapour_body_mmhg)) *
           T(body_temp_k) / (T(273.15) + gas_temp_c);
}

} // namespace fusain::gas

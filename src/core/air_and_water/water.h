// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace fusain::water {

/// Density of air-free water at 101.325 kPa (Tanaka 2001).
///
/// Given:    temp_c   water temperature, °C, 0 to 40
/// Returned: density, kg/L
/// Error:    0.000001 kg/L over the range
/// Source:   Tanaka et al. 2001, Metrologia 38:301–309
/// Notes:    20 °C 0.998207, 30 °C 0.995649, 34 °C 0.994372, 37 °C 0.993329.
template <class T>
T density_tanaka_2001(const T& temp_c)
{
    const T cubic = (temp_c + T(-3.983035)) * (temp_c + T(-3.983035)) * (temp_c + T(301.797));
    return T(999.974950 / 1000.0) * (T(1.0) - cubic / (T(522528.9) * (temp_c + T(69.34881))));
}

/// What dissolved salt adds to the density of water.
///
/// Given:    salinity_g_per_l   dissolved salt, g/L, 0 to 45
/// Returned: added density, kg/L (about 0.0007 per g/L)
/// Error:    about 5 % of the term between 20 and 37 °C
/// Source:   density of dilute sodium chloride solutions, slope at 20 to 37 °C; +0.33 % fat for each g/L left out
template <class T>
T density_from_salt(const T& salinity_g_per_l)
{
    return T(0.0007) * salinity_g_per_l;
}

} // namespace fusain::water

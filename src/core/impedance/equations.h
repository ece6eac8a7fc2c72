// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"
#include "core/base/uncertainty.h"

#include <cmath>
#include <optional>
#include <span>
#include <string_view>

/// From impedance at 50 kHz to fat-free mass, water and muscle: one population each.
namespace fusain::impedance {

/// Whom it is about, and the whole body's impedance at 50 kHz: right arm, trunk and right leg in series.
template <class T>
struct Body {
    Sex sex = Sex::female;
    T age_y{}, height_cm{}, mass_kg{};
    T r_ohm{}, x_ohm{};                                       ///< capacitive is positive
    T index() const { return height_cm * height_cm / r_ohm; } ///< H²/R, cm²/Ω
    T male(double value) const { return T(sex == Sex::male ? value : 0.0); }
};

/// Fat-free mass (Kyle 2001): −4.104 + 0.518·H²/R + 0.231·M + 0.130·Xc + 4.229·male.
///
/// Given:    body
/// Returned: fat-free mass, kg
/// Made on:  343 healthy adults 20–94 y, BMI 17.0–33.8, against X-ray absorptiometry
/// Error:    1.72 kg
/// Source:   Kyle et al. 2001, Nutrition 17:248–253
template <class T>
T kyle_2001_ffm(const Body<T>& b)
{
    return T(-4.104) + T(0.518) * b.index() + T(0.231) * b.mass_kg + T(0.130) * b.x_ohm + b.male(4.229);
}

/// Fat-free mass (Sun 2003).
///
/// Given:    body
/// Returned: fat-free mass, kg
/// Made on:  people 12–94 y, four-compartment criterion
/// Error:    3.9 kg men, 2.9 kg women
/// Source:   Sun et al. 2003, Am J Clin Nutr 77:331–340
/// Notes:    coefficients as before they were rounded to two decimals, with which R alone moves the result by 2.5 kg.
template <class T>
T sun_2003_ffm(const Body<T>& b)
{
    return b.sex == Sex::male ? T(-10.678) + T(0.652) * b.index() + T(0.262) * b.mass_kg + T(0.015) * b.r_ohm
                              : T(-9.529) + T(0.696) * b.index() + T(0.168) * b.mass_kg + T(0.016) * b.r_ohm;
}

/// Fat-free mass of the young (Houtkooper 1992): 0.61·H²/R + 0.25·M + 1.31.
///
/// Given:    body
/// Returned: fat-free mass, kg
/// Made on:  people 10–19 y
/// Error:    2.1 kg
/// Source:   Houtkooper et al. 1992, J Appl Physiol 72:366–373
template <class T>
T houtkooper_1992_ffm(const Body<T>& b)
{
    return T(0.61) * b.index() + T(0.25) * b.mass_kg + T(1.31);
}

/// Total body water (Sun 2003).
///
/// Given:    body
/// Returned: total body water, L
/// Made on:  people 12–94 y, dilution
/// Error:    3.8 L men, 2.6 L women
/// Source:   Sun et al. 2003, Am J Clin Nutr 77:331–340
template <class T>
T sun_2003_tbw(const Body<T>& b)
{
    return b.sex == Sex::male ? T(1.203) + T(0.449) * b.index() + T(0.176) * b.mass_kg
                              : T(3.747) + T(0.450) * b.index() + T(0.113) * b.mass_kg;
}

/// Total body water (Kushner & Schoeller 1986).
///
/// Given:    body
/// Returned: total body water, L
/// Made on:  adults, dilution
/// Error:    not taken over here
/// Source:   Kushner & Schoeller 1986, Am J Clin Nutr 44:417–424
template <class T>
T kushner_schoeller_1986_tbw(const Body<T>& b)
{
    return b.sex == Sex::male ? T(0.396) * b.index() + T(0.143) * b.mass_kg + T(8.399)
                              : T(0.382) * b.index() + T(0.105) * b.mass_kg + T(8.315);
}

/// Total body water (Lukaski & Bolonchuk 1988): 0.377·H²/R + 0.14·M − 0.08·A + 2.9·male + 4.65.
///
/// Given:    body
/// Returned: total body water, L
/// Made on:  adults, dilution
/// Error:    not taken over here
/// Source:   Lukaski & Bolonchuk 1988, Aviat Space Environ Med 59:1163–1169
template <class T>
T lukaski_bolonchuk_1988_tbw(const Body<T>& b)
{
    return T(0.377) * b.index() + T(0.14) * b.mass_kg - T(0.08) * b.age_y + b.male(2.9) + T(4.65);
}

/// Skeletal muscle (Janssen 2000): 0.401·H²/R + 3.825·male − 0.071·A + 5.102.
///
/// Given:    body
/// Returned: skeletal muscle, kg
/// Made on:  388 adults, magnetic resonance imaging
/// Error:    2.7 kg
/// Source:   Janssen et al. 2000, J Appl Physiol 89:465–471
template <class T>
T janssen_2000_smm(const Body<T>& b)
{
    return T(0.401) * b.index() + b.male(3.825) - T(0.071) * b.age_y + T(5.102);
}

/// Muscle of arms and legs (Kyle 2003): −4.211 + 0.267·H²/R + 0.095·M + 1.909·male − 0.012·A + 0.058·Xc.
///
/// Given:    body
/// Returned: appendicular skeletal muscle, kg
/// Made on:  adults, against X-ray absorptiometry
/// Error:    1.12 kg
/// Source:   Kyle et al. 2003, Clin Nutr 22:537–543
template <class T>
T kyle_2003_asmm(const Body<T>& b)
{
    return T(-4.211) + T(0.267) * b.index() + T(0.095) * b.mass_kg + b.male(1.909) - T(0.012) * b.age_y +
           T(0.058) * b.x_ohm;
}

/// Muscle of arms and legs in the old (Sergi 2015): −3.964 + 0.227·H²/R + 0.095·M + 1.384·male + 0.064·Xc.
///
/// Given:    body
/// Returned: appendicular skeletal muscle, kg
/// Made on:  people of 60 y and more, against X-ray absorptiometry
/// Error:    1.14 kg
/// Source:   Sergi et al. 2015, Clin Nutr 34:667–673
template <class T>
T sergi_2015_asmm(const Body<T>& b)
{
    return T(-3.964) + T(0.227) * b.index() + T(0.095) * b.mass_kg + b.male(1.384) + T(0.064) * b.x_ohm;
}

/// Water outside and inside the cells, L.
inline constexpr double moissl_outside_error_l = 1.4, moissl_inside_error_l = 2.0;
template <class T>
struct Spaces {
    T outside{}, inside{};
};

/// Water spaces from both ends of the arc (Moissl 2006): k·(H²·√M/R)^⅔ with k by body mass index.
///
/// Given:    body; r0_ohm, ri_ohm: outside the cells, and of the cells alone (Arc)
/// Returned: extracellular and intracellular water, L
/// Made on:  adults, dilution of bromide and potassium
/// Error:    1.4 L outside, 2.0 L inside (SD of the differences)
/// Source:   Moissl et al. 2006, Physiol Meas 27:921–933
template <class T>
Spaces<T> moissl_2006(const Body<T>& b, const T& r0_ohm, const T& ri_ohm)
{
    using std::pow, std::sqrt;
    const T bmi = b.mass_kg / (b.height_cm * b.height_cm / T(1e4)), size = b.height_cm * b.height_cm * sqrt(b.mass_kg);
    return {(T(0.188) / bmi + T(0.2883)) * pow(size / r0_ohm, 2.0 / 3.0),
        (T(5.8758) / bmi + T(0.4194)) * pow(size / ri_ohm, 2.0 / 3.0)};
}

/// Water spaces of the first generation (De Lorenzo 1997): from mixture theory, (1 + x)^{5/2} = (R0 + RI)/RI·(1 +
/// k_ρ·x), x inside over outside.
///
/// Given:    body; r0_ohm, ri_ohm
/// Returned: extracellular and intracellular water, L
/// Made on:  adults, dilution
/// Error:    not taken over here: Moissl's is assumed
/// Source:   De Lorenzo et al. 1997, J Appl Physiol 82:1542–1558
/// Notes:    its constants and Moissl's never mix.
template <class T>
Spaces<T> de_lorenzo_1997(const Body<T>& b, const T& r0_ohm, const T& ri_ohm)
{
    using std::pow, std::sqrt;
    const bool male = b.sex == Sex::male;
    const T outside = T(male ? 0.306 : 0.316) * pow(b.height_cm * b.height_cm * sqrt(b.mass_kg) / r0_ohm, 2.0 / 3.0);
    const T ratio = (r0_ohm + ri_ohm) / ri_ohm, k_rho(male ? 3.82 : 3.40), one(1.0);
    T x(10.0); // far above any body: the left side bends up, and from above the steps of Newton only fall
    for (int i = 0; i < 60; ++i) // each step carries the derivatives along; at the root they are those of the root
        x = x - (pow(one + x, 2.5) - ratio * (one + k_rho * x)) / (T(2.5) * pow(one + x, 1.5) - ratio * k_rho);
    return {outside, x * outside};
}

/// What an equation predicts.
enum class Predicts { fat_free_mass, total_body_water, skeletal_muscle, appendicular_muscle };

struct Equation {
    const char* id;
    const char* title;
    Predicts what;
    double (*predict)(const Body<double>&);
    uncertainty::Grad (*predict_with_slopes)(const Body<uncertainty::Grad>&); ///< the same text, with its derivatives
    std::optional<double> error_male, error_female; ///< kg or L; nothing: not published, or not taken over
    double age_from_y, age_to_y;                    ///< of those it was made on
    const char* made_on;
    const char* source;
    double bmi_from = 0, bmi_to = 0; ///< of those it was made on, kg/m²; 0: not published
    bool covers(double age_y) const { return age_y >= age_from_y && age_y < age_to_y + 1; }
    bool covers(double age_y, double bmi) const
    {
        return covers(age_y) && !(bmi_from > 0 && bmi < bmi_from) && !(bmi_to > 0 && bmi > bmi_to);
    }
    std::optional<double> error(Sex sex) const { return sex == Sex::male ? error_male : error_female; }
};
template <class T>
T predict(const Equation& equation, const Body<T>& body)
{
    if constexpr (std::is_same_v<T, double>)
        return equation.predict(body);
    else
        return equation.predict_with_slopes(body);
}
std::span<const Equation> equations();
/// Null when there is none of this name for what is predicted.
const Equation* find(Predicts what, std::string_view id);

/// What an equation is off by in such a body.
struct Error {
    double u = 0;      ///< kg or L
    bool known = true; ///< false: none was published, the widest of what predicts the same is assumed
};
/// Given:    equation, sex, body mass index kg/m²
/// Returned: its published error; outside the BMI it was made on (16 to 40 where that is not published) times the
///           square of how many times over or under the edge the body is, so that it grows in kilograms and in percent
/// Source:   the equation's own; outside its group this lab's rule
Error error_in(const Equation& equation, Sex sex, double bmi);

} // namespace fusain::impedance

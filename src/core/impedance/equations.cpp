// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/impedance/equations.h"

#include <algorithm>

namespace fusain::impedance {
namespace {

using uncertainty::Grad;

constexpr double usual_bmi_from = 16, usual_bmi_to = 40; ///< where a group's own is not published; this lab's rule

constexpr Equation rows[] = {
    {"kyle_2001", "Kyle 2001", Predicts::fat_free_mass, kyle_2001_ffm<double>, kyle_2001_ffm<Grad>, 1.72, 1.72, 20, 94,
        "343 healthy adults 20–94 y, BMI 17.0–33.8", "Kyle et al. 2001, Nutrition 17:248–253", 17.0, 33.8},
    {"sun_2003", "Sun 2003", Predicts::fat_free_mass, sun_2003_ffm<double>, sun_2003_ffm<Grad>, 3.9, 2.9, 12, 94,
        "people 12–94 y", "Sun et al. 2003, Am J Clin Nutr 77:331–340"},
    {"houtkooper_1992", "Houtkooper 1992", Predicts::fat_free_mass, houtkooper_1992_ffm<double>,
        houtkooper_1992_ffm<Grad>, 2.1, 2.1, 10, 19, "people 10–19 y",
        "Houtkooper et al. 1992, J Appl Physiol 72:366–373"},
    {"sun_2003", "Sun 2003", Predicts::total_body_water, sun_2003_tbw<double>, sun_2003_tbw<Grad>, 3.8, 2.6, 12, 94,
        "people 12–94 y", "Sun et al. 2003, Am J Clin Nutr 77:331–340"},
    {"kushner_schoeller_1986", "Kushner & Schoeller 1986", Predicts::total_body_water,
        kushner_schoeller_1986_tbw<double>, kushner_schoeller_1986_tbw<Grad>, {}, {}, 18, 110, "adults, dilution",
        "Kushner & Schoeller 1986, Am J Clin Nutr 44:417–424"},
    {"lukaski_bolonchuk_1988", "Lukaski & Bolonchuk 1988", Predicts::total_body_water,
        lukaski_bolonchuk_1988_tbw<double>, lukaski_bolonchuk_1988_tbw<Grad>, {}, {}, 18, 110, "adults, dilution",
        "Lukaski & Bolonchuk 1988, Aviat Space Environ Med 59:1163–1169"},
    {"janssen_2000", "Janssen 2000", Predicts::skeletal_muscle, janssen_2000_smm<double>, janssen_2000_smm<Grad>, 2.7,
        2.7, 18, 110, "388 adults, magnetic resonance imaging", "Janssen et al. 2000, J Appl Physiol 89:465–471"},
    {"kyle_2003", "Kyle 2003", Predicts::appendicular_muscle, kyle_2003_asmm<double>, kyle_2003_asmm<Grad>, 1.12, 1.12,
        18, 110, "adults", "Kyle et al. 2003, Clin Nutr 22:537–543"},
    {"sergi_2015", "Sergi 2015", Predicts::appendicular_muscle, sergi_2015_asmm<double>, sergi_2015_asmm<Grad>, 1.14,
        1.14, 60, 110, "people of 60 y and more", "Sergi et al. 2015, Clin Nutr 34:667–673"},
};

} // namespace

std::span<const Equation> equations() { return rows; }

const Equation* find(Predicts what, std::string_view id)
{
    for (const Equation& e : rows)
        if (e.what == what && id == e.id) return &e;
    return nullptr;
}

Error error_in(const Equation& e, Sex sex, double bmi)
{
    Error out{0, e.error(sex).has_value()};
    for (const Equation& other : rows)
        if (&other == &e || (!out.known && other.what == e.what)) out.u = std::max(out.u, other.error(sex).value_or(0));
    const double from = e.bmi_from > 0 ? e.bmi_from : usual_bmi_from, to = e.bmi_to > 0 ? e.bmi_to : usual_bmi_to,
                 times = std::max({1.0, bmi / to, e.age_from_y < 18 ? 0.0 : from / bmi}); // children are lighter
    out.u *= times * times;
    return out;
}

} // namespace fusain::impedance

// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/analyser/profile_fit.h"

#include "virtual/analyser/analyser.h"

#include <cmath>

namespace fusain::virt {
namespace {

using impedance::segment_count;
constexpr double lengths[segment_count] = {0.332, 0.332, 0.288, 0.491, 0.491}; ///< Drillis & Contini 1966
constexpr int repeats = 5;

struct Person {
    Body body;
    std::array<Flesh, segment_count> flesh;
    double index[segment_count] = {}; ///< L²/R at 50 kHz
};

Person measured(std::mt19937_64& random)
{
    Person p;
    p.body = somebody(random);
    p.flesh = flesh_of(p.body);
    Analyser analyser(random());
    analyser.set_client(p.body);
    analyser.direct("stand");
    analyser.advance_to(1);
    analyser.direct("grip");
    for (impedance::Segment s : impedance::all_segments) {
        double ohm = 0;
        for (int k = 0; k < repeats; ++k) ohm += analyser.point(s, 50).r_ohm / repeats;
        const double cm = lengths[impedance::index(s)] * p.body.height_cm;
        p.index[impedance::index(s)] = cm * cm / ohm;
    }
    return p;
}

} // namespace

impedance::Profile fit_profile(int people, std::uint64_t seed)
{
    std::mt19937_64 random(seed);
    std::vector<Person> all;
    for (int i = 0; i < people; ++i) all.push_back(measured(random));
    const double n = people;
    impedance::Profile out;
    double count[2] = {};
    for (const Person& p : all) {
        const bool male = p.body.sex == Sex::male;
        ++count[male];
        const Flesh rest = rest_of(p.body);
        out.rest_share_of_fat_free_mass += rest.lean_kg / p.body.fat_free_mass_kg / n;
        out.rest_mass_share += (rest.lean_kg + rest.fat_kg) / p.body.mass_kg() / n;
        for (std::size_t i = 0; i < segment_count; ++i) {
            out.parts[i].mass_share += (p.flesh[i].lean_kg + p.flesh[i].fat_kg) / p.body.mass_kg() / n;
            (male ? out.expected_male : out.expected_female)[i] += p.flesh[i].lean_kg / p.body.fat_free_mass_kg;
        }
    }
    for (std::size_t i = 0; i < segment_count; ++i) {
        out.expected_male[i] /= count[1];
        out.expected_female[i] /= count[0];
        double x = 0, y = 0, xx = 0, xy = 0;
        for (const Person& p : all) x += p.index[i] / n, y += p.flesh[i].lean_kg / n;
        for (const Person& p : all) {
            xx += std::pow(p.index[i] - x, 2);
            xy += (p.index[i] - x) * (p.flesh[i].lean_kg - y);
        }
        out.parts[i].length_per_height = lengths[i];
        out.parts[i].b_kg_ohm_per_cm2 = xy / xx;
        out.parts[i].a_kg = y - xy / xx * x;
    }
    double left[segment_count] = {};
    for (const Person& p : all) {
        double raw[segment_count], sum = 0;
        for (std::size_t i = 0; i < segment_count; ++i)
            sum += raw[i] = out.parts[i].a_kg + out.parts[i].b_kg_ohm_per_cm2 * p.index[i];
        const double scale = p.body.fat_free_mass_kg * (1 - out.rest_share_of_fat_free_mass) / sum;
        for (std::size_t i = 0; i < segment_count; ++i) left[i] += std::pow(scale * raw[i] - p.flesh[i].lean_kg, 2) / n;
    }
    double worst = 0;
    for (std::size_t i = 0; i < segment_count; ++i) {
        out.parts[i].u_kg = std::sqrt(left[i]);
        double mean = 0;
        for (const Person& p : all) mean += p.flesh[i].lean_kg / n;
        worst = std::max(worst, out.parts[i].u_kg / mean);
    }
    out.id = "stand_in_1";
    out.title = "virtual analyser";
    char words[160];
    std::snprintf(words, sizeof words,
        "%d virtual clients of 18 to 75 years (seed %llu); its own error is at most %.1f %% of a segment", people,
        static_cast<unsigned long long>(seed), 100 * worst);
    out.calibrated_on = words;
    out.source = "fusain-virtual profile; the lengths of segments are those of Drillis & Contini 1966";
    return out;
}

} // namespace fusain::virt

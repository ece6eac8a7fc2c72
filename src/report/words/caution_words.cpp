// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/words/caution_words.h"

namespace fusain::report {
namespace {

constexpr struct {
    const char *code, *words;
} rows[] = {
    {"trials_scatter", "Your readings under water lie further apart than we like. The number is a first look; a few "
                       "more readings would make it surer."},
    {"few_trials", "There are fewer readings than we like, so we cannot tell yet how well they agree."},
    {"still_improving", "Your last reading was the best so far: you were still learning to empty your lungs. A few "
                        "more readings may show a little less fat."},
    {"negative_under_water", "You float more easily than most people. That is possible; we check the zero of the scale "
                             "before we build on it."},
    {"vital_capacity_unusual", "Your largest breath is not what is usual for your height and age, so the air in your "
                               "lungs is known less surely."},
    {"lung_gas_unusual", "The air in your lungs that we measured is not what is usual for your height and age. We "
                         "would measure it again."},
    {"agreement_unknown", "The chamber gave one number of its own, so how well its runs agree is not known to us."},
    {"lung_gas_lost",
        "The puffs for the air in your lungs could not be used, so it was estimated from height, age and sex."},
    {"left_out", "Not everything that should come before the measurement was done; the lab's sheet says what. The "
                 "number may be off for that."},
    {"density_unusual", "Weight and volume do not fit together as they usually do. We would measure again before "
                        "anything is built on this number."},
    {"fat_unusual",
        "This number lies outside what we usually see. We would measure again before anything is built on it."},
    {"mass_differs", "Your weight has changed more since your last visit than it usually does in so short a time. We "
                     "would weigh you again."},
    {"height_differs", "Your height is not the one in our record. We would measure it again."},
    {"mass_drifted",
        "Your weight was not the same before and after the measurement. We would weigh and measure again."},
    {"outside_group", "One of the equations was made on people unlike you, in age, sex or build, so it may read you a "
                      "little high or low."},
    {"error_unknown", "For one of the equations no error is known; the widest of its kind is taken for it."},
    {"no_equation", "No equation was made on people of your age, so nothing is said of fat."},
    {"waters_differ", "Two ways of reckoning the water in your body differ by more than a tenth, so neither is sure."},
    {"part_over_whole",
        "A part of your scan seems to hold more than what lies around it. We would read it again before "
        "relying on it."},
    {"one_frequency", "The current had one frequency only, so water inside and outside the cells is not told apart."},
    {"sum_differs",
        "Some of the numbers do not fit each other as they must. We would read them again before relying on "
        "them."},
    {"gap", "One of the printed numbers does not follow from the others as it should. We would read it again."},
    {"mass_apart", "The scan and the scale do not agree on your mass. We would look at it again before relying on it."},
    {"off_field", "A part of you lay outside the picture, so it is missing from the sums. We would scan again."},
    {"motion", "You moved during the scan. We would scan again before anything is built on this number."},
    {"metal", "Something of metal was in the picture; it reads as bone, and the fat beside it less surely."},
    {"little_soft", "In one limb hardly a place showed its fat by itself, so its fat and lean are less sure."},
    {"half_body",
        "Only one half of you lay in the picture; the other is taken to be its mirror, so right and left are not "
        "compared."},
    {"sides_merged", "Arms and legs came as sums, so right and left are not compared."},
    {"head_in_trunk", "The head is counted with the trunk here; other scans may do it otherwise."},
    {"of_another",
        "What the instrument was told of you and our record of you do not agree in everything. We would look "
        "at it again before relying on it."},
    {"lines_apart",
        "The lines between the parts of the body lie a little differently from last time, so the parts compare "
        "less well than the whole."},
    {"bone_low", "The mineral of your bones is below the expected range for your age. Please take this report to a "
                 "physician."},
    {"sides_differ", "Your right and left differ more than usual. It may be the contact of a hand or foot, or how you "
                     "are built; we would measure again."},
    {"segments_exchanged", "Two parts of the body seem to be exchanged in the record. We would measure again."},
    {"phase_unusual", "What the current showed is not what we usually see. We would check the contacts and measure "
                      "again."},
    {"poor_contact", "A hand or a foot hardly touched its plate. We would wipe it and measure again."},
    {"limbs_touch", "An arm or the thighs seem to have touched. We would measure again with a little more room."},
    {"moved", "You moved or talked a little. We would measure again."},
    {"leaning", "Somebody leaned on you or on the platform. We would measure again."},
    {"stepped_off", "You stepped off in the middle. We would measure again."},
    {"settling",
        "The water in your legs was still moving, as it does after standing up. After some minutes of standing "
        "we would measure again."},
    {"mass_changed", "Your weight was not the same before and after the measurement. We would weigh and measure "
                     "again."},
    {"profile_fits_badly", "The parts of your body fit together less well than usual, so lean and fat by part are less "
                           "sure than the whole."},
    {"no_segments", "Arms, trunk and legs are not told apart this time."},
    {"noted_before", "Something you told us before the test can move the number."}, // with what it was: client_words
    {"folds_in_centimetres",
        "Every fold was very thin. We would look at how they were written down, and measure again."},
    {"hour_unknown", "The hour of this test is not known, so it is compared with care."},
    {"under_minimum", "This is at or under the level the body needs for health. Please talk to a clinician."},
    {"water_and_swelling", "More of your water than usual lies around your cells, and you told us of a swelling. "
                           "Please see a physician; we "
                           "plan nothing about weight."},
    {"low_reserve",
        "Both muscle and fat are low for your height. Please talk to a clinician; we plan no further loss."},
    {"fast_fall",
        "Your weight has fallen fast in the last weeks. Please talk to a clinician; we plan no further loss."},
};

} // namespace

const char* client_words_of(const std::string& code)
{
    for (const auto& row : rows)
        if (code == row.code) return row.words;
    return nullptr;
}

QString client_words(const Message& m)
{
    static const QString noted = QStringLiteral("Noted before the test: ");
    if (const QString text = QString::fromStdString(m.text); m.code == "noted_before" && text.startsWith(noted))
        return QStringLiteral("Before the test it was noted: %1 That can move the number.").arg(text.mid(noted.size()));
    const char* words = client_words_of(m.code);
    return words ? QString::fromUtf8(words) : QString::fromStdString(m.text);
}

} // namespace fusain::report

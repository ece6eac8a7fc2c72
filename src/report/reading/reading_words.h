// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/figures.h"
#include "report/reading/pictures.h"
#include "work/reading/reading.h"

#include <QStringList>

/// Sentences of reading, change and plan, for the technician's page, the talk and the sheets alike.
namespace fusain::report {

/// A value of a quantity as it is written: masses in the unit that is shown.
QString value_words(const Quantity& quantity, double value, const MassUnit& unit = {});
/// The same of a change, with its sign.
QString change_words(const Quantity& quantity, double change, const MassUnit& unit = {});

/// "The scale says −1.2 kg: fat −2.0 ± 0.8 kg, fat-free +0.8 ± 0.8 kg."
QString moved_sentence(const change::Moved& moved, const MassUnit& unit = {});
/// To the client, good news first; nothing that shames, nothing that is not more than noise.
QString moved_for_client(const change::Moved& moved, bool fat_may_fall, const MassUnit& unit = {});

/// Why two tests cannot be compared, each with what differed.
QStringList why_words(const std::vector<const char*>& why, const work::Measurement& then, const work::Measurement& now);
/// "rose", "fell", "not to be told from noise", "not comparable", "no verdict: its repeatability is not known"
QString verdict_words(const work::Series& series, const change::Step& step);
/// One change in a sentence, with what it is held against.
/// What a change is held against, and where it comes from: a study's placing and the day's own apart.
QString repeatability_sentence(const Quantity& quantity, const change::Repeatability& known, const MassUnit& unit = {});
QString change_sentence(const work::Series& series, const change::Step& step, const MassUnit& unit = {});
QString trend_sentence(const work::Series& series, const MassUnit& unit = {});

/// When lean has gone down between comparable tests: to talk about, in this order, never as findings.
const QStringList& lean_questions();

/// What clients ask at that moment, with an answer for this one.
struct Answer {
    QString key, question, answer;
};
std::vector<Answer> usual_questions(
    const work::Reading& reading, const std::optional<group::Standing>& standing, const MassUnit& unit = {});

/// "muscle-led", "balanced" … in a sentence for the client; empty under 18.
QString balance_sentence(const work::Measurement& measurement);
/// The same for the technician, with the numbers.
QString balance_words(const work::Measurement& measurement);
/// Body mass index put in its place, in one sentence.
QString bmi_sentence(const work::Measurement& measurement);
/// "percentile 63 of 34 women of this lab by impedance"; what it takes when there are too few.
QString standing_words(
    const std::optional<group::Standing>& standing, const work::OwnGroup::Whom& whom, const Quantity& quantity);

/// A plan's answer in a sentence: what it takes, or why it is refused and what is nearest.
QString plan_sentence(const plan::Input& input, const Outcome<Result>& answer, const QDate& start);
QString progress_words(plan::Progress progress);
/// "24 June 2026: 34.3 % measured, 33.8 % planned: on the way."
QString way_sentence(const work::OnTheWay& one);
/// A plan as it is drawn: its way at an intake to the end of the picture, its doubt, what cannot be told from noise by
/// the method it began with.
PlanPicture plan_picture(const plan::Input& input, double intake_kcal, const QDate& start, int weeks_shown, double lsc);
/// Adds what was measured since.
void add_measured(PlanPicture& picture, const std::vector<work::OnTheWay>& way);

/// From series and history to the pictures.
BalancePicture balance_picture(const work::History& history, const std::string& method, const QDate& until);
ChangePicture change_picture(
    const work::Series& series, int around, const look::Palette& palette, const MassUnit& unit = {});
/// Rows of the side-by-side: each method of the day that tells fat.
std::vector<BesideRow> beside_rows(const std::vector<const work::Measurement*>& day, const work::Measurement* main);

} // namespace fusain::report

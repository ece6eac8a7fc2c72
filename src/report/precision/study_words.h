// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/page.h"
#include "work/study/study.h"

/// Studies of precision in sentences, pictures and on paper: the page and the sheet use the same.
namespace fusain::report {

/// "Repeats on Analyser A, since 20 November 2026: 9 of 15 people, under way."
QString study_line(const work::Study& study, const work::Lab& lab);
/// What is to be done next, with names; of a study that is over, what it says.
QString next_words(const work::Study& study, const work::Lab& lab);
/// What degrees of freedom are worth: "30: the true SD lies between 0.80 and 1.34 times what is found".
/// `effective`: when some people scatter more than others; 0: not known yet.
QString worth_words(double degrees_of_freedom, double effective = 0);
/// "0.62 %", with the digits that carry its meaning.
QString spread_words(const Quantity& quantity, double spread);
/// One quantity in a sentence: what a change must pass, and what stands against it.
QString told_sentence(const work::Repeated& told, const work::Study& study);
/// Who differs from whom in it, and by how much; one sentence an operator.
QStringList operator_sentences(const work::Repeated& told);
/// What the two instruments agree in, and what follows for tests on both.
QString compared_sentence(const work::Compared& compared, const work::Study& study);
QStringList cautions(const work::Study& study, const std::vector<work::Repeated>& told);

/// Every person's repeats as deviations from the person's mean, a mark an operator; the band holds 95 of 100.
void draw_repeats(QPainter& painter, const QRectF& area, const work::Study& study, const work::Repeated& told,
    const look::Palette& palette, int em, long marked = 0);
/// Difference against mean of each person's pair: shift with its limits, limits of agreement, what is allowed.
void draw_agreement(
    QPainter& painter, const QRectF& area, const work::Compared& compared, const look::Palette& palette, int em);

/// Table rows, head first: quantity, RMS-SD with its upper limit, CV with what is published, least significant change.
std::vector<QStringList> told_rows(const std::vector<work::Repeated>& told, const work::Study& study);
std::vector<QStringList> compared_rows(const std::vector<work::Compared>& compared);

/// The study on paper. Names of people are never on it.
Document study_sheet(const work::Study& study, const work::Lab& lab, const QString& lab_name);
/// Sheet and files into the lab's folder `studies`. Returned: path of the PDF. Refusals: `file_unreachable`, and what
/// the study says.
Outcome<QString> give_study(const work::Study& study, const work::Lab& lab);

} // namespace fusain::report

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"
#include "report/page/figures.h"
#include "report/page/page.h"
#include "report/words/phrases.h"

/// What a method says of itself on the sheets: one of these in its room, `<room>_words()`.
namespace fusain::report {

struct MethodWords {
    const char* science; ///< its page in docs/science
    const char* model;   ///< what turns the measurement into fat, with an error of its own: "conversion"
    /// The picture of what was measured, under the sum
    struct Picture {
        QString (*title)(const bench::Visit&, const Result*); ///< empty: there is nothing to draw
        void (*draw)(QPainter&, const QRectF&, const bench::Visit&, const Result*, const look::Palette&, int em,
            const MassUnit&);
        double (*rows)(const bench::Visit&, const Result*); ///< its height, in text sizes
        bool on_sheets;                                     ///< else the lab sheet's table of readings says it
    } picture;
    /// How single readings are drawn on a scale
    struct Readings {
        const char* none_yet;
        const char* unit;                              ///< empty: a mass, in the unit of the window
        const char* small_unit;                        ///< a thousandth of it
        double half;                                   ///< the scale reaches at least as far to either side
        bool count_taken;                              ///< numbered among those taken, not among all trials
        std::vector<int> (*used)(const bench::Visit&); ///< which count
    } readings;
    /// To the client: how well the readings agree
    QString (*agreement)(const bench::Visit&, const Result&);
    QString (*how)(const bench::Visit&, const Result&); ///< to the client: what was done
    QString (*sensitivity)(const bench::Visit&);        ///< to the client: what would change it
    /// In one line: how it became fat, and the sum
    QString (*sum)(const bench::Visit&, const Result&, const MassUnit&);
    /// Every equation that could stand in the chosen one's place, side by side; the first row is the heading, the first
    /// cell marks the chosen
    std::vector<QStringList> (*equations)(const bench::Visit&, const Result&);
    /// To the lab: readings, instrument
    void (*details)(Document&, const bench::Visit&, const Outcome<Result>&);
    /// The method's own, with what stands now
    std::vector<std::pair<const char*, QString>> (*choices)(const bench::Visit&);
    /// To the client, under the picture: what lies where. Null: the picture says it
    QString (*where)(const bench::Visit&, const Result&) = nullptr;
};
const MethodWords& words_of(Method method);
/// Of a visit whose result was told elsewhere: what can be said of it.
const MethodWords& words_of(const bench::Visit& visit);

MethodWords tank_words();
MethodWords chamber_words();
MethodWords analyser_words();
MethodWords xray_words();
MethodWords brought_words();
MethodWords printed_words();

/// For the density methods: the readings as their picture, density as the way to fat.
MethodWords::Picture picture_of_readings();
QString density_sum(const bench::Visit& visit, const Result& result, const MassUnit& unit);
std::vector<QStringList> conversions_beside(const bench::Visit& visit, const Result& result);
QString conversion_words(const bench::Visit& visit); ///< "; density became fat with Siri 1961"
/// "12.3 kg fat  +  60.1 kg fat-free"
QString masses_sum(const Result& result, const MassUnit& unit);

/// "± 2.6 from measuring, ± 3.7 from the conversion"
QString doubt_words(const bench::Visit& visit, const Value& value);
/// "counts", "taken, not counted by the rule", "thrown out: …"
QString fate(const bench::Visit& visit, const bench::Trial& trial, const Outcome<Result>& result);

} // namespace fusain::report

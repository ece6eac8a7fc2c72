// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <span>
#include <string_view>

/// Which underwater trials count, and what they are worth together.
namespace fusain::trials {

/// The trials a rule chose.
struct Selection {
    double underwater_mass_kg = 0;
    std::vector<int> used; ///< 0-based positions in the list given, in that order
    double spread_kg = 0;  ///< largest minus smallest of those that must agree
};

/// Trials that count and lie further apart than this are no agreement, whatever the rule makes of them.
inline constexpr double agreement_kg = 0.100;

/// Best three within 100 g: heavy to light, the first three neighbours whose spread is at most 0.100 kg, averaged.
/// Given: net underwater masses in kg, in the order taken. Refuses with `too_few_trials`, `trials_disagree`.
/// Source: common laboratory practice; leftover air makes a trial light, so the heavy ones are the truer ones.
Outcome<Selection> best_three_within_100g(std::span<const double> trials_kg);

/// Behnke & Wilmore 1974, on values rounded to 0.01 kg: the highest if seen more than once, else the second highest
/// distinct value if seen more than once, else the third highest distinct value. Refuses with `too_few_trials`,
/// `trials_disagree`. Those that must agree are the highest three: more than 0.100 kg between them is the caution
/// `trials_scatter`. Source: Behnke & Wilmore 1974, Evaluation and Regulation of Body Build and Composition.
Outcome<Selection> behnke_wilmore_1974(std::span<const double> trials_kg);

/// Mean of the last three, after learning (about 9–10 trials). Refuses with `too_few_trials`; `trials_scatter` when
/// they lie more than 0.100 kg apart. Source: Katch 1968, Res Q 39:993–999.
Outcome<Selection> last_three_mean(std::span<const double> trials_kg);

/// Mean of all trials. Refuses with `too_few_trials` when there is none; fewer than three is a caution, and so is
/// `trials_scatter`. Source: simple average, for comparison with labs that use it.
Outcome<Selection> mean_all(std::span<const double> trials_kg);

struct Rule {
    const char* id;
    const char* title;
    Outcome<Selection> (*select)(std::span<const double>);
    const char* source;
};

std::span<const Rule> rules();
const Rule* find(std::string_view id);
inline constexpr const char* default_id = "best_three_within_100g";

/// True when the last trial is the heaviest by more than 20 g: the client is still learning to empty the lungs.
bool still_improving(std::span<const double> trials_kg);

/// What the technician should do next.
enum class Next { more_needed, one_more_would_tell, enough, limit_reached };
struct Advice {
    Next next = Next::more_needed;
    std::string sentence;
};
/// Given: trials in order, and the rule. Usual limit: ten trials.
Advice advise(std::span<const double> trials_kg, const Rule& rule);
inline constexpr int usual_limit = 10;

} // namespace fusain::trials

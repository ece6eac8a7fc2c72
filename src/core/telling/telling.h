// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/body/energy.h"
#include "core/body/reference.h"

/// What a client may be told of a result: the rules alone, no sentences.
namespace fusain::telling {

/// Why nothing about weight is said to somebody. Ordered: the first that applies is the one that is told.
enum class Reserve {
    none,
    growing,    ///< under 18 years
    expecting,  ///< pregnant, or possibly so
    caution,    ///< a caution of the result that forbids a plan (judgement.h)
    at_minimum, ///< at or under the fat that the body needs
};
struct Reserved {
    Reserve why = Reserve::none;
    const Message* caution = nullptr; ///< the one of `messages` that forbids it
};
/// Given:    body   sex, age (years), height (cm), fat and fat-free mass (kg)
///           expecting, and the cautions of the result
Reserved reserved(const energy::Body& body, bool expecting, const Messages& messages);

/// What somebody may aim at who is not reserved, by where they stand in the range they asked to be compared with.
enum class Aim { none, keep_it, come_closer, eat_enough };
/// `no_plan`: for a reason that lies outside this result, such as a note in the record. Loss is never an aim of
/// somebody whom it would take under the least (safe.h).
Aim aim(const energy::Body& body, const std::optional<reference::Place>& place, bool no_plan);

} // namespace fusain::telling

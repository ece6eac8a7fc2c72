// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/time/alike.h"
#include "work/lab/lab.h"

/// A visit beside the client's last measured one by the same method.
namespace fusain::work {

class InForce; // study/in_force.h

/// Of the client's last measured test by the method: as told, or, where it was measured elsewhere, from its screening.
std::optional<screening::Conditions> last_conditions(const Lab& lab, long client_id, Method method);
/// The same before this visit.
std::optional<screening::Conditions> conditions_before(
    const records::Store& store, const bench::Visit& visit, long visit_id);
/// How the two compare, from what was really done in both; nothing without one before.
std::optional<alike::Comparability> comparability(
    const records::Store& store, const bench::Visit& visit, const std::optional<screening::Conditions>& before);
/// The visit with its numbers as they were told, where an older engine reckoned them under the same choices; else as it
/// is.
bench::Visit as_told(const records::Store& store, const bench::Visit& visit, long visit_id);
/// How a test that is to come would compare.
alike::Comparability comparability(const InForce& known, const QDate& day, Method method,
    const screening::Conditions& last, screening::Conditions planned);

} // namespace fusain::work

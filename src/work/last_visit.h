// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/screening.h"
#include "records/visits/store.h"

/// A visit beside the client's last measured one by the same method.
namespace fusain::work {

std::optional<screening::Conditions> conditions_before(
    const records::Store& store, const bench::Visit& visit, long visit_id);
/// How the two compare, from what was really done in both; nothing without one before.
std::optional<screening::Comparability> comparability(
    const records::Store& store, const bench::Visit& visit, const std::optional<screening::Conditions>& before);

} // namespace fusain::work

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/method.h"

#include <map>
#include <span>

/// What the visit asks of the methods. The table itself, bench/methods.cpp, stands above their rooms.
namespace fusain::bench {

/// Every method's row, in the order of core/method/rooms.h.
std::span<const BenchRow* const> methods();
const BenchRow& bench_of(Method method);
/// The row that a log goes by, from its first event: the method's own, or that of numbers that came finished. Null when
/// this version does not know it.
const BenchRow* row_of_log(const event::Started& started);
/// The instrument of every method whose instrument speaks, to be fed by a link.
std::map<Method, std::unique_ptr<Take>> instruments();

} // namespace fusain::bench

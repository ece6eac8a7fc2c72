// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/method.h"

#include <map>
#include <span>

/// What the visit asks of the list of methods. The list itself, bench/methods.cpp, stands above their rooms.
namespace fusain::bench {

/// Every method that has a bench, one line each. The first is the one that logs without a method are of.
std::span<const MethodRow* const> methods();
/// Null when the method has no bench yet.
const MethodRow* method_row(protocol::Method method);
/// The row that a log goes by, from its first event: the method's own, or that of numbers that came finished. Null when
/// this version has no bench for it.
const MethodRow* row_of_log(const event::Started& started);
/// The instrument of every method, to be fed by a link.
std::map<protocol::Method, std::unique_ptr<Take>> instruments();

} // namespace fusain::bench

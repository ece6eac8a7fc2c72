// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/result.h"

#include <optional>

namespace fusain::possible {

/// Numbers that no body has are not a result (`not_a_body`: measure again).
///
/// Given:    a result; water measured together with its fat-free mass, kg or L, where it is no value of the result
/// Returned: what is wrong: percent fat under 0 or over 75, or water under 0.60 or over 0.85 of fat-free mass
/// Source:   this lab's rule; fat-free mass is about 0.73 water in health (Wang et al. 1999, Am J Clin Nutr 69:833–841)
[[nodiscard]] std::optional<Message> not_a_body(const Result& result, std::optional<double> water = std::nullopt);

} // namespace fusain::possible

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"

namespace fusain::bench::event {

/// What a density method's `started` says besides.
struct DensityStarted {
    std::string conversion{}; ///< by the client's age; empty: the house's
};

} // namespace fusain::bench::event

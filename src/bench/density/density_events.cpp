// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/density/density_events.h"

#include "bench/base/fields.h"

namespace fusain::bench {

FUSAIN_LOGGED(event::DensityStarted, field("conversion", &E::conversion))

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/live.h"

namespace fusain::bench {

double longest_age_s(Channel channel)
{
    switch (channel) {
    case Channel::load_cell:
    case Channel::test_pressure:
    case Channel::reference_pressure: return 1;
    case Channel::platform:
    case Channel::scale: return 3;
    default: return 10;
    }
}

} // namespace fusain::bench

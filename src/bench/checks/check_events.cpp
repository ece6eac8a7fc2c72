// SPDX-License-Identifier: GPL-3.0-or-later
// The events of an instrument check, as its log stores them.
#include "bench/checks/check_events.h"

#include "bench/base/fields.h"

namespace fusain::bench {

FUSAIN_FIELDS(Usual, field("count", &E::count)
                         .field("percent", &E::percent)
                         .field("mass_kg", &E::mass_kg)
                         .field("resistance_ohm", &E::resistance_ohm))
FUSAIN_LOGGED(checking::Started, field("kind", &E::instrument_kind)
                                     .field("reference", &E::reference)
                                     .field("reference_x", &E::reference_x)
                                     .field("check_by", &E::check_by)
                                     .field("usual", &E::usual))
FUSAIN_LOGGED(checking::Done, always("step", &E::step).field("person", &E::person))
FUSAIN_LOGGED(checking::Reading, always("step", &E::step)
                                     .field("value", &E::value)
                                     .field("x", &E::x)
                                     .field("sd_kg", &E::sd_kg)
                                     .field("source", &E::source))
FUSAIN_LOGGED(checking::Finished, field("given_up", &E::given_up))
FUSAIN_LOGGED(checking::Remark, field("text", &E::text))

} // namespace fusain::bench

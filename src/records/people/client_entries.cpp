// SPDX-License-Identifier: GPL-3.0-or-later
// What is entered of a client, as the log stores it.
#include "records/people/client_log.h"

#include "bench/base/fields.h"

namespace fusain::bench {

using namespace records::entry;

FUSAIN_LOGGED(Withdrawn, field("of", &E::of).field("reason", &E::reason))
FUSAIN_LOGGED(PlanEnded, always("reason", &E::reason))
FUSAIN_LOGGED(Consent, always("of", &E::of).always("signed_by", &E::signed_by))
FUSAIN_LOGGED(Telling, always("without_numbers", &E::without_numbers))
FUSAIN_LOGGED(Sheet, always("visit", &E::visit)
                         .always("for", &E::whose)
                         .always("file", &E::file)
                         .always("digest", &E::digest)
                         .always("replaces", &E::replaces))

} // namespace fusain::bench

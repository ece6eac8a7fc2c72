// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/diary/screening_kept.h"

#include "bench/base/fields.h"

namespace fusain::records {

bool VerdictKept::goes() const
{
    return overridden || verdict == protocol::word(protocol::Verdict::go) ||
           verdict == protocol::word(protocol::Verdict::noted);
}

} // namespace fusain::records

namespace fusain::bench {

using namespace records;

FUSAIN_FIELDS(screening::Answer, field("minutes_ago", &E::minutes_ago)
                                     .field("never", &E::never)
                                     .field("yes", &E::yes)
                                     .field("number", &E::number)
                                     .field("kept", &E::kept))
FUSAIN_FIELDS(FindingKept,
    always("rule", &E::rule).always("verdict", &E::verdict).always("words", &E::words).always("effects", &E::effects))
FUSAIN_FIELDS(OverrideKept, always("who", &E::who).always("reason", &E::reason))
FUSAIN_FIELDS(VerdictKept, always("method", &E::method)
                               .always("verdict", &E::verdict)
                               .always("findings", &E::findings)
                               .field("override", &E::overridden))
FUSAIN_LOGGED(ScreeningKept, always("answers", &E::answers)
                                 .always("verdicts", &E::verdicts)
                                 .always("protocols", &E::protocols)
                                 .always("house", &E::house)
                                 .always("house_version", &E::house_version)
                                 .always("conditions", &E::conditions)
                                 .always("comparability", &E::comparability))
FUSAIN_LOGGED(ScreeningDraft, always("at", &E::at).always("answers", &E::answers).always("known", &E::known))

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
// The events of a study, as its log stores them.
#include "work/study/study_events.h"

#include "bench/base/fields.h"

namespace fusain::bench {

using namespace work::in_study;

namespace {

/// What it came to lies flat.
const Fields<ResultKept>::Row result_row = {[](const ResultKept& r, Json& j) {
                                                if (r.repeats) j.update(Fields<RepeatsKept>::all().to_json(*r.repeats));
                                                if (r.beside) j.update(Fields<BesideKept>::all().to_json(*r.beside));
                                            },
    [](const Json& j, ResultKept& r) -> std::optional<Message> {
        if (j.contains("verdict")) return Fields<BesideKept>::all().from_json(j, r.beside.emplace());
        return Fields<RepeatsKept>::all().from_json(j, r.repeats.emplace());
    }};

} // namespace

FUSAIN_FIELDS(Stamped, always("local", &E::local))
FUSAIN_LOGGED(Begun, with<Stamped>()
                         .always("what", &E::what)
                         .always("method", &E::method)
                         .always("instrument", &E::instrument)
                         .always("second", &E::second)
                         .always("repaired_on", &E::repaired_on)
                         .always("operators", &E::operators)
                         .always("people", &E::people)
                         .always("times", &E::times))
FUSAIN_LOGGED(Repositioned, with<Stamped>().always("client", &E::client).always("anew", &E::anew))
FUSAIN_LOGGED(Repeat, with<Stamped>()
                          .always("visit", &E::visit)
                          .always("started_at", &E::started_at)
                          .always("technician", &E::technician)
                          .always("repositioned", &E::repositioned))
FUSAIN_LOGGED(LeftOut, with<Stamped>().always("visit", &E::visit).always("reason", &E::reason))
FUSAIN_LOGGED(TakenBack, with<Stamped>().always("visit", &E::visit))
FUSAIN_LOGGED(GivenUp, with<Stamped>().always("reason", &E::reason))
FUSAIN_FIELDS(MemberKept, always("who", &E::who)
                              .always("at", &E::at)
                              .always("side", &E::side)
                              .always("left_out", &E::left_out)
                              .always("values", &E::values))
FUSAIN_FIELDS(RepeatsKept, always("rms_sd", &E::rms_sd)
                               .always("lsc", &E::lsc)
                               .always("degrees_of_freedom", &E::degrees_of_freedom)
                               .always("effective_degrees", &E::effective_degrees)
                               .always("rms_sd_upper95", &E::rms_sd_upper95)
                               .always("held_against", &E::held_against))
FUSAIN_FIELDS(BesideKept, always("n", &E::n)
                              .always("shift", &E::shift)
                              .always("shift_within", &E::shift_within)
                              .always("sd", &E::sd)
                              .always("low", &E::low)
                              .always("high", &E::high)
                              .always("lsc", &E::lsc)
                              .always("verdict", &E::verdict))
FUSAIN_FIELDS(ResultKept, other(result_row))
FUSAIN_LOGGED(Closed, with<Stamped>()
                          .always("equations", &E::equations)
                          .always("people", &E::people)
                          .always("results", &E::results)
                          .always("noise_lsc", &E::noise_lsc))

} // namespace fusain::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chamber/chamber.h"
#include "desk/bench/chamber/chamber_panels.h"
#include "desk/bench/seen_panel.h"

namespace fusain::desk {

/// What to see to before the door closes; the talk is never left out.
Panel* make_prepare_panel(work::Session& s)
{
    return new SeenPanel(s, bench::step::prepare,
        {QStringLiteral("Cap, clothes, and how to get out"),
            QStringLiteral("Say it while they dress. Mark what is seen to."),
            QStringLiteral("“It sounds like panting and you feel a slight pressure. The door is only "
                           "held by magnets. This button, below your knees, opens it at any time. Sit "
                           "still and breathe quietly; nobody leans on the chamber.”"),
            {{"see_cap", "swim cap, all hair under it", "cap over all hair",
                 "hair outside the cap: % fat reads about 2.3 too low"},
                {"see_clothes", "tight swimwear only, no jewellery", "tight swimwear, no jewellery",
                    "loose clothes: % fat reads several percent too low"},
                {"see_dry", "skin and hair dry, not warm from exercise", "skin and hair dry",
                    "warm or wet skin: % fat reads 1 to 2 too low"},
                {"see_talk", "told about sound, pressure and magnets", "told about the chamber", ""},
                {"see_release", "pressed the release button once", "pressed the release button", ""}},
            [](auto seen, auto left_out) {
                return bench::event::Prepared{seen, left_out};
            },
            [](const bench::Visit& v) -> const std::vector<std::string>& { return bench::chamber_of(v).prepared; },
            "step_down"});
}

} // namespace fusain::desk

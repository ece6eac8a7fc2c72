// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench/panels.h"

namespace fusain::desk {

Panel* make_lungs_panel(work::Session& session);
Panel* make_zero_panel(work::Session& session);
Panel* make_water_panel(work::Session& session);
Panel* make_trials_panel(work::Session& session);

} // namespace fusain::desk

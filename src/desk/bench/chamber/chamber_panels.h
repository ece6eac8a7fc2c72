// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench/panels.h"

namespace fusain::desk {

Panel* make_prepare_panel(work::Session& session);
Panel* make_calibrate_panel(work::Session& session);
Panel* make_runs_panel(work::Session& session);
Panel* make_gas_panel(work::Session& session);

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench/panels.h"

namespace fusain::desk {

Panel* make_stance_panel(work::Session& session);
Panel* make_spectrum_panel(work::Session& session);

} // namespace fusain::desk

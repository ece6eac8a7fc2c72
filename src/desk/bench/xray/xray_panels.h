// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench/panels.h"

namespace fusain::desk {

Panel* make_lying_panel(work::Session& session);
Panel* make_scan_panel(work::Session& session);
Panel* make_lines_panel(work::Session& session);

} // namespace fusain::desk

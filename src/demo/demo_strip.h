// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/stage/stand_ins.h"

#include <QWidget>

namespace fusain::desk {

/// A strip that says that this is a demo, and lets things go wrong on purpose.
QWidget* make_demo_strip(StandIns& room);

} // namespace fusain::desk

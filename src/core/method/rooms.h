// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

/// Every measuring method, once: its row in core/method/rows.cpp, and the name of its rooms on the floors above. Each
/// floor makes its own table of it (bench/methods.cpp, report/words/method_words.cpp, desk/bench/method_desk.cpp,
/// cli/batch/record.cpp). A line here whose row or room is missing does not link.
// clang-format off
#define FUSAIN_METHODS(ROOM)         \
    ROOM(hydrostatic, tank)          \
    ROOM(air_displacement, chamber)  \
    ROOM(impedance, analyser)        \
    ROOM(absorptiometry, xray)
// clang-format on

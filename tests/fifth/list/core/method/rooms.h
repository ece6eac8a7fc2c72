// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

/// The list of methods of src/core/method/rooms.h, and a fifth that exists in tests only: the one list that it touches.
// clang-format off
#define FUSAIN_METHODS(ROOM)         \
    ROOM(hydrostatic, tank)          \
    ROOM(air_displacement, chamber)  \
    ROOM(impedance, analyser)        \
    ROOM(absorptiometry, xray)       \
    ROOM(trunk_tape, tape)
// clang-format on

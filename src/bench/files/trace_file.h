// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/signal/chamber.h"
#include "core/signal/swing.h"

#include <iosfwd>
#include <vector>

/// Recordings of a signal as files: CSV with a header, `#` lines are comments, 20 to 2000 samples a second
/// (docs/formats/traces.md). Refusals name line and column: `wrong_columns`, `not_a_number`, `out_of_range`,
/// `time_backwards`, `gap`, `not_utf8`.
namespace fusain::bench {

/// Columns t_s, mass_kg; t = 0 when the chair was let go: what came before is left out.
Outcome<std::vector<swing::Sample>> read_swing_trace(std::istream& in);
/// Columns t_s, p_test_pa, p_reference_pa, door (0 closed, 1 open).
Outcome<std::vector<chamber::Sample>> read_chamber_trace(std::istream& in);

} // namespace fusain::bench

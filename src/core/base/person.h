// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace fusain {

/// The sex whose coefficients an equation uses; chosen by a person and recorded, never guessed.
enum class Sex { female, male };

inline const char* word(Sex sex) { return sex == Sex::male ? "male" : "female"; }

} // namespace fusain

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <string>
#include <string_view>

namespace fusain {

/// Position of the first byte that is not UTF-8, counted from 1; 0: all of it is.
std::size_t first_bad_byte(std::string_view text);

/// A text for a message: at most so many bytes, never cut inside a character, whatever is not UTF-8 as �.
std::string shown_text(std::string_view text, std::size_t most = 60);

} // namespace fusain

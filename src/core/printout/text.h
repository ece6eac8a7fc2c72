// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <string>
#include <string_view>

/// Words on paper, compared.
namespace fusain::printout {

/// Small letters, of Latin and Greek.
std::string lower(std::string_view utf8);
/// What counts of a label: small letters and digits, without spaces and signs of punctuation.
std::string squashed(std::string_view utf8);
/// The same, and what a reader of pictures takes for each other (0 and O, 1, I and l) alike.
std::string alike(std::string_view utf8);
/// How many letters must be changed, left out or put in to make one of the other (Levenshtein); more than `most`: most
/// + 1.
int distance(std::string_view a, std::string_view b, int most);
/// The letters of a text, one each.
std::u32string letters(std::string_view utf8);

} // namespace fusain::printout

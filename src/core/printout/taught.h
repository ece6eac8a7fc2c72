// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/number.h"
#include "core/printout/read.h"

/// A layout that is made on its first printout: somebody points at a value, and it is found out what it stands beside.
namespace fusain::printout {

/// The word under a point of the paper as it came, mm; nothing: none within 2 mm.
std::optional<std::size_t> word_at(const Page& page, double x_mm, double y_mm);
/// The word is, or begins, a number.
bool is_number(const Page& page, std::size_t word, const Marks& marks);

/// The field whose value stands at `word`: its label is what stands to its left, or above it; unit, decimals and limits
/// as printed; what it is by its name (`named`). `under` is the heading above it, to be used where the label alone is
/// not enough.
/// What identifies the client need not be a number: its key is `client.at`, `client.sex` … (`identifies`).
/// Refused: `not_a_number`; `missing_field`, no words stand beside it.
Outcome<Field> taught(const Page& page, std::size_t word, const Marks& marks);

/// The decimal mark of a page: what stands most often within numbers.
char decimal_of(const std::vector<Page>& pages);

} // namespace fusain::printout

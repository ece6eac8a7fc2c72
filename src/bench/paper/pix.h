// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/paper/paper.h"

#include <leptonica/allheaders.h>

#include <memory>

/// Pictures of Leptonica's, held and let go.
namespace fusain::bench::paper {

struct LetGo {
    void operator()(Pix* pix) const { pixDestroy(&pix); }
    void operator()(Pixa* pictures) const { pixaDestroy(&pictures); }
    void operator()(Boxa* boxes) const { boxaDestroy(&boxes); }
};
using PixHeld = std::unique_ptr<Pix, LetGo>;
using BoxesHeld = std::unique_ptr<Boxa, LetGo>;

Grey to_grey(Pix* eight_bits);
PixHeld to_pix(const Grey& grey);
/// Troubles are told by what is returned, not on the terminal.
void quiet_libraries();

} // namespace fusain::bench::paper

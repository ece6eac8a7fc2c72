// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QColor>
#include <QFont>

/// Colours and type of Fusain: charcoal on warm paper, or chalk on charcoal paper. Each colour has one meaning.
namespace fusain::look {

struct Palette {
    QColor paper, sheet, ink, smudge, faint, line; ///< background, raised paper, text, second text, hints, hairlines
    QColor lean, fat, water, mineral;              ///< what the body is made of
    QColor look_here, live;                        ///< spindle rose: look here; spindle orange: live now
};

const Palette& day();
const Palette& night();

/// Call before QApplication. The Debian package of B612 also installs a monospaced cut that calls itself "B612" as
/// well; fontconfig would pick that one over the font that ships with the program.
void prepare_fonts();
/// Makes the files that ship inside the program (:/data, :/fonts) reachable. Needs no window.
void reach_shipped_files();
/// Loads the fonts that ship with the program. False when one is missing.
bool load_fonts();

enum class Voice { speaks, text, measured }; ///< Vollkorn, Lato, B612
QFont font(Voice voice, int pixels, bool strong = false);

} // namespace fusain::look

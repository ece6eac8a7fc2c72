// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/layout.h"
#include "work/lab/lab.h"

/// The lab's own layouts of what its instruments show: `layouts/*.json` beside the lab file
/// (docs/formats/printout-layout.md).
namespace fusain::work {

struct Layouts {
    std::vector<printout::Layout> usable; ///< by title
    Messages bad;                         ///< files that cannot be used, with what is wrong
};
Layouts layouts(const Lab& lab);
/// Of a lab's folder; from any thread.
Layouts layouts(const QString& lab_folder);
/// Refusals: `layout_gone`, or what is wrong with its file.
Outcome<printout::Layout> layout(const Lab& lab, const QString& id);
/// Writes it under its id, in place of the one that was there; on the disk when it returns.
[[nodiscard]] std::optional<Message> keep(const Lab& lab, const printout::Layout& layout);

} // namespace fusain::work

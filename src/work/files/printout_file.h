// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/paper/paper.h"
#include "bench/visit/events.h"

#include <QString>

#include <map>

/// A printout that came as a file: read, cut out, and kept beside the lab (docs/printout-reading.md).
namespace fusain::work {

struct PrintoutFile {
    printout::Reading reading;
    Messages messages;                              ///< why something is doubtful
    std::map<std::string, bench::paper::Grey> cuts; ///< what stands there, by key; of the client `client.number` …
    std::string name, sha256;
    bench::event::Attached kept; ///< what the visit's log says of it
};

/// Refusals: what a file that cannot be read is refused with, `bad_file`, `unreadable`, `no_reader`, `stopped`. From
/// any thread; in half a second for a PDF with text, in some seconds for a picture.
Outcome<PrintoutFile> read_printout(const QString& lab_file, const QString& path, const printout::Layout& layout,
    const bench::paper::Progress& progress);

/// The pages of a file as words and as pictures, without a layout: to make one on it. The same refusals.
struct PaperPages {
    std::vector<printout::Page> words;
    std::vector<bench::paper::Grey> pictures;
};
Outcome<PaperPages> read_pages(const QString& path, const bench::paper::Progress& progress);

} // namespace fusain::work

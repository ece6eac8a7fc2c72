// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/line_setup.h"
#include "records/store/store.h"

/// The instruments' lines of a lab: what is kept of them, and the decoders there are. A line belongs to the computer it
/// was connected at: another one that opens the same lab does not look for it.
namespace fusain::work {

struct Decoders {
    std::vector<std::shared_ptr<const bench::Decoder>> all; ///< shipped ones first, then the lab's own by name
    Messages wrong;                                         ///< files that could not be used
};
/// Those that ship and those in `decoders/` beside the lab file.
Decoders decoders(const records::Store& store);
QString decoder_folder(const records::Store& store);

struct KeptLines {
    std::vector<bench::LineSetup> lines; ///< of this computer
    Messages wrong;                      ///< what cannot be used, and why
};
KeptLines kept_lines(const records::Store& store);
/// Takes the place of the kept line at the same place, or of `instead_of`. Refusals: what `bench::check` says,
/// `line_taken` where another line feeds the same channel, and what the lab says.
[[nodiscard]] std::optional<Message> keep_line(
    records::Store& store, const bench::LineSetup& line, const std::string& instead_of = {});
[[nodiscard]] std::optional<Message> forget_line(records::Store& store, const std::string& place);

} // namespace fusain::work

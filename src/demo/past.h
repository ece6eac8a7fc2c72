// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/store/store.h"
#include "virtual/body.h"

#include "bench/base/json.h"

/// Tests that were made before today, as the virtual instruments would have measured them.
namespace fusain::desk {

struct PastTest {
    Method method;
    QString day; ///< ISO
    std::string who;
    std::uint64_t seed = 0;
    const char* instrument = nullptr; ///< serial number; null: the lab's own
};
/// A whole test from its log, through the decoder and the readers, as at the bench.
[[nodiscard]] std::optional<Message> play_past(
    records::Store& store, const records::Client& client, const virt::Body& body, const PastTest& test);

/// A year of one client: a true body that changes by the dynamic model, measured now and then; folds and girths, what
/// is eaten, a plan, where the story has them (demo/crew.json).
[[nodiscard]] std::optional<Message> tell_story(records::Store& store, const records::Client& client, virt::Body body,
    const nlohmann::json& story, std::uint64_t& seed);

} // namespace fusain::desk

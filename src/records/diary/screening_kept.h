// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"
#include "core/before/screening.h"

/// What is kept of a screening (docs/formats/screening.md): its keys are in screening_kept.cpp.
namespace fusain::records {

struct FindingKept {
    std::string rule{}, verdict{}, words{};
    std::vector<std::string> effects{};
};

/// Somebody answers for it by name.
struct OverrideKept {
    std::string who{}, reason{};
};

struct VerdictKept {
    std::string method{}, verdict{}; ///< their words
    std::vector<FindingKept> findings{};
    std::optional<OverrideKept> overridden{};
    bool goes() const; ///< it may, or somebody has answered for it
};

/// As it was answered; final.
struct ScreeningKept {
    screening::Answers answers{};
    std::vector<VerdictKept> verdicts{};
    std::map<std::string, int> protocols{}; ///< versions, by the method's word
    protocol::HouseRules house{};
    int house_version = 0;
    std::map<std::string, screening::Conditions> conditions{}; ///< by the method's word
    std::map<std::string, std::string> comparability{};        ///< in words, by the method's
};

/// Answers of a screening that was left before it was kept.
struct ScreeningDraft {
    std::string at{}; ///< UTC
    screening::Answers answers{};
    std::vector<std::string> known{}; ///< ids of what was known before it was asked
};

} // namespace fusain::records

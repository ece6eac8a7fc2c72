// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"
#include "core/base/outcome.h"

#include <QString>

#include <vector>

/// What is kept of a client beside visits: folds and girths, days and food, plans, what was told. Append-only; every
/// kind with its body is described in docs/formats/client-log.md.
namespace fusain::records {

class Store;

struct ClientEvent {
    long id = 0, client_id = 0;
    QString day; ///< ISO, the lab's day it belongs to
    QString at;  ///< UTC
    QString who;
    QString kind;            ///< tape, days, plan, plan_ended, told, sheet, withdrawn
    std::string body = "{}"; ///< JSON
};

/// What is entered of a client, beside what has values of its own (work/reading/entries.h).
namespace entry {
/// A tape was wrong: it no longer counts, and stays.
struct Withdrawn {
    static constexpr char kind[] = "withdrawn";
    long of = 0; ///< id of the entry
    std::string reason{};
};
struct PlanEnded {
    static constexpr char kind[] = "plan_ended";
    std::string reason{};
};
/// Signed on the day of the entry, seen by `who`.
struct Consent {
    static constexpr char kind[] = "consent";
    std::string of{}; ///< client, guardian
    std::string signed_by{};
};
/// How this client is told from now on.
struct Telling {
    static constexpr char kind[] = "telling";
    bool without_numbers = false;
};
/// A sheet was made.
struct Sheet {
    static constexpr char kind[] = "sheet";
    long visit = 0;
    std::string whose{};          ///< client, lab
    std::string file{}, digest{}; ///< digest: SHA-256 of what is written on it
    std::string replaces{};       ///< when the one before was given, in words
};
} // namespace entry

/// An entry that has no client, day and name yet.
ClientEvent entered(const bench::Act& what);

/// Durable when it returns. Refusals: unknown_choice (kind), missing_field (who, day), unknown_client, what the lab
/// says.
Outcome<ClientEvent> keep(Store& store, ClientEvent event);
/// In the order in which they were kept.
std::vector<ClientEvent> client_events(const Store& store, long client_id);

} // namespace fusain::records

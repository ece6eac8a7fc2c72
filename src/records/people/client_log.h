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
    QString kind; ///< tape, days, plan, plan_ended, told, sheet, withdrawn
    bench::Json body = bench::Json::object();
};

/// Durable when it returns. Refusals: unknown_choice (kind), missing_field (who, day), unknown_client, what the lab
/// says.
Outcome<ClientEvent> keep(Store& store, ClientEvent event);
/// In the order in which they were kept.
std::vector<ClientEvent> client_events(const Store& store, long client_id);

} // namespace fusain::records

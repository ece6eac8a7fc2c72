// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"
#include "records/store/store.h"

#include <atomic>
#include <map>

/// What was measured over all clients.
namespace fusain::records {

/// How often each method was measured among the newest visits of the lab, at most so many of them.
std::map<QString, int> methods_used(const Store& store, int newest = 200);

/// Clients with a measured visit that began between two moments (UTC, the second excluded), by their first one.
std::vector<long> measured_between(const Store& store, const QString& from_utc, const QString& to_utc);

/// Clients who were measured by the method twice and more within so many days.
std::vector<long> measured_again(const Store& store, const QString& method, double within_days);

/// The newest told result of each client by each method.
struct NewestResult {
    long client_id = 0;
    std::string method;
    QString role;
    Sex sex = Sex::female;
    std::optional<double> fat_percent, ffmi, fmi;
};
/// From any thread, over a connection of its own that only reads. What is read so far when `stop` becomes true.
std::vector<NewestResult> newest_results(const QString& lab_file, const std::atomic<bool>& stop);

} // namespace fusain::records

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/json.h"

#include <string>

namespace fusain::bench {

using Json = nlohmann::json;

/// One line of the log of a visit or of a check.
struct Event {
    long seq = 0;       ///< 1, 2, 3 … without gaps
    std::string at_utc; ///< ISO 8601 with milliseconds
    std::string who;    ///< technician
    std::string kind;
    Json body = Json::object();
};

} // namespace fusain::bench

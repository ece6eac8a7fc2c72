// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/base/json.h"

namespace nlohmann {
FUSAIN_JSON_ONCE(, std::map)
FUSAIN_JSON_ONCE(, ordered_map)
} // namespace nlohmann

template class std::vector<nlohmann::json>;
template class std::vector<nlohmann::ordered_json>;
template class std::map<std::string, nlohmann::json, std::less<>>;

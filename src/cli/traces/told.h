// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include "bench/base/json.h"

#include <istream>
#include <iterator>
#include <ostream>
#include <string>

/// What the commands that read a file share.
namespace fusain::cli {

inline std::string all_of(std::istream& in)
{
    return {std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
}

/// One JSON object with its messages, as one line; false: it is an error.
inline bool tell(nlohmann::ordered_json result, const Messages& messages, std::ostream& out)
{
    using Json = nlohmann::ordered_json;
    result["messages"] = Json::array();
    for (const Message& m : messages) {
        Json one = {{"code", m.code}, {"level", word(m.level)}};
        if (!m.field.empty()) one["field"] = m.field;
        one["text"] = m.text;
        result["messages"].push_back(std::move(one));
    }
    out << result.dump(-1, ' ', false, Json::error_handler_t::replace) << "\n";
    return result["status"] != "error";
}

} // namespace fusain::cli

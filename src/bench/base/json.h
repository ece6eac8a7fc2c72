// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <nlohmann/json.hpp>

/// The JSON library. Every file that reads or writes JSON would compile a reader and a writer of its own, a third of
/// its build; here they are promised, and json.cpp has them. Include this instead of <nlohmann/json.hpp>.
namespace nlohmann {

using text_adapter = decltype(detail::input_adapter(std::declval<const std::string&>()));

#define FUSAIN_JSON_ONCE(KIND, MAP)                                                                                    \
    KIND template class detail::serializer<basic_json<MAP>>;                                                           \
    KIND template class detail::lexer<basic_json<MAP>, text_adapter>;                                                  \
    KIND template class detail::parser<basic_json<MAP>, text_adapter>;                                                 \
    KIND template class detail::json_sax_dom_parser<basic_json<MAP>>;                                                  \
    KIND template class detail::json_sax_dom_callback_parser<basic_json<MAP>>;                                         \
    KIND template bool detail::parser<basic_json<MAP>, text_adapter>::sax_parse_internal(                              \
        detail::json_sax_dom_parser<basic_json<MAP>>*);                                                                \
    KIND template bool detail::parser<basic_json<MAP>, text_adapter>::sax_parse_internal(                              \
        detail::json_sax_dom_callback_parser<basic_json<MAP>>*);

FUSAIN_JSON_ONCE(extern, std::map)
FUSAIN_JSON_ONCE(extern, ordered_map)

} // namespace nlohmann

extern template class std::vector<nlohmann::json>;
extern template class std::vector<nlohmann::ordered_json>;
extern template class std::map<std::string, nlohmann::json, std::less<>>;

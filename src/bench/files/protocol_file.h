// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/house.h"
#include "core/before/protocol.h"

/// Protocol, question and house-rule files (docs/formats/protocol.md, docs/formats/house-rules.md): text in, tables
/// out. A file that cannot be used is refused with its name, the line and the reason.
namespace fusain::bench {

Outcome<std::vector<protocol::Question>> read_questions(const std::string& text, const std::string& file);
Outcome<protocol::Protocol> read_protocol(
    const std::string& text, const std::string& file, std::span<const protocol::Question> questions);
std::string write_protocol(const protocol::Protocol& protocol);
Outcome<std::vector<house::Rule>> read_house_rules(const std::string& text, const std::string& file);

} // namespace fusain::bench

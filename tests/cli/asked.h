// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "cli/batch/record.h"

#include "bench/base/json.h"

/// One record as the command answers it, for tests.
namespace fusain::cli {

using Json = nlohmann::ordered_json;

inline Json compute_line(const std::string& line, long line_number)
{
    Computer computer(Detail::whole);
    std::string out;
    write_json(out, computer.compute(line, line_number), true);
    return Json::parse(out);
}
inline Json compute_record(const Json& record) { return compute_line(record.dump(), 1); }

} // namespace fusain::cli

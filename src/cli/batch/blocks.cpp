// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/block.h"
#include "core/method/rooms.h"

namespace fusain::cli {

#define ROOM(row, room) RecordBlock room##_block();
FUSAIN_METHODS(ROOM)
#undef ROOM

const std::vector<RecordBlock>& blocks()
{
    static const std::vector<RecordBlock> all = [] {
#define ROOM(row, room) room##_block(),
        std::vector<RecordBlock> out = {FUSAIN_METHODS(ROOM)};
#undef ROOM
        for (const RecordBlock& joined : joined_blocks()) out.push_back(joined);
        return out;
    }();
    return all;
}

const std::vector<std::string_view>& block_names()
{
    static const std::vector<std::string_view> all = [] {
        std::vector<std::string_view> out;
        for (const RecordBlock& b : blocks()) out.push_back(b.id);
        return out;
    }();
    return all;
}

} // namespace fusain::cli

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/picture.h"
#include "virtual/speaker.h"
#include "virtual/table/table.h"

#include <future>
#include <optional>
#include <set>
#include <span>
#include <vector>

/// The virtual X-ray table as an instrument: a map row by row, a phantom, and a client who lies on it. Time is handed
/// in; nothing here reads a clock or a line.
namespace fusain::virt {

enum class TableFault { moves, off_field, metal_on, wrong_way, frames_swapped, arms_on, drifts };
struct TableFaultRow {
    TableFault fault;
    const char* word;
    const char* title;
};
std::span<const TableFaultRow> table_faults();

inline constexpr double whole_scan_s = 420; ///< seven minutes, as in life
inline constexpr double scan_pixel_mm = 5;

/// How this body lies there, the same each time but for what `seed` shakes.
Posture posture_of(const Body& body, std::mt19937_64& random);

class XrayTable {
public:
    explicit XrayTable(std::uint64_t seed);

    /// A stage direction. Returns what happened, or "error …".
    ///   client WORDS… · whole, half_right, half_left: how the client lies · phantom: is scanned alone, read once
    ///   expose SEED FILE: the client is scanned at once and without faults; the scan goes into FILE (DICOM), the lines
    ///   as they truly lie into FILE.lines.json, which is there when both are whole
    ///   scan, stop: the keys at the table itself · fault WORD on|off
    std::string direct(const std::string& words);
    /// What the program says over the line: scan, stop.
    void hear(const std::string& bytes);
    std::string advance_to(double t_s);

    const Body& body() const { return body_; }

private:
    std::string expose(const std::string& words);
    void start();
    void stop();
    bool has(TableFault f) const { return faults_.count(f) > 0; }

    std::mt19937_64 random_;
    Speaker speaker_;
    Body body_;
    std::set<TableFault> faults_;
    std::string heard_, pending_;
    double now_s_ = 0, alive_s_ = -1, begun_s_ = 0;
    double shift_share_ = 0; ///< of the field's width, to the picture's right
    std::uint32_t scan_ = 0;
    int sent_ = 0;
    bool running_ = false, announced_ = false;
    std::future<xray::Map> making_;
    std::vector<std::future<void>> exposing_;
    std::optional<xray::Map> map_;
    std::optional<double> phantom_at_s_;
};

} // namespace fusain::virt

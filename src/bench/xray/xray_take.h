// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/live.h"
#include "bench/xray/xray.h"

#include <future>

namespace fusain::bench {

/// What the X-ray table shows.
struct XrayShown : Shown {
    std::string what; ///< of the recording that runs; empty: none
    int rows = 0, rows_seen = 0, columns = 0;
    double dx_mm = 0, dy_mm = 0, dose_usv = 0;
    std::shared_ptr<const xray::Image> picture;      ///< ln(I0/I) at the high energy, rows that have come
    Messages found;                                  ///< while it runs, then by the reader
    bool reading = false;                            ///< every row is there: they are being read
    std::shared_ptr<const Outcome<xray::Scan>> scan; ///< what was read
    std::shared_ptr<const xray::Table> table;
    xray::Half half = xray::Half::none;
    std::shared_ptr<const Shown> idle() const override;
};
const XrayShown& xray_shown(const Live& live);

/// Collects one scan, row by row, looks at it while it grows and reads it when it is whole. The looking and reading run
/// beside the line.
class XrayTake : public Take {
public:
    bool hears(Channel) const override { return false; }
    void feed(const Reading&) override {}
    void lost(Channel, Loss) override {}
    bool hears_pictures() const override { return true; }
    void feed(const PictureWord& word) override;
    void picture_lost() override;
    std::string to_say() override { return std::exchange(to_say_, {}); }

    void begin(const Visit& visit, const TakeRow& what) override;
    /// Of a table that need not be in a visit.
    void begin(std::shared_ptr<const xray::Table> table, xray::Half half);
    void end() override;
    std::shared_ptr<const Shown> state() override;
    Signal rows() override;
    const std::string& broken() const override { return broken_; }

private:
    void begun(const PictureWord& word);
    void row(const PictureWord& word);
    void look();
    /// What nobody waits for any more goes on beside the line until it is done.
    void let_go();
    XrayShown now_;
    xray::Map map_;
    std::vector<bool> come_;
    Signal rows_;
    std::uint32_t scan_ = 0;
    bool owes_stop_ = false;
    bool waiting_ = false; ///< asked for, not begun by the table
    std::string broken_, to_say_;
    int looked_at_ = 0; ///< rows, when it was looked at last
    std::future<Messages> look_;
    std::future<Outcome<xray::Scan>> read_;
    std::vector<std::future<Messages>> looks_left_;
    std::vector<std::future<Outcome<xray::Scan>>> reads_left_;
    bool redraw_ = false;
};

/// What a table's map gives, the other half mirrored where only one was scanned.
Outcome<xray::Scan> read_map(const xray::Map& map, const xray::Table& table, xray::Half half);

std::optional<Standing> xray_standing(const Shown& shown, int number);

} // namespace fusain::bench

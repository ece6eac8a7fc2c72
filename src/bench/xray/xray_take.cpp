// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/xray/xray_take.h"

#include "bench/files/tissue_table.h"
#include "core/xray/watch.h"

#include <algorithm>
#include <chrono>

namespace fusain::bench {
namespace {

constexpr int look_every_rows = 20;

template <class T>
bool is_there(std::future<T>& f)
{
    return f.valid() && f.wait_for(std::chrono::seconds(0)) == std::future_status::ready;
}

} // namespace

const XrayShown& xray_shown(const Live& live) { return live.of<XrayShown>(xray_row().method); }

std::shared_ptr<const Shown> XrayShown::idle() const
{
    auto out = std::make_shared<XrayShown>();
    out->connected = connected;
    return out;
}

Outcome<xray::Scan> read_map(const xray::Map& map, const xray::Table& table, xray::Half half)
{
    if (half == xray::Half::none) return xray::read(map, table, nullptr, xray::IfSpoilt::read);
    const auto whole = xray::mirrored(map, table, half);
    if (!whole) return Outcome<xray::Scan>::refuse(whole.messages());
    return xray::read(*whole, table, nullptr, xray::IfSpoilt::read);
}

void XrayTake::begin(const Visit& visit, const TakeRow&)
{
    const XrayState& own = xray_of(visit);
    const auto table = shipped_table(own.table_id);
    begin(table ? std::make_shared<const xray::Table>(table->table) : nullptr, own.half);
    if (!table)
        broken_ = "the instrument has no tissue table";
    else if (!now_.connected)
        broken_ = "there is no line to the table";
    if (!broken_.empty()) to_say_.clear();
}

void XrayTake::begin(std::shared_ptr<const xray::Table> table, xray::Half half)
{
    end();
    broken_.clear();
    to_say_ = say_scan;
    rows_ = {map_columns, {}};
    now_.what = take::scan;
    now_.table = std::move(table);
    now_.half = half;
    waiting_ = true;
}

void XrayTake::end()
{
    if (!now_.what.empty() && !now_.complete && !now_.reading) to_say_ = say_stop; // the beam goes off at once
    now_ = static_cast<const XrayShown&>(*now_.idle());
    waiting_ = false;
    let_go();
}

void XrayTake::let_go()
{
    std::erase_if(looks_left_, [](auto& f) { return is_there(f); });
    std::erase_if(reads_left_, [](auto& f) { return is_there(f); });
    if (look_.valid()) looks_left_.push_back(std::exchange(look_, {})); // its destructor would wait
    if (read_.valid()) reads_left_.push_back(std::exchange(read_, {}));
}

void XrayTake::picture_lost()
{
    now_.connected = false;
    owes_stop_ = owes_stop_ || (!now_.what.empty() && !now_.complete && !now_.reading);
    if (now_.what.empty() || now_.complete || now_.reading) return;
    broken_ = waiting_ ? "the line to the table was lost before the first row"
                       : "the line to the table was lost in row " + std::to_string(now_.rows_seen + 1) + " of " +
                             std::to_string(now_.rows);
}

void XrayTake::begun(const PictureWord& w)
{
    if (w.table != now_.table->id) {
        broken_ = "the table says that it is \"" + w.table + "\", the register says \"" + now_.table->id + "\"";
        return;
    }
    waiting_ = false;
    scan_ = w.scan;
    now_.rows = w.rows;
    now_.columns = w.columns;
    now_.dx_mm = w.dx_mm;
    now_.dy_mm = w.dy_mm;
    now_.dose_usv = w.dose_usv;
    map_.dx_mm = w.dx_mm;
    map_.dy_mm = w.dy_mm;
    map_.low = map_.high = xray::Image::Zero(w.rows, w.columns);
    come_.assign(static_cast<std::size_t>(w.rows), false);
    looked_at_ = 0;
    redraw_ = true;
}

void XrayTake::row(const PictureWord& w)
{
    if (w.row >= now_.rows || static_cast<int>(w.low.size()) != now_.columns || come_[static_cast<std::size_t>(w.row)])
        return; // not of this picture
    come_[static_cast<std::size_t>(w.row)] = true;
    for (int c = 0; c < now_.columns; ++c) {
        const double low = w.low[static_cast<std::size_t>(c)], high = w.high[static_cast<std::size_t>(c)];
        map_.low(w.row, c) = low;
        map_.high(w.row, c) = high;
        rows_.add({static_cast<double>(w.row), static_cast<double>(c), low, high});
    }
    now_.rows_seen = std::max(now_.rows_seen, w.row + 1);
    redraw_ = true;
}

void XrayTake::feed(const PictureWord& w)
{
    now_.connected = true;
    if (std::exchange(owes_stop_, false)) to_say_ = say_stop + to_say_; // what it was told last did not reach it
    if (now_.what.empty() || now_.complete || now_.reading || !broken_.empty()) return;
    if (w.kind == PictureWord::Kind::begun && waiting_) return begun(w);
    if (waiting_ || w.scan != scan_) return;
    if (w.kind == PictureWord::Kind::row) return row(w);
    if (w.kind != PictureWord::Kind::ended) return;
    const auto missing = std::count(come_.begin(), come_.end(), false);
    if (w.row < now_.rows) {
        broken_ = "the table stopped in row " + std::to_string(w.row + 1) + " of " + std::to_string(now_.rows);
    } else if (missing > 0) {
        broken_ = std::to_string(missing) + " of " + std::to_string(now_.rows) + " rows never came whole";
    } else {
        now_.reading = true;
        let_go();
        read_ = std::async(std::launch::async,
            [map = map_, table = now_.table, half = now_.half] { return read_map(map, *table, half); });
    }
}

/// Looks at what has come, beside the line.
void XrayTake::look()
{
    if (is_there(look_)) now_.found = look_.get();
    if (look_.valid() || now_.reading || now_.rows_seen < looked_at_ + look_every_rows) return;
    looked_at_ = now_.rows_seen;
    xray::Map so_far = map_;
    so_far.low.conservativeResize(now_.rows_seen, Eigen::NoChange);
    so_far.high.conservativeResize(now_.rows_seen, Eigen::NoChange);
    look_ = std::async(std::launch::async, [so_far, table = now_.table, half = now_.half] {
        return xray::watch(so_far, *table, half != xray::Half::none);
    });
}

std::shared_ptr<const Shown> XrayTake::state()
{
    if (!now_.what.empty() && broken_.empty()) {
        if (is_there(read_)) {
            now_.scan = std::make_shared<const Outcome<xray::Scan>>(read_.get());
            now_.found = now_.scan->messages();
            now_.reading = false;
            now_.complete = true;
        } else if (!now_.reading && !now_.complete && now_.rows > 0) {
            look();
        }
        if (redraw_) {
            now_.picture = std::make_shared<const xray::Image>(map_.high);
            redraw_ = false;
        }
    }
    return std::make_shared<XrayShown>(now_);
}

Signal XrayTake::rows() { return std::exchange(rows_, {rows_.columns, {}}); }

std::optional<Standing> xray_standing(const Shown& shown, int number)
{
    const auto& x = dynamic_cast<const XrayShown&>(shown);
    if (x.what.empty()) return std::nullopt;
    if (!x.complete) return Standing{{}, Message{"not_now", Level::error, "", "The scan is not over yet."}};
    if (!*x.scan) return Standing{{}, x.scan->messages().front()};
    return Standing{event::MapTaken{{number}, scan_taken(**x.scan, x.found, *x.table, x.half, x.columns), x.dose_usv}};
}

} // namespace fusain::bench

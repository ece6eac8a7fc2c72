// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/files/printout_file.h"

#include "records/file/regular.h"
#include "records/visits/attached.h"

#include <QCryptographicHash>

#include <algorithm>

namespace fusain::work {
namespace {

using bench::paper::Grey;

constexpr double unit_mm = 16, limits_mm = 38, left_mm = 3, above_mm = 1.6; ///< what is seen around a number
constexpr double widest_mm = 105;

/// A number with its label, where they stand side by side.
printout::Box seen(const printout::Box& number, const printout::Box& label)
{
    const printout::Box both = around(number, label);
    const bool beside = label.w > 0 && std::abs(label.middle_y() - number.middle_y()) < number.h + label.h;
    return beside && both.w < widest_mm ? both : number;
}

Grey cut(const Grey& page, const printout::Box& box, double right_mm)
{
    const double px = 1 / page.mm_per_px;
    const auto within = [](double v, int most) { return std::clamp(static_cast<int>(v), 0, most); };
    const int x0 = within((box.x - left_mm) * px, page.width), x1 = within((box.right() + right_mm) * px, page.width),
              y0 = within((box.y - above_mm) * px, page.height),
              y1 = within((box.bottom() + above_mm) * px, page.height);
    Grey out;
    out.width = std::max(0, x1 - x0);
    out.height = std::max(0, y1 - y0);
    out.mm_per_px = page.mm_per_px;
    for (int y = y0; y < y1; ++y) {
        const auto row = page.pixels.begin() + static_cast<std::ptrdiff_t>(y) * page.width;
        out.pixels.insert(out.pixels.end(), row + x0, row + x1);
    }
    return out;
}

} // namespace

Outcome<PrintoutFile> read_printout(const QString& lab_file, const QString& path, const printout::Layout& layout,
    const bench::paper::Progress& progress)
{
    using Out = Outcome<PrintoutFile>;
    const auto bytes = records::read_regular(path, bench::paper::most_bytes);
    if (!bytes) return Out::refuse(bytes.messages());
    PrintoutFile out;
    out.name = records::plain_name(path).toStdString();
    out.sha256 = QCryptographicHash::hash(*bytes, QCryptographicHash::Sha256).toHex().toStdString();
    const auto paper = bench::paper::open(bytes->toStdString(), out.name);
    if (!paper) return Out::refuse(paper.messages());
    auto reading = bench::paper::read(**paper, layout, progress);
    if (!reading) return Out::refuse(reading.messages());
    out.messages = reading.messages();
    out.reading = std::move(reading).take();
    for (std::size_t page = 0; page < (*paper)->pages(); ++page) {
        Grey picture; // drawn once, where something stands on it
        const auto add = [&](const std::string& key, std::size_t on, const printout::Box& box, double right_mm) {
            if (on != page) return;
            if (picture.pixels.empty()) picture = (*paper)->picture(page);
            if (picture.mm_per_px > 0) out.cuts[key] = cut(picture, box, right_mm);
        };
        for (const printout::Value& v : out.reading.values)
            add(v.key, v.page, seen(v.box, v.label), v.low ? limits_mm : unit_mm);
        for (const printout::Identity& i : out.reading.client) add("client." + i.key, i.page, i.box, unit_mm);
    }
    auto kept = records::attached::bring(lab_file, path);
    if (!kept) return Out::refuse(kept.messages());
    out.kept = std::move(kept).take();
    return out;
}

Outcome<PaperPages> read_pages(const QString& path, const bench::paper::Progress& progress)
{
    using Out = Outcome<PaperPages>;
    const auto bytes = records::read_regular(path, bench::paper::most_bytes);
    if (!bytes) return Out::refuse(bytes.messages());
    const auto paper = bench::paper::open(bytes->toStdString(), records::plain_name(path).toStdString());
    if (!paper) return Out::refuse(paper.messages());
    PaperPages out;
    bool stopped = false;
    const double n = static_cast<double>((*paper)->pages());
    for (std::size_t i = 0; i < (*paper)->pages() && !stopped; ++i) {
        out.pictures.push_back((*paper)->picture(i));
        printout::Page page = (*paper)->text(i);
        if (page.words.empty() && !bench::paper::can_read_pictures())
            return Out::refuse({"no_reader", Level::error, "",
                "Letters in pictures cannot be read on this computer: the data of the reader (tesseract-ocr-eng) are "
                "missing."});
        if (page.words.empty())
            page = bench::paper::words_of(out.pictures.back(),
                [&](double done) { return !(stopped = !progress((static_cast<double>(i) + done) / n)); });
        page.number = i;
        out.words.push_back(std::move(page));
    }
    if (stopped) return Out::refuse({"stopped", Level::repeat, "", "Reading was stopped."});
    return out;
}

} // namespace fusain::work

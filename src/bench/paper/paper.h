// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/printout/layout.h"
#include "core/printout/page.h"
#include "core/printout/read.h"

#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

/// Sheets of paper as files: PDF with text (poppler), scans and photos (Tesseract, straightened by Leptonica).
namespace fusain::bench::paper {

/// Called with how much is done, 0 to 1; false: stop.
using Progress = std::function<bool(double)>;
inline bool never_stops(double) { return true; }

inline constexpr std::size_t most_bytes = 64u << 20, most_pages = 20;

/// A picture as it came, eight bits grey, row by row from the top.
struct Grey {
    int width = 0, height = 0;
    double mm_per_px = 0;
    std::vector<unsigned char> pixels;
};

/// An open file. Not for several threads at once.
class Paper {
public:
    virtual ~Paper() = default;
    virtual std::size_t pages() const = 0;
    /// Words that the file itself knows; without any for a picture.
    virtual printout::Page text(std::size_t page) const = 0;
    /// The page as a picture, at 300 dots an inch where the file leaves the choice.
    virtual Grey picture(std::size_t page) const = 0;
    /// The words of that picture, as `words_of` has them; they are read once, also for several layouts.
    printout::Page seen(std::size_t page, const Progress& progress) const;

private:
    mutable std::map<std::size_t, printout::Page> seen_;
};

/// Opens PDF, PNG, JPEG, TIFF by what the bytes say, not by the name. Refused, error `bad_file`: it is none of them,
/// cut short, encrypted, without a page, larger than 64 MB, 20 pages or 120 million dots a page.
Outcome<std::shared_ptr<const Paper>> open(const std::string& bytes, const std::string& file);

/// Whether the reader of letters has what it needs on this computer.
bool can_read_pictures();
/// Reads the words of a picture. Rows are straightened and the light evened first; turned by a quarter or a half where
/// that reads better. Stopped: a page without words.
printout::Page words_of(const Grey& picture, const Progress& progress = never_stops);

/// Page by page: text where the file has a page of text, else a picture of it.
/// Refused: `stopped`, `progress` said so; `no_reader`, a picture on a computer without the reader of letters.
Outcome<std::vector<printout::Page>> pages_of(
    const Paper& paper, const printout::Layout& layout, const Progress& progress = never_stops);

/// The whole way: file, pages, values.
Outcome<printout::Reading> read(const std::string& bytes, const std::string& file, const printout::Layout& layout,
    const Progress& progress = never_stops);
/// The same of an open file.
Outcome<printout::Reading> read(
    const Paper& paper, const printout::Layout& layout, const Progress& progress = never_stops);

} // namespace fusain::bench::paper

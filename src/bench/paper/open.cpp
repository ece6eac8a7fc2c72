// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/paper/paper.h"

#include "bench/paper/pix.h"
#include "core/base/limits.h"

#include <poppler/cpp/poppler-document.h>
#include <poppler/cpp/poppler-page-renderer.h>
#include <poppler/cpp/poppler-page.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstring>

namespace fusain::bench::paper {
namespace {

using printout::Box;
using printout::Page;
using printout::Word;

constexpr double mm_per_pt = 25.4 / 72, mm_per_inch = 25.4, wanted_dpi = 300, most_pixels = 120e6;
constexpr int least_dpi = 100;          ///< what says less of itself is a screen's or a camera's, and says nothing
constexpr double usual_side_mm = 297.0; ///< of a picture that does not say how large it is

std::string part_of(const poppler::ustring& text, std::size_t from, std::size_t to)
{
    poppler::ustring part(to - from, 0);
    for (std::size_t i = from; i < to; ++i) part[i - from] = text[i];
    const auto bytes = part.to_utf8();
    return {bytes.begin(), bytes.end()};
}

/// Leaders ("Weight.......81.3") and a colon ("Age:37") part what they stand between.
void split(std::vector<Word>& out, const poppler::text_box& box)
{
    const poppler::ustring text = box.text();
    const auto is_leader = [&](std::size_t i) {
        const auto c = text[i];
        return (c == '.' || c == '_' || c == 0x2026 || c == 0xB7) &&
               ((i > 0 && text[i - 1] == c) || (i + 1 < text.size() && text[i + 1] == c) || c == 0x2026);
    };
    const auto letter = [&](std::size_t i) { return text[i] > 0x7F || std::isalpha(static_cast<int>(text[i])); };
    std::size_t from = 0;
    const auto put = [&](std::size_t to) {
        if (to <= from) return;
        Word w;
        w.text = part_of(text, from, to);
        const auto in_mm = [](const poppler::rectf& r) {
            return Box{r.x() * mm_per_pt, r.y() * mm_per_pt, r.width() * mm_per_pt, r.height() * mm_per_pt};
        };
        const Box a = in_mm(box.char_bbox(from)), b = in_mm(box.char_bbox(to - 1)), whole = in_mm(box.bbox());
        w.box = a.w > 0 && a.h > 0 && b.w > 0 && b.h > 0 ? around(a, b) : whole;
        if (box.rotation() % 2 == 0) { // of one height
            w.box.y = whole.y;
            w.box.h = whole.h;
        }
        w.on_paper = w.box;
        out.push_back(std::move(w));
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (is_leader(i)) {
            put(i);
            from = i + 1;
        } else if (text[i] == ':' && i > 0 && letter(i - 1) && i + 1 < text.size()) {
            put(i + 1);
            from = i + 1;
        }
    }
    put(text.size());
}

class Pdf : public Paper {
public:
    explicit Pdf(const std::string& bytes)
        : bytes_(bytes),
          document_(poppler::document::load_from_raw_data(bytes_.data(), static_cast<int>(bytes_.size())))
    {
    }
    const poppler::document* document() const { return document_.get(); }
    std::size_t pages() const override { return static_cast<std::size_t>(document_->pages()); }

    Page text(std::size_t n) const override
    {
        Page out;
        const std::unique_ptr<poppler::page> page(document_->create_page(static_cast<int>(n)));
        if (!page) return out;
        const poppler::rectf size = page->page_rect();
        const bool turned =
            page->orientation() == poppler::page::landscape || page->orientation() == poppler::page::seascape;
        out.width_mm = (turned ? size.height() : size.width()) * mm_per_pt;
        out.height_mm = (turned ? size.width() : size.height()) * mm_per_pt;
        const std::vector<poppler::text_box> boxes = page->text_list();
        int turns[4] = {};
        for (const poppler::text_box& box : boxes) ++turns[box.rotation() & 3];
        const int turn = static_cast<int>(std::max_element(turns, turns + 4) - turns); // quarters, with the clock
        for (const poppler::text_box& box : boxes)
            if ((box.rotation() & 3) == turn)
                split(out.words, box); // what stands across the page is no part of its rows
        for (Word& w : out.words) {
            const Box& b = w.on_paper;
            switch (turn) {
            case 1: w.box = {b.y, out.width_mm - b.right(), b.h, b.w}; break;
            case 2: w.box = {out.width_mm - b.right(), out.height_mm - b.bottom(), b.w, b.h}; break;
            case 3: w.box = {out.height_mm - b.bottom(), b.x, b.h, b.w}; break;
            default: break;
            }
        }
        return out;
    }

    Grey picture(std::size_t n) const override
    {
        Grey out;
        const std::unique_ptr<poppler::page> page(document_->create_page(static_cast<int>(n)));
        if (!page) return out;
        const poppler::rectf size = page->page_rect();
        const double inches = size.width() * size.height() / (72.0 * 72.0);
        const double dpi = std::min(wanted_dpi, std::sqrt(most_pixels / std::max(inches, 1e-6)));
        poppler::page_renderer renderer;
        renderer.set_image_format(poppler::image::format_gray8);
        renderer.set_render_hint(poppler::page_renderer::antialiasing);
        renderer.set_render_hint(poppler::page_renderer::text_antialiasing);
        const poppler::image image = renderer.render_page(page.get(), dpi, dpi);
        if (!image.is_valid()) return out;
        out.width = image.width();
        out.height = image.height();
        out.mm_per_px = mm_per_inch / dpi;
        out.pixels.resize(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height));
        for (int y = 0; y < out.height; ++y)
            std::memcpy(out.pixels.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(out.width),
                image.const_data() + static_cast<std::ptrdiff_t>(y) * image.bytes_per_row(),
                static_cast<std::size_t>(out.width));
        return out;
    }

private:
    const std::string bytes_; ///< the document reads from them as long as it lives
    std::unique_ptr<poppler::document> document_;
};

class Picture : public Paper {
public:
    explicit Picture(std::vector<Grey> pages) : pages_(std::move(pages)) {}
    std::size_t pages() const override { return pages_.size(); }
    Page text(std::size_t n) const override
    {
        Page out;
        out.picture = true;
        out.width_mm = pages_[n].width * pages_[n].mm_per_px;
        out.height_mm = pages_[n].height * pages_[n].mm_per_px;
        return out;
    }
    Grey picture(std::size_t n) const override { return pages_[n]; }

private:
    std::vector<Grey> pages_;
};

Grey grey_of(Pix* pix)
{
    Grey out;
    const PixHeld plain(pixRemoveColormap(pix, REMOVE_CMAP_BASED_ON_SRC)),
        solid(plain && pixGetSpp(plain.get()) == 4 ? pixRemoveAlpha(plain.get()) : pixClone(plain.get())),
        grey(solid ? pixConvertTo8(solid.get(), 0) : nullptr);
    if (!grey) return out;
    out = to_grey(grey.get());
    const int dpi = pixGetXRes(pix);
    out.mm_per_px = dpi >= least_dpi ? mm_per_inch / dpi : usual_side_mm / std::max(out.width, out.height);
    return out;
}

using Opened = Outcome<std::shared_ptr<const Paper>>;

Opened refuse(const std::string& file, const std::string& why)
{
    return Opened::refuse({"bad_file", Level::error, file, file + ": " + why});
}

Opened open_pdf(const std::string& bytes, const std::string& file)
{
    const auto paper = std::make_shared<Pdf>(bytes);
    const poppler::document* pdf = paper->document();
    if (!pdf) return refuse(file, "this PDF cannot be read: it is damaged or cut short.");
    if (pdf->is_locked()) return refuse(file, "this PDF is encrypted; save it without a password.");
    if (pdf->pages() < 1) return refuse(file, "this PDF has no page.");
    if (static_cast<std::size_t>(pdf->pages()) > most_pages)
        return refuse(file, "it has " + std::to_string(pdf->pages()) + " pages; a printout has at most " +
                                std::to_string(most_pages) + ".");
    return {paper};
}

} // namespace

Outcome<std::shared_ptr<const Paper>> open(const std::string& bytes, const std::string& file)
{
    quiet_libraries();
    if (bytes.empty()) return refuse(file, "the file is empty.");
    if (bytes.size() > most_bytes)
        return refuse(file, "it has " + limits::plain(static_cast<double>(bytes.size()) / 1048576, 0) +
                                " MB; a printout has at most 64 MB.");
    // some writers put a few bytes before it
    if (bytes.substr(0, 1024).find("%PDF-") != std::string::npos) return open_pdf(bytes, file);
    const auto* data = reinterpret_cast<const unsigned char*>(bytes.data());
    int format = 0, width = 0, height = 0;
    if (pixReadHeaderMem(data, bytes.size(), &format, &width, &height, nullptr, nullptr, nullptr) != 0)
        return refuse(file, "this is no PDF, PNG, JPEG or TIFF.");
    const bool tiff = format >= IFF_TIFF && format <= IFF_TIFF_ZIP;
    if (!tiff && format != IFF_PNG && format != IFF_JFIF_JPEG)
        return refuse(file, "this is no PDF, PNG, JPEG or TIFF.");
    if (static_cast<double>(width) * height > most_pixels)
        return refuse(file, "it has " + std::to_string(width) + " × " + std::to_string(height) +
                                " dots; a page has at most 120 million.");
    std::vector<Grey> pages;
    if (tiff) {
        std::size_t at = 0;
        do {
            const PixHeld pix(pixReadMemFromMultipageTiff(data, bytes.size(), &at));
            if (!pix) break;
            pages.push_back(grey_of(pix.get()));
        } while (at != 0 && pages.size() < most_pages);
    } else if (const PixHeld pix(pixReadMem(data, bytes.size())); pix) {
        pages.push_back(grey_of(pix.get()));
    }
    std::erase_if(pages, [](const Grey& g) { return g.width < 8 || g.height < 8; });
    if (pages.empty()) return refuse(file, "this picture cannot be read: it is damaged, cut short, or has no page.");
    return {std::make_shared<Picture>(std::move(pages))};
}

} // namespace fusain::bench::paper

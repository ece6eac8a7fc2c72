// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/page.h"

#include "report/page/tagged_pdf.h"

#include <QBuffer>
#include <QMarginsF>
#include <QPageSize>
#include <QPdfWriter>
#include <QSaveFile>

#include <cmath>
#include <span>

namespace fusain::report {
namespace {

using look::Voice;

// A4 in points
constexpr double page_width = 595.0, page_height = 842.0, margin = 51.0, top = 66.0, bottom = 62.0;
constexpr int resolution = 1200;
constexpr double smallest_scale = 0.7, scale_step = 0.06;

struct Style {
    QFont font;
    QColor color;
    double after;
};

Style style_of(Block::Kind kind, const look::Palette& c, double scale)
{
    const auto px = [scale](double points) { return static_cast<int>(std::lround(points * scale)); };
    switch (kind) {
    case Block::Kind::title: return {look::font(Voice::speaks, px(25), true), c.ink, 3};
    case Block::Kind::lead: return {look::font(Voice::text, px(13)), c.smudge, 10};
    case Block::Kind::heading: return {look::font(Voice::speaks, px(14), true), c.ink, 4};
    case Block::Kind::small: return {look::font(Voice::text, px(8)), c.smudge, 5};
    default: return {look::font(Voice::text, px(10)), c.ink, 6};
    }
}

class Layout {
public:
    /// `tags`: filled with what is drawn, in its order, a mark before each; null: nobody reads it aloud (a printer).
    Layout(QPagedPaintDevice& device, const Document& document, std::vector<Tag>* tags)
        : device_(device), document_(document), painter_(&device), scale_(document.text_scale), tags_(tags)
    {
        painter_.scale(device.logicalDpiX() / 72.0, device.logicalDpiY() / 72.0);
        furniture();
    }

    int run()
    {
        const std::span<const Block> all(document_.blocks);
        for (std::size_t from = 0; from < all.size();) {
            std::size_t to = from;
            while (to < all.size() && all[to].kind != Block::Kind::page) ++to;
            const auto section = all.subspan(from, to - from);
            scale_ = document_.fits ? scale_that_fits(section) : document_.text_scale;
            for (const Block& b : section) place(b);
            if (to < all.size()) turn();
            from = to + 1;
        }
        painter_.end();
        return page_;
    }

private:
    double width() const { return page_width - 2 * margin; }

    void tag(Tag::Kind kind, const QString& alternative = {})
    {
        if (!tags_ || !drawing_) return;
        painter_.fillRect(QRectF(mark_x, mark_y(tags_->size()), mark_size, mark_size), Qt::black);
        tags_->push_back({kind, alternative});
    }

    /// Goes through a section without drawing it, smaller and smaller, until it ends on the page it began on.
    double scale_that_fits(std::span<const Block> section)
    {
        const int page = page_;
        const double y = y_;
        drawing_ = false;
        for (scale_ = document_.text_scale; scale_ > smallest_scale; scale_ -= scale_step) {
            for (const Block& b : section) place(b);
            const bool fits = page_ == page;
            page_ = page;
            y_ = y;
            if (fits) break;
        }
        drawing_ = true;
        return scale_;
    }

    void turn()
    {
        ++page_;
        y_ = top;
        if (!drawing_) return;
        device_.newPage();
        furniture();
    }

    void furniture()
    {
        tag(Tag::Kind::artifact);
        painter_.setPen(c_.smudge);
        painter_.setFont(look::font(Voice::text, 8));
        painter_.drawText(QRectF(margin, 30, width(), 14), Qt::AlignLeft | Qt::AlignVCenter, document_.header);
        painter_.setPen(QPen(c_.line, 0.7));
        painter_.drawLine(QPointF(margin, 48), QPointF(page_width - margin, 48));
        painter_.setPen(c_.smudge);
        painter_.drawText(
            QRectF(margin, page_height - 44, width(), 14), Qt::AlignLeft | Qt::AlignVCenter, document_.footer);
        painter_.drawText(QRectF(margin, page_height - 44, width(), 14), Qt::AlignRight | Qt::AlignVCenter,
            QStringLiteral("page %1").arg(page_));
        y_ = top;
    }

    void need(double height)
    {
        if (y_ + height > page_height - bottom) turn();
    }

    double text_height(const QFont& font, double available, const QString& text)
    {
        painter_.setFont(font);
        return painter_.boundingRect(QRectF(0, 0, available, 5000), Qt::TextWordWrap, text).height();
    }

    void place(const Block& b)
    {
        switch (b.kind) {
        case Block::Kind::gap: y_ += b.height; return;
        case Block::Kind::figure: {
            const double small = scale_ / document_.text_scale; // a picture gets smaller as the text does
            need(small * b.height);
            if (drawing_) {
                tag(Tag::Kind::figure,
                    QStringLiteral("Picture: %1").arg(heading_.isEmpty() ? document_.title : heading_));
                painter_.save();
                painter_.translate(margin, y_);
                painter_.scale(small, small);
                b.paint(painter_, QRectF(0, 0, width() / small, b.height), c_);
                painter_.restore();
            }
            y_ += small * b.height + 8;
            return;
        }
        case Block::Kind::table: table(b); return;
        default: break;
        }
        const Style s = style_of(b.kind, c_, scale_);
        if (b.kind == Block::Kind::heading) y_ += 7;
        const double height = text_height(s.font, width(), b.text);
        need(height + (b.kind == Block::Kind::heading ? 40 : 0));
        if (b.kind == Block::Kind::heading || b.kind == Block::Kind::title) heading_ = b.text;
        tag(b.kind == Block::Kind::title     ? Tag::Kind::title
            : b.kind == Block::Kind::heading ? Tag::Kind::heading
                                             : Tag::Kind::paragraph);
        painter_.setFont(s.font);
        painter_.setPen(s.color);
        if (drawing_) painter_.drawText(QRectF(margin, y_, width(), height + 4), Qt::TextWordWrap, b.text);
        y_ += height + s.after;
    }

    void table(const Block& b)
    {
        double total = 0;
        for (double share : b.columns) total += std::abs(share);
        for (std::size_t r = 0; r < b.rows.size(); ++r) {
            const bool head = r == 0;
            const auto cell_font = [&](std::size_t i) {
                return head ? look::font(Voice::text, 8, true)
                            : look::font(b.columns[i] < 0 ? Voice::measured : Voice::text, 8);
            };
            double height = 0;
            for (std::size_t i = 0; i < b.columns.size(); ++i)
                height = std::max(height, text_height(cell_font(i), width() * std::abs(b.columns[i]) / total - 6,
                                              b.rows[r].value(static_cast<qsizetype>(i))));
            need(height + 3);
            double x = margin;
            tag(Tag::Kind::row);
            for (std::size_t i = 0; drawing_ && i < b.columns.size(); ++i) {
                const double column = width() * std::abs(b.columns[i]) / total;
                tag(head ? Tag::Kind::head_cell : Tag::Kind::cell);
                painter_.setFont(cell_font(i));
                painter_.setPen(head ? c_.smudge : c_.ink);
                painter_.drawText(QRectF(x, y_, column - 6, height + 2),
                    (b.columns[i] < 0 ? Qt::AlignRight : Qt::AlignLeft) | Qt::TextWordWrap,
                    b.rows[r].value(static_cast<qsizetype>(i)));
                x += column;
            }
            y_ += height + 3;
            if (!drawing_) continue;
            tag(Tag::Kind::artifact);
            painter_.setPen(QPen(c_.line, head ? 0.8 : 0.3));
            painter_.drawLine(QPointF(margin, y_ - 1.5), QPointF(margin + width(), y_ - 1.5));
        }
        y_ += 8;
    }

    QPagedPaintDevice& device_;
    const Document& document_;
    QPainter painter_;
    look::Palette c_ = [] {
        look::Palette p = look::day();
        p.paper = Qt::white;
        return p;
    }();
    int page_ = 1;
    double y_ = top, scale_;
    bool drawing_ = true;
    std::vector<Tag>* tags_;
    QString heading_; ///< the one that was written last
};

} // namespace

int paint_on(const Document& document, QPagedPaintDevice& device) { return Layout(device, document, nullptr).run(); }

Outcome<int> write_pdf(const Document& document, const QString& path)
{
    if (!look::load_fonts())
        return Outcome<int>::refuse(
            {"fonts_missing", Level::error, "", "The fonts that ship with the program are missing; build it again."});
    QBuffer buffer;
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setPageSize(QPageSize(QPageSize::A4));
    writer.setPageMargins(QMarginsF(0, 0, 0, 0));
    writer.setResolution(resolution);
    std::vector<Tag> tags;
    const int pages = Layout(writer, document, &tags).run();
    const auto pdf = tagged(buffer.data(), tags, document.title, QStringLiteral("en-GB"));
    if (!pdf) return Outcome<int>::refuse(pdf.messages());
    QSaveFile file(path);
    if (!file.open(QIODevice::WriteOnly) || file.write(*pdf) != pdf->size() || !file.commit())
        return Outcome<int>::refuse({"cannot_write", Level::error, "file",
            "The sheet could not be written to " + path.toStdString() + ": " + file.errorString().toStdString() + "."});
    return pages;
}

} // namespace fusain::report

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "report/page/look.h"

#include <QPagedPaintDevice>
#include <QPainter>
#include <QStringList>

#include <functional>
#include <vector>

/// One page model for every sheet: blocks in order, laid out on A4 and written as PDF.
namespace fusain::report {

struct Block {
    enum class Kind { title, heading, lead, sentence, small, table, figure, gap, page } kind = Kind::sentence;
    QString text;
    std::vector<QStringList> rows; ///< table: the first row is its head
    std::vector<double> columns;   ///< table: shares of the width; negative: right-aligned numbers
    double height = 0;             ///< figure and gap, points
    std::function<void(QPainter&, const QRectF&, const look::Palette&)> paint; ///< figure
};

struct Document {
    QString title;  ///< of the file
    QString header; ///< small, on every page
    QString footer; ///< small, on every page, before the page number
    std::vector<Block> blocks;
    double text_scale = 1; ///< of everything but the furniture
    /// What stands between page breaks goes on one page each: the text gets smaller, never less.
    bool fits = false;

    void add(Block::Kind kind, const QString& text) { blocks.push_back({kind, text, {}, {}, 0, {}}); }
    void table(std::vector<double> columns, std::vector<QStringList> rows)
    {
        blocks.push_back({Block::Kind::table, {}, std::move(rows), std::move(columns), 0, {}});
    }
    void figure(double height, std::function<void(QPainter&, const QRectF&, const look::Palette&)> paint)
    {
        blocks.push_back({Block::Kind::figure, {}, {}, {}, height, std::move(paint)});
    }
    void next_page() { blocks.push_back({Block::Kind::page, {}, {}, {}, 0, {}}); }
    void gap(double height) { blocks.push_back({Block::Kind::gap, {}, {}, {}, height, {}}); }
};

/// Paints the pages on a printer or a PDF writer set to A4 without margins. Returned: pages.
int paint_on(const Document& document, QPagedPaintDevice& device);

/// Writes the PDF. The file is made complete beside its place and then put there. Returned: pages, or why not.
Outcome<int> write_pdf(const Document& document, const QString& path);

} // namespace fusain::report

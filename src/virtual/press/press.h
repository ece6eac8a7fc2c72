// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/layout.h"
#include "virtual/body.h"

#include <QByteArray>
#include <QColor>
#include <QImage>

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

class QPainter;

/// A virtual instrument that prints: sheets of no maker, in styles and words of their own, as PDF with text or as what
/// a scanner or a telephone makes of the paper.
namespace fusain::virt {

/// How the sheet is set.
enum class Style { list, boxes, columns, table, receipt };
inline constexpr Style all_styles[] = {Style::list, Style::boxes, Style::columns, Style::table, Style::receipt};

/// What is written on the paper, for whom.
struct Order {
    Style style = Style::list;
    unsigned words = 0; ///< which words and numbers' habits, see `press.cpp`
    std::string number = "1001", at = "2026-11-30T08:12";
    std::uint64_t seed = 1; ///< of what the instrument itself makes up (indices, limits)
    double point = 0;       ///< size of its type; 0: as the style has it
    std::string family;     ///< empty: as the words have it
    bool two_pages = false; ///< the second half on a page of its own
    std::string id, title;  ///< of its layout; empty: of the words and the style
};

struct Ink {
    double x = 0, y = 0, w = 0, h = 0; ///< mm; text: y is its base line, w > 0 sets it flush right at x
    std::string text, family;
    double point = 10;
    bool bold = false, fill = false;
    QColor colour = Qt::black;
};

struct Told {
    std::string text;
    double value = 0;
    std::optional<double> low, high;
};

/// A sheet, and what it says.
struct Printout {
    printout::Layout layout;
    double width_mm = 210, height_mm = 297;
    std::vector<std::vector<Ink>> pages;
    std::map<std::string, Told> told; ///< by key
    std::string number, at;           ///< of the client, as the reader should give them
    double height_cm = 0, age_y = 0;
    Sex sex = Sex::female;
};

Printout print(const Body& body, const Order& order);
/// Of the analyser in the demo's hall; its layout is demo/hall_analyser.json.
Order hall_order(const std::string& number, const std::string& at);

void draw(QPainter& painter, const Printout& printout, std::size_t page);
QByteArray pdf(const Printout& printout);
QImage picture(const Printout& printout, std::size_t page, double dpi);

/// What a scanner or a telephone does to a sheet.
struct Wear {
    double turn_deg = 0, blur_px = 0, noise = 0, shade = 0; ///< noise, shade: of 255
    double contrast = 1;                                    ///< 1: black on white
    int quality = 0;                                        ///< of the JPEG; 0: PNG
};
QImage worn(const QImage& picture, const Wear& wear, std::uint64_t seed);
/// PNG or JPEG, which says how many dots an inch it has.
QByteArray file_of(const QImage& picture, const Wear& wear);
/// A PDF that holds nothing but these pictures.
QByteArray scan_pdf(const std::vector<QImage>& pages, const Printout& printout);

} // namespace fusain::virt

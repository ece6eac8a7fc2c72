// SPDX-License-Identifier: GPL-3.0-or-later
// Printouts as files: sheets of the virtual press as PDF and as scans, and files that are no printouts.
#include "bench/files/layout_file.h"
#include "bench/paper/paper.h"
#include "virtual/press/press.h"

#include <gtest/gtest.h>

#include <QPainter>
#include <QPdfWriter>

#include <fstream>

using namespace fusain;
using namespace fusain::bench;

namespace {

virt::Body body(unsigned of = 0)
{
    virt::Body b;
    b.sex = of % 2 ? Sex::male : Sex::female;
    b.age_y = 20 + 7 * of;
    b.height_cm = 158 + 4 * of;
    b.fat_mass_kg = 11.3 + 5.1 * of;
    b.fat_free_mass_kg = 44.7 + 3.3 * of;
    return b;
}

struct Tally {
    int values = 0, right = 0, doubted = 0;
    std::string wrong; ///< and not marked
};

void judge(const Outcome<printout::Reading>& r, const virt::Printout& sheet, Tally& t)
{
    t.values += static_cast<int>(sheet.told.size()) + 5;
    if (!r) {
        t.wrong += " " + r.messages().front().text;
        return;
    }
    const auto one = [&](const std::string& key, bool right, const std::string& is) {
        t.right += right;
        t.doubted += r->is_doubtful(key);
        if (!right && !r->is_doubtful(key)) t.wrong += " " + key + " is " + is;
    };
    for (const auto& [key, told] : sheet.told)
        if (const printout::Value* v = r->value(key)) {
            const bool low = !told.low || (v->low && std::abs(*v->low - *told.low) < 1e-9),
                       high = !told.high || (v->high && std::abs(*v->high - *told.high) < 1e-9);
            one(key, std::abs(v->value - told.value) < 1e-9 && low && high, v->text);
        }
    const std::pair<const char*, std::string> client[] = {
        {"number", sheet.number}, {"at", sheet.at}, {"sex", sheet.sex == Sex::male ? "male" : "female"}};
    for (const auto& [key, should] : client)
        if (const auto* i = r->identity(key)) one(std::string("client.") + key, i->said == should, i->said);
    for (const auto& [key, should] : {std::pair("height_cm", sheet.height_cm), {"age_y", sheet.age_y}})
        if (const auto* i = r->identity(key)) one(std::string("client.") + key, i->value == should, i->text);
}

virt::Printout sheet_of(virt::Style style, unsigned words)
{
    virt::Order order;
    order.style = style;
    order.words = words;
    order.number = std::to_string(3107 + 13 * words);
    order.at = "2026-03-17T09:4" + std::to_string(words);
    order.seed = 10 + words;
    return virt::print(body(words), order);
}

Outcome<printout::Reading> read(const QByteArray& file, const virt::Printout& sheet)
{
    return paper::read(file.toStdString(), "sheet", sheet.layout);
}

QImage scanned(const virt::Printout& sheet, std::size_t page, double dpi, double turn = 1.4, unsigned seed = 5)
{
    return virt::worn(virt::picture(sheet, page, dpi), {turn, 0.5, 4, 40, 0.8, 0}, seed);
}

std::string code(const Outcome<printout::Reading>& r) { return r ? "read" : r.messages().front().code; }

} // namespace

TEST(Paper, TextOfAPdfIsReadRight)
{
    Tally t;
    for (virt::Style style : virt::all_styles)
        for (unsigned words = 0; words < 5; ++words) {
            const auto sheet = sheet_of(style, words);
            judge(read(virt::pdf(sheet), sheet), sheet, t);
        }
    EXPECT_EQ(t.right, t.values) << t.wrong;
    EXPECT_EQ(t.doubted, 0);
}

TEST(Paper, ScansAreReadAndWhatIsNotSureIsSaid)
{
    Tally t;
    for (virt::Style style : virt::all_styles) {
        const unsigned n = static_cast<unsigned>(style);
        const auto sheet = sheet_of(style, n % 2 ? 3 : 0);
        judge(read(virt::file_of(scanned(sheet, 0, 200, n % 2 ? -2.1 : 1.3, n), {}), sheet), sheet, t);
    }
    EXPECT_EQ(t.wrong, "");
    EXPECT_GE(t.right, 0.97 * t.values);
    EXPECT_LE(t.doubted, 0.08 * t.values);
}

TEST(Paper, FramesAreNoLetters)
{
    virt::Order order;
    order.style = virt::Style::boxes;
    order.words = 3;
    const auto sheet = virt::print(body(1), order);
    int words = 0, pieces = 0;
    for (const auto& [turn, contrast] : {std::pair(-2.9, 0.65), {2.6, 0.9}}) {
        const QImage worn = virt::worn(virt::picture(sheet, 0, 200), {turn, 0.7, 6, 55, contrast, 0}, 3);
        const auto file = paper::open(virt::file_of(worn, {}).toStdString(), "boxes");
        ASSERT_TRUE(file);
        for (const printout::Word& w : paper::words_of((*file)->picture(0)).words) {
            ++words;
            pieces += w.text.size() == 1 && QString("|[]!_").contains(QChar(w.text[0]));
        }
    }
    EXPECT_LE(pieces, 2) << "six where only whole lines are rubbed out";
    EXPECT_GT(words, 140);
}

TEST(Paper, ASheetThatLiesOnItsSideIsTurned)
{
    const auto sheet = sheet_of(virt::Style::receipt, 0);
    for (int quarter : {1, 2, 3}) {
        Tally t;
        const QImage lies = scanned(sheet, 0, 200, 0.4).transformed(QTransform().rotate(90 * quarter));
        const auto r = read(virt::file_of(lies, {}), sheet);
        judge(r, sheet, t);
        EXPECT_EQ(t.wrong, "");
        EXPECT_GE(t.right, t.values - 2) << quarter;
        const printout::Value* first = r ? r->value("mass") : nullptr;
        const printout::Value* last = r ? r->value("energy") : nullptr;
        ASSERT_TRUE(first && last);
        const auto down = [&](const printout::Box& b) { // on the sheet as it was printed
            return quarter == 1 ? -b.middle_x() : quarter == 2 ? -b.middle_y() : b.middle_x();
        };
        EXPECT_LT(down(first->box), down(last->box)) << "a cut-out is taken from the paper as it came";
    }
}

TEST(Paper, TextThatRunsDownThePageIsReadToo)
{
    const auto sheet = sheet_of(virt::Style::table, 1);
    QByteArray file = virt::pdf(sheet); // the printer lays it on its side
    const qsizetype at = file.indexOf("/MediaBox");
    ASSERT_GT(at, 0);
    file.insert(at, "/Rotate 90\n");
    Tally t;
    const auto r = read(file, sheet);
    judge(r, sheet, t);
    EXPECT_EQ(t.right, t.values) << t.wrong;
    EXPECT_GT(r->value("mass")->box.h, r->value("mass")->box.w) << "as it lies";
    EXPECT_EQ(r->value("mass")->confidence, 1) << "from the text";
}

TEST(Paper, AnOpenFileOwnsItsBytes)
{
    const auto sheet = sheet_of(virt::Style::list, 1);
    std::string bytes = virt::pdf(sheet).toStdString();
    const auto paper = bench::paper::open(bytes, "a.pdf");
    std::fill(bytes.begin(), bytes.end(), '\0');
    ASSERT_TRUE(paper);
    EXPECT_GT((*paper)->text(0).words.size(), 10u);
}

TEST(Paper, PagesAreOneTextAndLieAsTheySay)
{
    virt::Order order;
    order.style = virt::Style::table;
    order.two_pages = true;
    virt::Printout sheet = virt::print(body(2), order);
    ASSERT_EQ(sheet.pages.size(), 2u);
    Tally t;
    judge(read(virt::pdf(sheet), sheet), sheet, t);
    EXPECT_EQ(t.right, t.values) << t.wrong;
    std::swap(sheet.pages[0], sheet.pages[1]);
    Tally exchanged;
    const auto r = read(virt::pdf(sheet), sheet);
    judge(r, sheet, exchanged);
    EXPECT_EQ(exchanged.right, exchanged.values) << exchanged.wrong;
    EXPECT_TRUE(std::any_of(
        r.messages().begin(), r.messages().end(), [](const Message& m) { return m.code == "pages_exchanged"; }));
    ASSERT_TRUE(r && r->value("mass"));
    EXPECT_EQ(r->value("mass")->page, 1u) << "the page of the file";
    // a page of another client
    virt::Order other = order;
    other.number = "2002";
    const virt::Printout another = virt::print(body(4), other);
    sheet.pages[0] = another.pages[0];
    const auto two = read(virt::pdf(sheet), sheet);
    ASSERT_TRUE(two);
    EXPECT_TRUE(two->is_doubtful("client.number"));
    EXPECT_TRUE(two->is_doubtful("mass"));
}

TEST(Paper, APictureIsReadWhereTheTextIsNone)
{
    const auto sheet = sheet_of(virt::Style::receipt, 3);
    const auto over = [&](const QImage& picture, const virt::Printout& text) {
        QByteArray file;
        QBuffer buffer(&file);
        buffer.open(QIODevice::WriteOnly);
        QPdfWriter writer(&buffer);
        writer.setPageSize(QPageSize(QSizeF(sheet.width_mm, sheet.height_mm), QPageSize::Millimeter));
        writer.setPageMargins({});
        QPainter p(&writer);
        virt::draw(p, text, 0); // it lies under the picture, as what a scanner has recognised does
        p.drawImage(QRectF(0, 0, writer.width(), writer.height()), picture);
        p.end();
        return file;
    };
    // a scan inside a PDF, with the stamp of the scanner as its only text
    virt::Printout stamped = sheet;
    virt::Ink stamp;
    stamp.x = 4;
    stamp.y = 4;
    stamp.point = 5;
    stamp.family = "Lato";
    stamp.text = "scanned 2026-03-17 page 1 of 1";
    stamped.pages[0] = {stamp};
    Tally t;
    judge(read(over(scanned(sheet, 0, 200), stamped), sheet), sheet, t);
    EXPECT_EQ(t.wrong, "");
    EXPECT_GE(t.right, t.values - 2);
    // a PDF whose text lacks what one sees: writers of PDF that do not say what they draw
    virt::Printout lacking = sheet;
    std::erase_if(
        lacking.pages[0], [&](const virt::Ink& i) { return i.text.starts_with(sheet.layout.fields[0].label); });
    ASSERT_LT(lacking.pages[0].size(), sheet.pages[0].size());
    const auto r = read(over(virt::picture(sheet, 0, 300), lacking), sheet);
    ASSERT_TRUE(r && r->value("mass"));
    EXPECT_EQ(r->value("mass")->text, sheet.told.at("mass").text);
}

TEST(Paper, WhatIsWrongWithAFileIsNamed)
{
    const auto sheet = sheet_of(virt::Style::list, 0), other = sheet_of(virt::Style::list, 4);
    const QByteArray pdf = virt::pdf(sheet), png = virt::file_of(virt::picture(sheet, 0, 100), {});
    QImage blank(800, 1100, QImage::Format_Grayscale8);
    blank.fill(Qt::white);
    QImage dark = virt::picture(sheet, 0, 150);
    for (int y = 0; y < dark.height(); ++y)
        for (int x = 0; x < dark.width(); ++x) dark.scanLine(y)[x] = static_cast<uchar>(dark.scanLine(y)[x] / 60);
    EXPECT_EQ(code(read(pdf, sheet)), "read");
    EXPECT_EQ(code(read(virt::pdf(other), sheet)), "unreadable") << "another instrument's";
    EXPECT_EQ(code(read(virt::file_of(blank, {}), sheet)), "unreadable");
    EXPECT_EQ(code(read(virt::file_of(virt::worn(virt::picture(sheet, 0, 30), {}, 1), {}), sheet)), "unreadable")
        << "too coarse";
    EXPECT_EQ(code(read({}, sheet)), "bad_file");
    EXPECT_EQ(code(read("a text", sheet)), "bad_file");
    EXPECT_EQ(code(read("%PDF-1.7 and nothing more", sheet)), "bad_file");
    EXPECT_EQ(code(read(png.left(png.size() / 40), sheet)), "bad_file");
    const QByteArray jpeg = virt::file_of(virt::picture(sheet, 0, 100), {0, 0, 0, 0, 1, 80});
    EXPECT_EQ(code(read(jpeg.left(jpeg.size() / 2), sheet)), "bad_file");
    EXPECT_EQ(code(paper::read(pdf.toStdString(), "sheet", sheet.layout, [](double) { return false; })), "read")
        << "text takes no time that could be stopped";
    EXPECT_EQ(code(paper::read(png.toStdString(), "sheet", sheet.layout, [](double) { return false; })), "stopped");
    // a digit that was changed on the paper
    virt::Printout forged = sheet;
    for (virt::Ink& ink : forged.pages[0])
        if (ink.text == sheet.told.at("fat").text) ink.text[0] = ink.text[0] == '9' ? '8' : '9';
    const auto r = read(virt::pdf(forged), sheet);
    ASSERT_TRUE(r);
    for (const char* key : {"mass", "fat", "lean", "percent"}) EXPECT_TRUE(r->is_doubtful(key)) << key;
}

TEST(Paper, SpoiltFilesAreAnsweredToo)
{
    const auto sheet = sheet_of(virt::Style::receipt, 0);
    const QByteArray whole[] = {virt::pdf(sheet), virt::file_of(virt::picture(sheet, 0, 60), {}),
        virt::file_of(virt::picture(sheet, 0, 60), {0, 0, 0, 0, 1, 70})};
    std::mt19937_64 random(7);
    int answered = 0;
    for (int n = 0; n < 30; ++n) {
        std::string bytes = whole[n % 3].toStdString();
        for (int k = 0; k < 4; ++k) bytes[random() % bytes.size()] = static_cast<char>(random());
        if (n % 5 == 0) bytes.resize(random() % bytes.size());
        const auto r = paper::read(bytes, "sheet", sheet.layout);
        answered += r || !r.messages().empty();
    }
    EXPECT_EQ(answered, 30);
}

TEST(Paper, ALayoutIsWrittenAndReadBack)
{
    printout::Layout l = sheet_of(virt::Style::table, 1).layout;
    l.thousands = " ";
    l.title = "Analyser at the quay";
    const auto again = read_layout(write_layout(l), "quay.json");
    ASSERT_TRUE(again) << again.messages().front().text;
    EXPECT_EQ(write_layout(*again), write_layout(l));
    const struct {
        const char *text, *field;
    } wrong[] = {{R"({"id":"a","method":"impedance","fields":[{"key":"m","label":"W","quantity":"mass"}]})",
                     "fields[0].quantity"},
        {R"({"id":"a","method":"impedance","fields":[{"key":"m","label":"W"},{"key":"m","label":"V"}]})",
            "fields[1].key"},
        {R"({"id":"a","method":"impedance","fields":[{"key":"m","label":"W","decimals":"1"}]})", "fields[0].decimals"},
        {R"({"id":"a","method":"impedance","decimal":";","fields":[{"key":"m","label":"W"}]})", "decimal"},
        {R"({"id":"a","method":"impedance"})", "fields"}, {"{", ""}, {"[]", ""}};
    for (const auto& w : wrong) {
        const auto r = read_layout(w.text, "l.json");
        ASSERT_FALSE(r) << w.text;
        EXPECT_EQ(r.messages().front().field, w.field) << r.messages().front().text;
    }
    const auto odd =
        read_layout(R"({"id":"a","method":"impedance","fields":[{"key":"m","label":"W","optinal":true}]})", "l");
    ASSERT_TRUE(odd);
    EXPECT_EQ(odd.messages().front().code, "unknown_member");
}

TEST(Paper, TheDemosLayoutIsOfWhatItsStandInPrints)
{
    std::ifstream file(TEST_SOURCE_DIR "/demo/hall_analyser.json");
    const std::string text{std::istreambuf_iterator<char>(file), {}};
    const virt::Printout sheet = virt::print(body(3), virt::hall_order("1012", "2026-11-30T09:14"));
    EXPECT_EQ(text, write_layout(sheet.layout)) << "fusain-virtual-printer --layout > demo/hall_analyser.json";
    const QByteArray pdf = virt::pdf(sheet);
    const auto layout = read_layout(text, "hall_analyser.json");
    ASSERT_TRUE(layout);
    const auto reading = paper::read(pdf.toStdString(), "hall.pdf", *layout);
    ASSERT_TRUE(reading);
    EXPECT_TRUE(reading->doubtful.empty() && reading->missing.empty());
    EXPECT_EQ(reading->identity("number")->said, "1012");
    EXPECT_EQ(reading->identity("at")->said, "2026-11-30T09:14");
}

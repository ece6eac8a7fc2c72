// SPDX-License-Identifier: GPL-3.0-or-later
// How well printouts are read: sheets of the virtual press (virtual/press), as PDF with text and as scans at 150, 200
// and 300 dpi, turned, blurred, unevenly lit, pressed into JPEG. docs/printout-reading.md holds the table.
#include "bench/files/layout_file.h"
#include "bench/paper/paper.h"
#include "virtual/press/press.h"

#include <CLI/CLI.hpp>
#include <QFile>
#include <QGuiApplication>

#include <chrono>
#include <cmath>
#include <cstdio>
#include <random>

using namespace fusain;

namespace {

struct Count {
    int files = 0, values = 0, right = 0, doubted_right = 0, wrong = 0, missing = 0, refused = 0;
    double seconds = 0, longest = 0;
};

virt::Body somebody(std::mt19937_64& random)
{
    const auto between = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    virt::Body b;
    b.sex = between(0, 1) < 0.5 ? Sex::male : Sex::female;
    b.age_y = between(18, 80);
    b.height_cm = between(150, 198);
    const double m2 = b.height_cm * b.height_cm / 1e4;
    b.fat_free_mass_kg = m2 * between(14, 22);
    b.fat_mass_kg = m2 * between(2, 14);
    return b;
}

virt::Wear wear(std::mt19937_64& random, double dpi)
{
    const auto between = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    virt::Wear w;
    w.turn_deg = between(-3, 3);
    w.blur_px = between(0.3, 0.55 * dpi / 150);
    w.noise = between(1, 7);
    w.shade = between(10, 60);
    w.contrast = between(0.65, 1);
    w.quality = between(0, 1) < 0.3 ? 0 : int(between(45, 92));
    return w;
}

std::string moment(std::mt19937_64& random)
{
    const auto of = [&](int a, int b) { return std::uniform_int_distribution<int>(a, b)(random); };
    char text[32];
    std::snprintf(text, sizeof text, "2026-%02d-%02dT%02d:%02d", of(1, 12), of(1, 28), of(7, 19), of(0, 59));
    return text;
}

void judge(
    const Outcome<printout::Reading>& r, const virt::Printout& truth, Count& c, bool say, const std::string& name)
{
    c.files += 1;
    c.values += int(truth.told.size()) + 5;
    if (!r) {
        ++c.refused;
        c.missing += int(truth.told.size()) + 5;
        if (say) std::printf("  %s: %s\n", name.c_str(), r.messages().front().text.c_str());
        return;
    }
    if (say)
        for (const Message& m : r.messages()) std::printf("  %s: %s\n", name.c_str(), m.text.c_str());
    const auto count = [&](const std::string& key, bool right, const std::string& is, const std::string& should) {
        const bool doubted = r->is_doubtful(key);
        c.right += right;
        c.doubted_right += right && doubted;
        c.wrong += !right && !doubted;
        if (say && (!right || doubted))
            std::printf("  %s %s: %s%s, should be %s\n", name.c_str(), key.c_str(), is.c_str(),
                doubted ? " (doubtful)" : "", should.c_str());
    };
    for (const auto& [key, told] : truth.told) {
        const printout::Value* v = r->value(key);
        if (!v) {
            ++c.missing;
            if (say) std::printf("  %s %s: missing, should be %s\n", name.c_str(), key.c_str(), told.text.c_str());
            continue;
        }
        const bool limits = (!told.low || (v->low && std::abs(*v->low - *told.low) < 1e-9)) &&
                            (!told.high || (v->high && std::abs(*v->high - *told.high) < 1e-9));
        if (say) std::printf("CONF %.3f %d %d\n", v->confidence, std::abs(v->value - told.value) < 1e-9, limits);
        count(key, std::abs(v->value - told.value) < 1e-9 && limits, v->text + (limits ? "" : " with other limits"),
            told.text);
    }
    for (const char* key : {"number", "at", "height_cm", "age_y", "sex"}) {
        const printout::Identity* i = r->identity(key);
        if (!i) {
            ++c.missing;
            if (say) std::printf("  %s client.%s: missing\n", name.c_str(), key);
            continue;
        }
        const std::string k = key, should = k == "number"      ? truth.number
                                            : k == "at"        ? truth.at
                                            : k == "sex"       ? (truth.sex == Sex::male ? "male" : "female")
                                            : k == "height_cm" ? std::to_string(int(truth.height_cm))
                                                               : std::to_string(int(truth.age_y));
        const std::string is = i->said.empty() ? std::to_string(int(std::lround(i->value))) : i->said;
        count("client." + k, is == should, is, should);
    }
}

} // namespace

int main(int argc, char** argv)
{
    CLI::App app{"Reads sheets of the virtual press and compares"};
    int sheets = 60;
    std::uint64_t seed = 1;
    bool say = false;
    std::string keep, family;
    std::vector<double> resolutions = {0, 150, 200, 300};
    app.add_option("--sheets", sheets, "Sheets a resolution");
    app.add_option("--seed", seed, "Of people, styles and wear");
    app.add_option("--dpi", resolutions, "Resolutions; 0: PDF with text");
    app.add_flag("--say", say, "Each value that is not right and sure");
    app.add_option("--keep", keep, "Folder for the files that were not read well");
    app.add_option("--family", family, "Of the letters, in place of the words' own");
    CLI11_PARSE(app, argc, argv);
    if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    QGuiApplication gui(argc, argv);

    std::printf("%-8s %6s %7s %8s %9s %8s %8s %8s %7s %8s\n", "dpi", "sheets", "values", "right %", "doubtful", "wrong",
        "missing", "refused", "s mean", "s worst");
    for (const double dpi : resolutions) {
        Count c;
        std::mt19937_64 random(seed * 1000 + std::uint64_t(dpi));
        for (int i = 0; i < sheets; ++i) {
            virt::Order order;
            order.style = virt::all_styles[unsigned(i) % 5];
            order.words = unsigned(i / 5) % 5;
            order.number = std::to_string(std::uniform_int_distribution<int>(1000, 9999)(random));
            order.at = moment(random);
            order.seed = random();
            order.point =
                order.style == virt::Style::receipt ? 0 : std::uniform_real_distribution<double>(8, 10)(random);
            if (dpi > 0 && i % 4 == 3) order.family = "Vollkorn";
            if (!family.empty()) order.family = family;
            order.two_pages =
                dpi == 0 && i % 3 == 0 && order.style != virt::Style::receipt && order.style != virt::Style::boxes;
            const virt::Printout truth = virt::print(somebody(random), order);
            QByteArray file;
            if (dpi == 0) {
                file = virt::pdf(truth);
            } else {
                const virt::Wear w = wear(random, dpi);
                file = virt::file_of(virt::worn(virt::picture(truth, 0, dpi), w, random()), w);
            }
            const auto begun = std::chrono::steady_clock::now();
            const auto r = bench::paper::read(file.toStdString(), "sheet", truth.layout);
            const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
            c.seconds += took;
            c.longest = std::max(c.longest, took);
            const Count before = c;
            const std::string name = std::to_string(int(dpi)) + "_" + std::to_string(i) + "_style" +
                                     std::to_string(int(order.style)) + "_words" + std::to_string(order.words);
            judge(r, truth, c, say, name);
            if (!keep.empty() && (c.wrong > before.wrong || c.missing > before.missing ||
                                     c.right < before.right + int(truth.told.size()) + 5)) {
                QFile out(QString::fromStdString(keep + "/" + name +
                                                 (dpi == 0                        ? ".pdf"
                                                     : file.startsWith("\x89PNG") ? ".png"
                                                                                  : ".jpg")));
                if (out.open(QIODevice::WriteOnly)) out.write(file);
                QFile layout(QString::fromStdString(keep + "/" + name + ".json"));
                if (layout.open(QIODevice::WriteOnly)) layout.write(bench::write_layout(truth.layout).c_str());
            }
        }
        std::printf("%-8s %6d %7d %8.2f %8.2f%% %8d %8d %8d %7.2f %8.2f\n",
            dpi == 0 ? "text" : std::to_string(int(dpi)).c_str(), c.files, c.values, 100.0 * c.right / c.values,
            100.0 * c.doubted_right / std::max(1, c.right), c.wrong, c.missing, c.refused,
            c.seconds / std::max(1, c.files), c.longest);
        std::fflush(stdout);
    }
    return 0;
}

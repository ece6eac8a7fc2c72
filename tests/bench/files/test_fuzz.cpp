// SPDX-License-Identifier: GPL-3.0-or-later
// Hostile files: maps, tables of regions, tissue tables and lines, spoilt in a hundred thousand ways. Nothing is asked
// of them but an answer; the sanitizers watch (CONTRIBUTING.md says how to let it run longer).
#include "bench/files/bone_reference.h"
#include "bench/files/region_table.h"
#include "bench/files/scan_file.h"
#include "core/xray/scan.h"
#include "virtual/table/table.h"

#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>

using namespace fusain;

namespace {

std::vector<std::string> corpus(const std::string& suffix)
{
    std::vector<std::string> out;
    for (const auto& f : std::filesystem::directory_iterator(OWN_CASES "/hostile"))
        if (f.path().extension() == suffix) {
            std::ifstream in(f.path(), std::ios::binary);
            out.emplace_back(std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>());
        }
    return out;
}

/// Bytes flipped, cut, doubled, moved, numbers made huge; sometimes the tail of another file.
std::string spoilt(std::string bytes, const std::vector<std::string>& all, std::mt19937_64& random)
{
    const auto at = [&] { return bytes.empty() ? 0 : random() % bytes.size(); };
    for (std::size_t n = 1 + random() % 6; n > 0 && !bytes.empty(); --n) switch (random() % 8) {
        case 0: bytes[at()] = static_cast<char>(random()); break;
        case 1: bytes[at()] ^= static_cast<char>(1u << (random() % 8)); break;
        case 2: bytes.resize(at()); break;
        case 3: bytes.insert(at(), bytes.substr(at(), random() % 64)); break;
        case 4: bytes.erase(at(), random() % 16); break;
        case 5: {
            const std::size_t from = at();
            for (std::size_t k = from; k < std::min(bytes.size(), from + 4); ++k) bytes[k] = static_cast<char>(0xFF);
            break;
        }
        case 6: {
            const std::string& other = all[random() % all.size()];
            if (!other.empty()) bytes = bytes.substr(0, at()) + other.substr(random() % other.size());
            break;
        }
        default: std::swap(bytes[at()], bytes[at()]); break;
        }
    return bytes;
}

#ifdef __SANITIZE_ADDRESS__
constexpr int usual = 6000; // thirty times as slow; by hand with more: FUSAIN_FUZZ_RUNS
#else
constexpr int usual = 20000;
#endif

int runs()
{
    const char* more = std::getenv("FUSAIN_FUZZ_RUNS");
    return more ? std::atoi(more) : usual;
}

} // namespace

TEST(Fuzz, AHostileMapIsAnsweredAndNothingElse)
{
    const auto all = corpus(".dcm");
    ASSERT_GE(all.size(), 6u) << "the corpus is missing";
    std::mt19937_64 random(20261126);
    int read = 0, refused = 0;
    for (int i = 0; i < runs(); ++i) {
        const auto file = bench::read_scan(spoilt(all[random() % all.size()], all, random), "hostile.dcm");
        if (!file) {
            ++refused;
            ASSERT_FALSE(file.messages().front().text.empty());
            continue;
        }
        ++read;
        ASSERT_EQ(file->map.low.size(), file->map.high.size());
        if (read % 50 == 0) (void)xray::read(file->map, virt::stand_in_table(), nullptr, xray::IfSpoilt::read);
    }
    EXPECT_GT(read, refused / 200) << "nearly nothing gets as far as the pixels";
    EXPECT_GT(refused, read / 200) << "nearly nothing is spoilt";
}

TEST(Fuzz, HostileTablesToo)
{
    const auto all = corpus(".txt");
    ASSERT_GE(all.size(), 4u);
    std::mt19937_64 random(7);
    int understood = 0;
    for (int i = 0; i < runs() / 5; ++i) {
        const std::string text = spoilt(all[random() % all.size()], all, random);
        const auto table = bench::read_region_table(text, "hostile.csv", {});
        understood += table && table->unknown.empty();
        (void)bench::read_bone_reference(text, "hostile.csv");
        (void)bench::read_tissue_table(text, "hostile.json");
        (void)bench::read_lines(text, "hostile.json");
    }
    EXPECT_GT(understood, runs() / 1000);
}

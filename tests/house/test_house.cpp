// SPDX-License-Identifier: GPL-3.0-or-later
// The floors of the house: no include reaches upward, the core knows nothing of Qt, files or clocks, every file has a
// licence.
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>

namespace fs = std::filesystem;

namespace {

const fs::path root = TEST_SOURCE_DIR;

const std::map<std::string, std::set<std::string>> may_use = {
    {"core", {}},
    {"bench", {"core"}},
    {"virtual", {"core", "bench"}},
    {"records", {"core", "bench"}},
    {"report", {"core", "bench", "records"}},
    {"desk", {"core", "bench", "virtual", "records", "report"}},
    {"cli", {"core", "bench", "virtual", "records"}},
};

std::vector<fs::path> sources(const fs::path& folder)
{
    std::vector<fs::path> out;
    for (const auto& e : fs::recursive_directory_iterator(folder))
        if (e.path().extension() == ".cpp" || e.path().extension() == ".h") out.push_back(e.path());
    return out;
}

/// What a source line includes, and a complaint when it may not. Empty: allowed.
std::string complaint(const std::string& floor, const std::string& line)
{
    static const std::regex include(R"re(^\s*#\s*include\s*([<"])([^">]+)[">])re");
    std::smatch m;
    if (!std::regex_search(line, m, include)) return "";
    const std::string what = m[2];
    if (what.find("..") != std::string::npos) return "relative include " + what;
    const std::string first = what.substr(0, what.find('/'));
    if (may_use.count(first) && first != floor && !may_use.at(floor).count(first))
        return floor + " may not use " + what;
    if (floor == "core") {
        static const std::set<std::string> banned = {
            "fstream", "iostream", "filesystem", "chrono", "ctime", "thread", "nlohmann/json.hpp"};
        if (banned.count(what)) return "the core may not use " + what;
    }
    const bool qt = what.size() > 1 && what[0] == 'Q' && std::isupper(static_cast<unsigned char>(what[1]));
    if (qt && (floor == "core" || floor == "virtual" || floor == "cli")) return floor + " may not use Qt: " + what;
    static const std::regex widgets("^Q(Widget|Label|Dialog|Push|Line|Combo|Table|Main|Scroll|Stacked).*");
    if (std::regex_match(what, widgets) && floor != "desk") return floor + " may not use widgets: " + what;
    return "";
}

/// Of UTF-8 text: bytes that do not go on with a character.
long characters(const std::string& text)
{
    return std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; });
}

std::string content(const fs::path& file)
{
    std::ifstream in(file);
    return {std::istreambuf_iterator<char>(in), {}};
}

} // namespace

TEST(House, NoIncludeReachesUpward)
{
    int files = 0;
    for (const auto& [floor, below] : may_use)
        for (const fs::path& file : sources(root / "src" / floor)) {
            ++files;
            std::ifstream in(file);
            for (std::string line; std::getline(in, line);) EXPECT_EQ(complaint(floor, line), "") << file;
        }
    EXPECT_GT(files, 40);
}

TEST(House, TheScanSeesWhatItMust)
{
    EXPECT_NE(complaint("core", "#include \"bench/line.h\""), "");
    EXPECT_NE(complaint("core", "#include <QString>"), "");
    EXPECT_NE(complaint("core", "#include <fstream>"), "");
    EXPECT_NE(complaint("records", "#include \"desk/theme.h\""), "");
    EXPECT_NE(complaint("records", "#include <QWidget>"), "");
    EXPECT_NE(complaint("bench", "#include \"../desk/theme.h\""), "");
    EXPECT_EQ(complaint("records", "#include \"core/result.h\""), "");
}

TEST(House, EveryFileHasALicenceAndIsNotTooLong)
{
    for (const char* folder : {"src", "tests", "benchmarks"})
        for (const fs::path& file : sources(root / folder)) {
            std::ifstream in(file);
            std::string line;
            std::getline(in, line);
            EXPECT_NE(line.find("SPDX-License-Identifier: GPL-3.0-or-later"), std::string::npos) << file;
            int n = 1;
            for (; std::getline(in, line); ++n) EXPECT_LE(characters(line), 120) << file << ":" << n + 1;
            EXPECT_LE(n, 700) << file;
        }
}

TEST(House, EveryRowOfTheTablesIsExplained)
{
    std::string explained;
    for (const auto& page : fs::directory_iterator(root / "docs/science")) explained += content(page.path());
    int rows = 0;
    for (const char* table : {"lung.cpp", "density.cpp"}) {
        const std::string code = content(root / "src/core" / table);
        static const std::regex row(R"re(\{"(\w+)", ")re");
        for (std::sregex_iterator m(code.begin(), code.end(), row), end; m != end; ++m, ++rows)
            EXPECT_NE(explained.find("| " + (*m)[1].str() + " |"), std::string::npos)
                << (*m)[1].str() << " of " << table << ": run scripts/science";
    }
    EXPECT_GT(rows, 15);
}

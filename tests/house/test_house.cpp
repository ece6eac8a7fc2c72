// SPDX-License-Identifier: GPL-3.0-or-later
// The floors of the house: no include reaches upward, the core knows nothing of Qt, files or clocks, every file has a
// licence.
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdio>
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
    {"work", {"core", "bench", "records"}},
    {"report", {"core", "bench", "records", "work"}},
    {"desk", {"core", "bench", "records", "work", "report"}},
    {"demo", {"core", "bench", "virtual", "records", "work", "report", "desk"}},
    {"cli", {"core", "bench", "virtual", "records"}},
};

std::vector<fs::path> sources(const fs::path& folder)
{
    std::vector<fs::path> out;
    for (const auto& e : fs::recursive_directory_iterator(folder))
        if (e.path().extension() == ".cpp" || e.path().extension() == ".h") out.push_back(e.path());
    return out;
}

/// A complaint when a source line of a file (seen from src/) includes what it may not. Empty: allowed.
std::string complaint(const fs::path& file, const std::string& line)
{
    const std::string floor = file.begin()->string();
    static const std::regex include(R"re(^\s*#\s*include\s*([<"])([^">]+)[">])re");
    std::smatch m;
    if (!std::regex_search(line, m, include)) return "";
    const std::string what = m[2];
    if (what.find("..") != std::string::npos) return "relative include " + what;
    const std::string first = what.substr(0, what.find('/'));
    if (may_use.count(first) && first != floor && !may_use.at(floor).count(first))
        return floor + " may not use " + what;
    // a method's room is its own: who needs another method goes through what they share
    static const std::set<std::string> methods = {"tank", "chamber", "analyser", "xray"};
    const auto method_in = [](const fs::path& path) {
        for (const fs::path& part : path.parent_path())
            if (methods.count(part.string())) return part.string();
        return std::string();
    };
    if (const std::string mine = method_in(file), other = method_in(what); !mine.empty() && !other.empty())
        if (mine != other) return "the room of the " + mine + " may not use that of the " + other + ": " + what;
    if (floor == "core") {
        static const std::set<std::string> banned = {
            "fstream", "iostream", "filesystem", "chrono", "ctime", "thread", "nlohmann/json.hpp", "Eigen/Dense"};
        if (banned.count(what)) return "the core may not use " + what;
    }
    // what every file of a floor would compile anew for itself
    if (what == "nlohmann/json.hpp" && file != "bench/base/json.h")
        return "include bench/base/json.h instead of " + what;
    // what is logged is JSON only where its fields are listed; other JSON is read and written in files of its own
    static const std::regex lists_fields(
        R"((.*/)?(events|\w+_events|\w+_fields|\w+_kept|\w+_entries|line_setup|json)\.(cpp|h))");
    static const std::regex has_json(R"((bench/(base|files|lines/decoders|practice)|cli|demo)/.*)"
                                     R"(|report/words/catalogue\.cpp|work/reading/quantities_file\.cpp)");
    const std::string name = file.generic_string();
    if ((what == "bench/base/fields.h" || what == "records/base/qt_fields.h") && !std::regex_match(name, lists_fields))
        return "fields are listed in a file of their own: " + what;
    if (what == "bench/base/json.h" && !std::regex_match(name, has_json)) return "nobody here reads JSON: " + what;
    const bool qt = what.size() > 1 && what[0] == 'Q' && std::isupper(static_cast<unsigned char>(what[1]));
    const bool press = file.generic_string().starts_with("virtual/press/"); // it draws, in a library of its own
    if (qt && !press && (floor == "core" || floor == "virtual" || floor == "cli"))
        return floor + " may not use Qt: " + what;
    static const std::regex widgets("^Q(Widget|Label|Dialog|Push|Line|Combo|Table|Main|Scroll|Stacked).*");
    if (std::regex_match(what, widgets) && floor != "desk" && floor != "demo")
        return floor + " may not use widgets: " + what;
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
            for (std::string line; std::getline(in, line);)
                EXPECT_EQ(complaint(fs::relative(file, root / "src"), line), "") << file;
        }
    EXPECT_GT(files, 40);
}

TEST(House, TheScanSeesWhatItMust)
{
    EXPECT_NE(complaint("core/a.h", "#include \"bench/line.h\""), "");
    EXPECT_NE(complaint("core/a.h", "#include <QString>"), "");
    EXPECT_NE(complaint("desk/a.h", "#include \"virtual/body.h\""), "") << "the lab's program knows no stand-in";
    EXPECT_NE(complaint("desk/a.h", "#include \"demo/past.h\""), "");
    EXPECT_NE(complaint("core/a.h", "#include <fstream>"), "");
    EXPECT_NE(complaint("core/a.h", "#include <Eigen/Dense>"), "");
    EXPECT_NE(complaint("work/a.cpp", "#include <nlohmann/json.hpp>"), "");
    EXPECT_NE(complaint("records/a.h", "#include \"desk/theme.h\""), "");
    EXPECT_NE(complaint("records/a.h", "#include <QWidget>"), "");
    EXPECT_NE(complaint("bench/a.h", "#include \"../desk/theme.h\""), "");
    EXPECT_NE(complaint("bench/tank/a.cpp", "#include \"bench/chamber/b.h\""), "");
    EXPECT_NE(complaint("desk/bench/chamber/a.cpp", "#include \"report/tank/b.h\""), "");
    EXPECT_EQ(complaint("desk/bench/chamber/a.cpp", "#include \"bench/chamber/b.h\""), "");
    EXPECT_EQ(complaint("bench/methods.cpp", "#include \"bench/chamber/b.h\""), "");
    EXPECT_NE(complaint("desk/a.cpp", "#include \"bench/base/json.h\""), "");
    EXPECT_NE(complaint("work/a.cpp", "#include \"bench/base/fields.h\""), "");
    EXPECT_EQ(complaint("bench/tank/tank_events.cpp", "#include \"bench/base/fields.h\""), "");
    EXPECT_EQ(complaint("records/a.h", "#include \"core/base/outcome.h\""), "");
}

namespace {

/// Rooms of a floor, and which of them reads which: a folder is a room, and what lies in a folder is in that room.
using Rooms = std::map<std::string, std::set<std::string>>;

/// A way round from a room back to itself, as "a → b → a"; empty: there is none.
std::string circle(const Rooms& rooms)
{
    std::map<std::string, int> seen; // 1: on the way, 2: done
    std::vector<std::string> way;
    const auto from = [&](const auto& self, const std::string& room) -> std::string {
        seen[room] = 1;
        way.push_back(room);
        if (const auto at = rooms.find(room); at != rooms.end())
            for (const std::string& next : at->second) {
                if (seen[next] == 1) {
                    std::string out;
                    for (auto w = std::find(way.begin(), way.end(), next); w != way.end(); ++w) out += *w + " → ";
                    return out + next;
                }
                if (seen[next] == 0)
                    if (std::string found = self(self, next); !found.empty()) return found;
            }
        way.pop_back();
        seen[room] = 2;
        return "";
    };
    for (const auto& [room, read] : rooms)
        if (seen[room] == 0)
            if (std::string found = from(from, room); !found.empty()) return found;
    return "";
}

Rooms rooms_of(const std::string& floor)
{
    static const std::regex include(R"re(^\s*#\s*include\s*"([^"]+)")re");
    Rooms out;
    for (const fs::path& file : sources(root / "src" / floor)) {
        const std::string room = fs::relative(file, root / "src").parent_path().generic_string();
        std::ifstream in(file);
        for (std::string line; std::getline(in, line);) {
            std::smatch m;
            if (!std::regex_search(line, m, include)) continue;
            const fs::path read(m[1].str());
            const std::string other = read.parent_path().generic_string();
            if (*read.begin() == floor && other != room && fs::exists(root / "src" / read)) out[room].insert(other);
        }
    }
    return out;
}

} // namespace

TEST(House, NoRoomsReadEachOtherInACircle)
{
    EXPECT_EQ(circle({{"a", {"b", "c"}}, {"b", {"c"}}}), "");
    EXPECT_EQ(circle({{"a", {"b"}}, {"b", {"c"}}, {"c", {"b"}}}), "b → c → b") << "the scan sees what it must";
    std::size_t roads = 0;
    for (const auto& [floor, below] : may_use) {
        const Rooms rooms = rooms_of(floor);
        EXPECT_EQ(circle(rooms), "");
        for (const auto& [room, read] : rooms) roads += read.size();
    }
    EXPECT_GT(roads, 80u);
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

namespace {

struct Function {
    std::string name; ///< "desk/day/day_page.cpp void DayPage::refresh()"
    int lines = 0;
};

/// Those of a file that begin and end at its left edge, with the lines between their braces.
std::vector<Function> functions_of(const fs::path& file)
{
    std::vector<Function> out;
    std::ifstream in(file);
    std::string head, line;
    int begun = 0, n = 0;
    while (std::getline(in, line)) {
        ++n;
        if (line == "{")
            begun = n;
        else if (line == "}" && begun) {
            out.push_back({fs::relative(file, root / "src").generic_string() + " " + head, n - begun - 1});
            begun = 0;
        } else if (!begun && !line.empty() && line[0] != ' ' && line[0] != '}')
            head = line;
    }
    return out;
}

} // namespace

// Those that are longer are named in a file, which may only become shorter.
TEST(House, NoFunctionIsLongerThanAScreen)
{
    constexpr int most = 80;
    std::set<std::string> known, found;
    std::ifstream in(root / "tests/house/long_functions.txt");
    for (std::string line; std::getline(in, line);)
        if (!line.empty() && line[0] != '#') known.insert(line);
    int all = 0;
    for (const fs::path& file : sources(root / "src"))
        for (const Function& f : functions_of(file)) {
            ++all;
            if (f.lines <= most) continue;
            found.insert(f.name);
            EXPECT_TRUE(known.count(f.name)) << f.name << " has " << f.lines << " lines; allowed are " << most;
        }
    for (const std::string& name : known) EXPECT_TRUE(found.count(name)) << name << " is short now: take it out";
    EXPECT_GT(all, 1500);
}

// A refusal that nobody looks at is a value that somebody believes to be kept.
TEST(House, ARefusalIsLookedAt)
{
    static const std::regex refuses(R"re(^\s*(static |virtual |inline )*(std::optional<Message>|Messages) \w+\()re");
    int found = 0;
    for (const fs::path& file : sources(root / "src")) {
        if (file.extension() != ".h") continue;
        std::ifstream in(file);
        for (std::string line; std::getline(in, line);) {
            EXPECT_FALSE(std::regex_search(line, refuses)) << file << ": [[nodiscard]] is missing in" << line;
            found += line.find("[[nodiscard]]") != std::string::npos;
        }
    }
    EXPECT_GT(found, 100);
}

// A method is its row, its rooms and a line of core/method/rooms.h. Whoever else names two of them has made another
// list; a fifth goes through everything without it (FifthMethod).
TEST(House, NothingElseListsMethods)
{
    static const std::map<std::string, const char*> may = {
        {"core/method/rows.cpp", "the rows"},
        {"core/time/compare.cpp", "what is published of two beside each other"},
        {"bench/practice/drill_file.cpp", "whose drill it is"},
        {"cli/batch/density_records.cpp", "two rooms in one file"},
        {"demo/demo_lab.cpp", "the made-up lab's own year"},
        {"demo/past.cpp", "which virtual instrument plays it"},
    };
    static const std::regex name(R"re((?:method::|")(impedance|absorptiometry|air_displacement|hydrostatic)\b[^.])re");
    std::set<std::string> list, made;
    for (const fs::path& file : sources(root / "src")) {
        const std::string text = content(file), path = fs::relative(file, root / "src").string();
        std::set<std::string> named;
        for (std::sregex_iterator m(text.begin(), text.end(), name), end; m != end; ++m) named.insert((*m)[1]);
        if (named.size() > 1) list.insert(path);
        if (text.find("FUSAIN_METHODS(ROOM)") != std::string::npos) made.insert(path);
    }
    for (const std::string& path : list) EXPECT_TRUE(may.count(path)) << path << " lists methods";
    EXPECT_EQ(list.size(), may.size());
    EXPECT_EQ(made, (std::set<std::string>{"bench/methods.cpp", "cli/batch/blocks.cpp", "core/method/list.cpp",
                        "core/method/method.h", "core/method/rooms.h", "desk/bench/method_desk.cpp",
                        "report/words/method_words.cpp"}));
    std::set<std::string> of_the_fifth;
    for (const fs::path& file : sources(root / "tests/fifth/list"))
        of_the_fifth.insert(fs::relative(file, root / "tests/fifth/list").string());
    EXPECT_EQ(of_the_fifth, (std::set<std::string>{"core/method/rooms.h"})) << "the lists that a method touches";
}

TEST(House, ThePagesNameNoFileThatIsGone)
{
    static const std::regex path(R"re([A-Za-z_]+(?:/[A-Za-z_]+)+\.(?:h|cpp|md|json|txt|cmake)\b)re");
    int named = 0;
    for (const char* page : {"ARCHITECTURE.md", "CONTRIBUTING.md"}) {
        const std::string text = content(root / page);
        for (std::sregex_iterator m(text.begin(), text.end(), path), end; m != end; ++m, ++named) {
            const fs::path file = m->str();
            EXPECT_TRUE(fs::exists(root / file) || fs::exists(root / "src" / file)) << page << ": " << file;
        }
    }
    EXPECT_GT(named, 40);
}

TEST(House, EveryRowOfTheTablesIsExplained)
{
    std::string explained;
    for (const auto& page : fs::directory_iterator(root / "docs/science")) explained += content(page.path());
    int rows = 0;
    for (const char* table : {"air_and_water/lung.cpp", "density/density.cpp"}) {
        const std::string code = content(root / "src/core" / table);
        static const std::regex row(R"re(\{"(\w+)", ")re");
        for (std::sregex_iterator m(code.begin(), code.end(), row), end; m != end; ++m, ++rows)
            EXPECT_NE(explained.find("| " + (*m)[1].str() + " |"), std::string::npos)
                << (*m)[1].str() << " of " << table << ": run scripts/science";
    }
    EXPECT_GT(rows, 15);
}

TEST(House, EveryDecoderIsDescribed)
{
    std::ifstream in(root / "docs/formats/decoder.md");
    const std::string page{std::istreambuf_iterator<char>(in), {}};
    int n = 0;
    for (const auto& e : fs::directory_iterator(root / "data/decoders")) {
        ++n;
        EXPECT_NE(page.find("| `" + e.path().stem().string() + "` |"), std::string::npos) << e.path();
    }
    EXPECT_GE(n, 9);
}

namespace {

std::string answer_to(const std::string& asked)
{
    FILE* pipe = ::popen(asked.c_str(), "r");
    if (!pipe) return {};
    std::string out;
    char bytes[4096];
    for (std::size_t n; (n = std::fread(bytes, 1, sizeof bytes, pipe)) > 0;) out.append(bytes, n);
    EXPECT_EQ(::pclose(pipe), 0) << out;
    return out;
}

/// What must be built for a target, as ninja knows it.
std::string needed_for(const char* target)
{
    return answer_to("ninja -C '" TEST_BIN_DIR "/..' -t inputs " + std::string(target) + " 2>&1");
}

} // namespace

// Replay holds the numbers of old logs against this file, whose first line names the version that reckons them: whoever
// changes a number, raises the version.
TEST(House, ANumberThatChangesMovesTheVersion)
{
    const std::string git = "git -C '" + root.string() + "' ", file = "tests/cases/replay/numbers.txt";
    const auto engine_of = [](const std::string& text) { return text.substr(0, text.find('\n')); };
    const std::string now = content(root / file);
    std::set<std::string> seen{engine_of(now)};
    std::istringstream commits(answer_to(git + "log --format=%H -- " + file));
    bool committed = answer_to(git + "status --porcelain -- " + file).empty();
    for (std::string commit; std::getline(commits, commit); committed = false) {
        const std::string engine = engine_of(answer_to(git + "show " + commit + ":" + file));
        if (!engine.starts_with("engine ")) break; // before there was this rule
        if (committed) continue;                   // it is what lies here
        EXPECT_TRUE(seen.insert(engine).second)
            << commit << " has other numbers under the same version: raise it in CMakeLists.txt";
    }
}

TEST(House, TheLabsProgramHoldsNeitherStandInsNorDemo)
{
    const std::string lab = needed_for("bin/fusain"), demo = needed_for("bin/fusain-demo");
    for (const char* part : {"libfusain_virtual", "libfusain_demo", "libfusain_press"})
        EXPECT_EQ(lab.find(part), std::string::npos) << part;
    EXPECT_NE(lab.find("libfusain_desk"), std::string::npos);
    EXPECT_NE(demo.find("libfusain_virtual"), std::string::npos) << "the look sees what it must";
}

TEST(House, TheDemoBuildsTheProgramAndNothingElse)
{
    const std::string demo = content(root / "scripts/demo");
    EXPECT_NE(demo.find("scripts/build release program"), std::string::npos) << "this is what the demo builds";
    const std::string program = needed_for("program"), all = needed_for("all");
    for (const char* part : {"fusain.dir/shell/main.cpp", "fusain-demo.dir", "fusain-virtual.dir", "fusain-cli.dir"})
        EXPECT_NE(program.find(part), std::string::npos) << part;
    for (const char* part : {"/test_", "tests/", "gtest", "benchmarks/"})
        EXPECT_EQ(program.find(part), std::string::npos) << part;
    EXPECT_NE(all.find("tests/"), std::string::npos);
    EXPECT_EQ(all.find("benchmarks/"), std::string::npos) << "benchmarks are built when somebody asks for them";
}

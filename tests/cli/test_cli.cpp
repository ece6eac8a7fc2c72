// SPDX-License-Identifier: GPL-3.0-or-later
// The command as a user runs it: files, pipes, CSV, exit codes, bad input.
#include "asked.h"
#include "cli/traces/read.h"
#include "virtual/chamber/chamber_air.h"
#include "virtual/tank/swing_trace.h"

#include <gtest/gtest.h>

#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdio>
#include <filesystem>
#include <fstream>
#include <set>
#include <sstream>

using namespace fusain;

namespace {

struct Ran {
    int code;
    std::string out;
};

Ran run(const std::string& arguments)
{
    FILE* pipe = popen((std::string(TEST_BIN_DIR) + "/fusain-cli " + arguments + " 2>&1").c_str(), "r");
    std::string out;
    char bytes[4096];
    while (const std::size_t n = fread(bytes, 1, sizeof bytes, pipe)) out.append(bytes, n);
    const int status = pclose(pipe);
    return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, out};
}

/// A file of this test, gone with it.
std::string file(const std::string& name, const std::string& text)
{
    static const struct Folder {
        std::filesystem::path path =
            std::filesystem::temp_directory_path() / ("fusain-cli-test-" + std::to_string(getpid()));
        Folder() { std::filesystem::create_directories(path); }
        ~Folder() { std::filesystem::remove_all(path); }
    } folder;
    std::ofstream(folder.path / name, std::ios::binary) << text;
    return (folder.path / name).string();
}

const std::string good =
    R"({"id":"A1","method":"hydrostatic","sex":"male","age_y":30,"height_cm":178,"mass_kg":75,"site":"north",)"
    R"("hydrostatic":{"trials_kg":[3.60,3.60,3.60],"water_temp_c":34,"lung":{"source":"measured",)"
    R"("residual_volume_l":1.6}}})";

std::vector<cli::Json> lines(const std::string& text)
{
    std::vector<cli::Json> out;
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);) out.push_back(cli::Json::parse(line));
    return out;
}

cli::Json changed(const std::string& pointer, const cli::Json& value)
{
    cli::Json record = cli::Json::parse(good);
    record[cli::Json::json_pointer(pointer)] = value;
    return record;
}

} // namespace

TEST(Cli, OneResultARecordInOrderAndExitCodes)
{
    const std::string mixed = file("mixed.jsonl", good + "\n\n{not json\n" + good + "\n");
    const Ran both = run("compute " + mixed);
    EXPECT_EQ(both.code, 2);
    const auto out = lines(both.out);
    ASSERT_EQ(out.size(), 3u);
    EXPECT_EQ(out[0]["status"], "ok");
    EXPECT_EQ(out[1]["status"], "error");
    EXPECT_NE(out[1]["messages"][0]["text"].get<std::string>().find("Line 3"), std::string::npos);
    EXPECT_EQ(out[2]["status"], "ok");
    EXPECT_EQ(out[0]["extra"]["site"], "north");
    EXPECT_FALSE(out[0].contains("story"));
    EXPECT_EQ(run("compute " + file("good.jsonl", good)).code, 0);
    EXPECT_EQ(run("compute --format csv /nowhere.csv").code, 1);
    EXPECT_EQ(run("compute --format yaml -").code, 1);
    EXPECT_EQ(run("").code, 1);
    EXPECT_EQ(run("--version").code, 0);
    const auto story = lines(run("compute --story " + file("good.jsonl", good)).out)[0]["story"];
    EXPECT_GT(story.size(), 10u);
    for (const auto& step : story) EXPECT_TRUE(step.contains("source"));
}

TEST(Cli, NumbersReadBackTheSame)
{
    const auto out = cli::compute_line(good, 1);
    const auto again = cli::Json::parse(out.dump());
    for (const auto& [key, value] : out["results"].items()) EXPECT_EQ(value, again["results"][key]) << key;
}

TEST(Cli, CsvGivesTheSameNumbers)
{
    const std::string csv = "\xEF\xBB\xBFid,method,sex,age_y,height_cm,mass_kg,site,hydrostatic.trials_kg,hydrostatic."
                            "water_temp_c,hydrostatic.lung.source,hydrostatic.lung.residual_volume_l\r\n"
                            "A1,hydrostatic,male,30,178,75,\"north, \"\"old\"\"\",3.60;3.60;3.60,34,measured,1.6\r\n"
                            "A2,hydrostatic,male,30,178,heavy,,3.60;3.60;3.60,34,measured,1.6\r\n"
                            "A3,hydrostatic,male\r\n";
    const std::string path = file("in.csv", csv);
    const Ran ran = run("compute " + path + " --output-format jsonl");
    EXPECT_EQ(ran.code, 2);
    const auto out = lines(ran.out);
    ASSERT_EQ(out.size(), 3u);
    const auto reference = cli::compute_line(good, 1);
    EXPECT_EQ(out[0]["results"], reference["results"]);
    EXPECT_EQ(out[0]["extra"]["site"], "north, \"old\"");
    EXPECT_EQ(out[1]["messages"][0]["field"], "mass_kg");
    EXPECT_EQ(out[2]["messages"][0]["code"], "wrong_columns");
    const Ran as_csv = run("compute " + path);
    EXPECT_TRUE(as_csv.out.starts_with("id,method,status,")) << as_csv.out;
    EXPECT_NE(as_csv.out.find("\nA1,hydrostatic,ok,"), std::string::npos);
    EXPECT_NE(as_csv.out.find("\nA2,hydrostatic,error,not_a_number,mass_kg,"), std::string::npos);
}

TEST(Cli, BadRecordsNameTheField)
{
    struct Row {
        cli::Json record;
        const char *code, *field;
    };
    const Row rows[] = {
        {changed("/mass_kg", "seventy"), "not_a_number", "mass_kg"},
        {changed("/mass_kg", nullptr), "missing_field", "mass_kg"},
        {changed("/sex", "man"), "unknown_choice", "sex"},
        {changed("/method", "weighing"), "unknown_choice", "method"},
        {changed("/method", "multi_compartment"), "missing_field", "multi_compartment"},
        {changed("/height_cm", 1.78), "out_of_range", "height_cm"},
        {changed("/hydrostatc", cli::Json::object()), "misspelt_field", "hydrostatc"},
        {changed("/hydrostatic/tank", "2"), "extra", "hydrostatic.tank"},
        {changed("/hydrostatic/water_tmp_c", 34), "misspelt_field", "hydrostatic.water_tmp_c"},
        {changed("/hydrostatic/trials_kg", 3.6), "not_a_list", "hydrostatic.trials_kg"},
        {changed("/hydrostatic/trials_kg/1", "x"), "not_a_number", "hydrostatic.trials_kg"},
        {changed("/hydrostatic/trial_rule", "best"), "unknown_choice", "hydrostatic.trial_rule"},
        {changed("/hydrostatic/lung", 3), "not_a_block", "hydrostatic.lung"},
        {changed("/hydrostatic/lung/source", "guess"), "unknown_choice", "hydrostatic.lung.source"},
        {changed("/hydrostatic/lung", {{"source", "vital_capacity"}, {"vital_capacity_l", 4.8}}), "missing_field",
            "hydrostatic.lung.conditions"},
        {changed("/hydrostatic/lung",
             {{"source", "vital_capacity"}, {"vital_capacity_l", 4.8}, {"conditions", "ATPS"}, {"gas_temp_c", 22}}),
            "missing_field", "hydrostatic.lung.barometric_mmhg"},
        {changed("/conversion", 7), "not_a_text", "conversion"},
    };
    for (const Row& row : rows) {
        const auto out = cli::compute_record(row.record);
        if (std::string(row.code) == "extra") {
            EXPECT_TRUE(out["extra"].contains(row.field)) << out.dump();
            continue;
        }
        EXPECT_EQ(out["status"], "error") << row.code << " " << row.field;
        ASSERT_FALSE(out["messages"].empty());
        EXPECT_EQ(out["messages"][0]["code"], row.code) << out.dump();
        EXPECT_EQ(out["messages"][0]["field"], row.field) << out.dump();
    }
    EXPECT_EQ(cli::compute_line("[1,2]", 1)["messages"][0]["code"], "not_a_record");
    EXPECT_EQ(cli::compute_line(R"({"id":"x","mass_kg":70,"mass_kg":71})", 4)["messages"][0]["code"], "field_twice");
    EXPECT_EQ(cli::compute_line(R"({"mass_kg":NaN})", 4)["messages"][0]["code"], "not_json");
    EXPECT_EQ(cli::compute_line(R"({"mass_kg":1e999})", 4)["status"], "error");
    EXPECT_EQ(cli::compute_line("{\"id\":\"Qu\xE9m\"}", 7)["messages"][0]["code"], "not_utf8");
    EXPECT_NE(cli::compute_line("{\"id\":\"Qu\xE9m\"}", 7)["messages"][0]["text"].get<std::string>().find(
                  "Line 7 is not UTF-8 from byte 10"),
        std::string::npos);
    EXPECT_EQ(cli::compute_line(std::string(70000, '['), 1)["status"], "error");
    EXPECT_EQ(cli::compute_line(R"({"id":"x","q":1,"q":2})", 1)["messages"][0]["code"], "field_twice")
        << "also of a field nobody knows";
}

TEST(Cli, SafetyWordsAreReadOrRefusedAndNeverFiledAway)
{
    const cli::Json energy = cli::Json::parse(
        R"({"id":"E","method":"energy","sex":"female","age_y":30,"height_cm":168,"energy":{"fat_mass_kg":20,)"
        R"("fat_free_mass_kg":48,"activity_level":1.6}})");
    const cli::Json plan = cli::Json::parse(
        R"({"id":"P","method":"plan","sex":"female","age_y":30,"height_cm":168,"plan":{"fat_mass_kg":26,)"
        R"("fat_free_mass_kg":48,"activity_level":1.6,"target":{"fat_percent":33},"weeks":20}})");
    const cli::Json scan = cli::Json::parse(
        R"({"id":"X","method":"absorptiometry","sex":"female","age_y":30,"height_cm":168,"mass_kg":68,)"
        R"("absorptiometry":{"regions":{}}})");
    struct Row {
        cli::Json record;
        const char *pointer, *status, *code, *field;
        cli::Json value = true;
    };
    const Row rows[] = {
        {energy, "/pregnant", "ok", "no_plan_pregnant", "pregnant"},
        {energy, "/energy/pregnant", "ok", "no_plan_pregnant", "pregnant"},
        {energy, "/energy/kidney_disease", "ok", "no_protein_kidney", "kidney_disease"},
        {energy, "/eating_disorder", "ok", "no_plan_eating_disorder", "eating_disorder"},
        {plan, "/eating_disorder", "refused", "no_plan_eating_disorder", "plan.eating_disorder"},
        {plan, "/plan/pregnant", "refused", "no_plan_pregnant", "plan.pregnant"},
        {scan, "/absorptiometry/pregnant", "refused", "pregnant", "pregnant"},
        {plan, "/plan/target/pregnant", "error", "misplaced", "plan.target.pregnant"},
        {plan, "/under_18", "error", "misplaced", "under_18"},
        {energy, "/client", "error", "misplaced", "client.facts.implant", {{"facts", {{"implant", false}}}}},
        {energy, "/history", "error", "misplaced", "history.pregnant", {cli::Json{{"pregnant", true}}}},
        {energy, "/impedance", "error", "misplaced", "impedance.implant", {{"implant", true}}},
        {changed("/id", "H"), "/kidney_disease", "error", "misplaced", "kidney_disease"},
        {changed("/id", "H"), "/hydrostatic/lung/implant", "error", "misplaced", "hydrostatic.lung.implant"},
        {energy, "/energy/pregnnat", "error", "misspelt_field", "energy.pregnnat"},
        {energy, "/energy/pregnant", "error", "not_a_flag", "energy.pregnant", "yes"},
    };
    for (const Row& row : rows) {
        cli::Json record = row.record;
        record[cli::Json::json_pointer(row.pointer)] = row.value;
        const auto out = cli::compute_record(record);
        EXPECT_EQ(out["status"], row.status) << row.pointer << ' ' << out.dump();
        const auto& all = out["messages"];
        EXPECT_TRUE(std::any_of(all.begin(), all.end(),
            [&](const cli::Json& m) { return m["code"] == row.code && m["field"] == row.field; }))
            << row.pointer << ' ' << all.dump();
        EXPECT_FALSE(out["results"].contains("deficit_kcal") && std::string(row.code) != "no_protein_kidney");
    }
}

TEST(Cli, ARecordWithSeveralFaultsNamesThemAll)
{
    const auto out = cli::compute_line(
        R"({"id":"E","method":"energy","sex":"female","age_y":30,"height_cm":168,"mass_kg":70,"energy":{)"
        R"("fat_mass_kg":-4,"fat_free_mass_kg":48,"activity_level":3}})",
        1);
    std::set<std::string> fields;
    for (const auto& m : out["messages"]) fields.insert(m["field"]);
    EXPECT_EQ(fields, (std::set<std::string>{"mass_kg", "energy.fat_mass_kg", "energy.activity_level"})) << out.dump();
    const auto two = cli::compute_record([] {
        cli::Json r = changed("/hydrostatic/water_temp_c", 60);
        r["hydrostatic"]["lung"]["source"] = "guess";
        return r;
    }());
    EXPECT_EQ(two["messages"].size(), 2u) << two["messages"].dump();
}

TEST(Cli, StreamsInConstantMemory)
{
    const Ran ran = run("--version > /dev/null; yes '" + good + "' | head -10000 | " + TEST_BIN_DIR +
                        "/fusain-cli compute - | tail -1");
    EXPECT_NE(ran.out.find("\"status\":\"ok\""), std::string::npos) << ran.out;
    rusage used{};
    getrusage(RUSAGE_CHILDREN, &used);
#ifdef __SANITIZE_ADDRESS__
    constexpr long most_kb = 1200000; // the sanitizer keeps freed memory aside
#else
    constexpr long most_kb = 40000;
#endif
    EXPECT_LT(used.ru_maxrss, most_kb);
}

TEST(Cli, RunsThatCountStandAmongTheResults)
{
    const auto out = cli::compute_line(
        R"({"id":"A","method":"air_displacement","sex":"male","age_y":30,"height_cm":178,"mass_kg":75,)"
        R"("air_displacement":{"raw_volumes_l":[67.5,67.9,67.96],"lung":{"source":"predicted"}}})",
        1);
    EXPECT_EQ(out["results"]["runs_used"], cli::Json({1, 2})) << out.dump();
}

TEST(Cli, OrderIsKeptOnAllCoresAndAPipeIsAnsweredAtOnce)
{
    std::string many;
    for (int i = 0; i < 20000; ++i)
        many += R"({"id":)" + std::to_string(i) + (i % 7 ? R"(,"method":"hydrostatic"})" : "") + "\n";
    const auto out = lines(run("compute " + file("many.jsonl", many)).out);
    ASSERT_EQ(out.size(), 20000u);
    for (int i = 0; i < 20000; ++i) {
        if (i % 7)
            ASSERT_EQ(out[static_cast<std::size_t>(i)]["id"], i);
        else
            ASSERT_NE(out[static_cast<std::size_t>(i)]["messages"][0]["text"].get<std::string>().find(
                          "Line " + std::to_string(i + 1) + " "),
                std::string::npos);
    }
    // one line goes in, its answer comes out, before the next is written
    int to[2], from[2];
    ASSERT_EQ(pipe(to) | pipe(from), 0);
    const pid_t child = fork();
    if (child == 0) {
        dup2(to[0], 0);
        dup2(from[1], 1);
        for (int fd : {to[0], to[1], from[0], from[1]}) close(fd);
        execl((std::string(TEST_BIN_DIR) + "/fusain-cli").c_str(), "fusain-cli", "compute", "-", nullptr);
        _exit(9);
    }
    close(to[0]);
    close(from[1]);
    for (int i = 0; i < 3; ++i) {
        const std::string line = good + "\n";
        ASSERT_EQ(write(to[1], line.data(), line.size()), static_cast<ssize_t>(line.size()));
        std::string answer;
        char c = 0;
        while (read(from[0], &c, 1) == 1 && c != '\n') answer += c;
        EXPECT_EQ(cli::Json::parse(answer)["status"], "ok");
    }
    close(to[1]);
    int status = 0;
    waitpid(child, &status, 0);
    EXPECT_EQ(WEXITSTATUS(status), 0);
    close(from[0]);
}

TEST(CliRead, SwingFileAndItsErrors)
{
    virt::Swing truth;
    truth.seed = 3;
    std::string csv = "# a comment\nt_s,mass_kg\n";
    for (const auto& s : virt::make_trace(truth)) csv += std::to_string(s.t_s) + "," + std::to_string(s.kg) + "\n";
    const Ran ok = run("read swing " + file("trace.csv", csv));
    EXPECT_EQ(ok.code, 0);
    const auto out = cli::Json::parse(ok.out);
    EXPECT_EQ(out["status"], "ok");
    EXPECT_NEAR(out["reading_kg"].get<double>(), truth.level_kg, 0.02);
    for (const char* key : {"u_kg", "window_s", "earliest_s", "midpoint_kg", "messages"})
        EXPECT_TRUE(out.contains(key)) << key;

    struct Row {
        const char *csv, *code, *names;
    };
    const Row rows[] = {
        {"", "wrong_columns", "Line 1"},
        {"time,kg\n0,1\n", "wrong_columns", "Line 1"},
        {"t_s,mass_kg\n0,1\n0.01,1,2\n", "wrong_columns", "Line 3"},
        {"t_s,mass_kg\n0,1\n0.01,abc\n", "not_a_number", "Line 3, column mass_kg"},
        {"t_s,mass_kg\n0,1\n0.01,nan\n", "not_a_number", "mass_kg"},
        {"t_s,mass_kg\n0,1\n0.6,1\n", "gap", "Line 3, column t_s"},
        {"t_s,mass_kg\n0,1\n0.02,1\n0.01,1\n", "time_backwards", "Line 4, column t_s"},
        {"t_s,mass_kg\n0,1\n0.2,1\n0.4,1\n", "out_of_range", "sample rate"},
    };
    for (const Row& row : rows) {
        std::istringstream in(row.csv);
        std::ostringstream text;
        EXPECT_FALSE(cli::read_swing(in, text));
        const auto j = cli::Json::parse(text.str());
        EXPECT_EQ(j["status"], "error") << row.csv;
        EXPECT_EQ(j["messages"][0]["code"], row.code) << row.csv;
        EXPECT_NE(j["messages"][0]["text"].get<std::string>().find(row.names), std::string::npos) << j.dump();
        EXPECT_FALSE(j.contains("reading_kg"));
    }
    EXPECT_EQ(run("read swing /nowhere.csv").code, 1);
}

TEST(CliRead, ChamberFilesAndTheirErrors)
{
    virt::ChamberAir air({}, 5);
    virt::Body body;
    const auto csv_of = [](const std::vector<chamber::Sample>& run) {
        std::ostringstream text;
        text.precision(12);
        text << "# a comment\nt_s,p_test_pa,p_reference_pa,door\n";
        for (const auto& s : run)
            text << s.t_s << ',' << s.test_pa << ',' << s.reference_pa << ',' << s.door_open << '\n';
        return text.str();
    };
    const std::string empty = file("empty.csv", csv_of(virt::record(air, 0, 25, 80)));
    air.set_cylinder(50.012);
    const std::string cylinder = file("cylinder.csv", csv_of(virt::record(air, 30, 25, 80)));
    air.set_cylinder(0);
    air.set_client(&body);
    auto recorded = virt::record(air, 60, 25, 80);
    const std::string good = csv_of(recorded),
                      options = " --empty " + empty + " --cylinder " + cylinder + " --cylinder-volume-l ";
    const Ran ok = run("read chamber " + file("run.csv", good) + options + "50.012");
    EXPECT_EQ(ok.code, 0);
    const auto out = cli::Json::parse(ok.out);
    EXPECT_EQ(out["status"], "ok") << ok.out;
    EXPECT_NEAR(out["raw_volume_l"].get<double>(), air.true_raw_l(), 0.06);
    EXPECT_LT(out["u_l"].get<double>(), 0.05);

    for (auto& s : recorded) s.door_open = s.t_s > 20;
    const Ran opened = run("read chamber " + file("run.csv", csv_of(recorded)) + options + "50.012");
    EXPECT_EQ(opened.code, 0) << "asked to be repeated is an answer";
    const auto again = cli::Json::parse(opened.out);
    EXPECT_EQ(again["status"], "repeat");
    EXPECT_EQ(again["messages"][0]["code"], "door_opened");
    EXPECT_FALSE(again.contains("raw_volume_l"));
    const auto swapped = cli::Json::parse(run("read chamber " + file("run.csv", good) + " --empty " + cylinder +
                                              " --cylinder " + empty + " --cylinder-volume-l 50")
                                              .out);
    EXPECT_EQ(swapped["messages"][0]["code"], "calibration_failed");

    struct Row {
        std::string csv, volume;
        const char *code, *names;
    };
    const Row rows[] = {
        {good, "50012", "out_of_range", "--cylinder-volume-l"},
        {"t_s,p_test,p_reference,door\n", "50", "wrong_columns", "run: Line 1"},
        {"t_s,p_test_pa,p_reference_pa,door\n0,1,2,0\n0.01,1,x,0\n", "50", "not_a_number",
            "run: Line 3, column p_reference_pa"},
        {"t_s,p_test_pa,p_reference_pa,door\n0,1,2,0\n0.01,1,2,7\n", "50", "out_of_range", "column door"},
        {"t_s,p_test_pa,p_reference_pa,door\n0,1,2,0\n0.9,1,2,0\n", "50", "gap", "run: Line 3, column t_s"},
    };
    for (const Row& row : rows) {
        const Ran bad = run("read chamber " + file("run.csv", row.csv) + options + row.volume);
        EXPECT_EQ(bad.code, 2) << row.names;
        const auto j = cli::Json::parse(bad.out);
        EXPECT_EQ(j["status"], "error");
        EXPECT_EQ(j["messages"][0]["code"], row.code) << bad.out;
        EXPECT_NE(j["messages"][0]["text"].get<std::string>().find(row.names), std::string::npos) << bad.out;
    }
}

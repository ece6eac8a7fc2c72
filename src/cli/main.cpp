// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/csv.h"
#include "core/csv.h"
#include "cli/read.h"
#include "version.h"

#include <CLI/CLI.hpp>

#include <fstream>
#include <iostream>

using namespace fusain;

namespace {

constexpr int exit_ok = 0, exit_command = 1, exit_errors = 2;

bool ends_with(const std::string& name, const char* end) { return name.ends_with(end); }

struct ComputeOptions {
    std::string input = "-", output = "-", format, output_format;
    bool story = false;
};

/// Streams records to results: one is read, computed, written and forgotten before the next.
int compute(const ComputeOptions& options)
{
    std::ifstream file;
    if (options.input != "-") {
        file.open(options.input, std::ios::binary);
        if (!file) {
            std::cerr << "fusain-cli: cannot read " << options.input << "\n";
            return exit_command;
        }
    }
    std::istream& in = options.input == "-" ? std::cin : file;
    std::ofstream out_file;
    if (options.output != "-") {
        out_file.open(options.output, std::ios::binary);
        if (!out_file) {
            std::cerr << "fusain-cli: cannot write " << options.output << "\n";
            return exit_command;
        }
    }
    std::ostream& out = options.output == "-" ? std::cout : out_file;
    const bool csv_in = options.format.empty() ? ends_with(options.input, ".csv") : options.format == "csv";
    const bool csv_out = !options.output_format.empty() ? options.output_format == "csv"
        : ends_with(options.output, ".csv")             ? true
        : ends_with(options.output, ".jsonl")           ? false
                                                        : csv_in;
    bool errors = false;
    if (csv_out) out << cli::csv_header() << "\n";
    const auto write = [&](cli::Json result) {
        errors = errors || result["status"] == "error";
        if (!options.story) result.erase("story");
        if (csv_out) out << cli::csv_row(result) << "\n";
        else out << result.dump(-1, ' ', false, cli::Json::error_handler_t::replace) << "\n";
        out.flush();
        return bool(out);
    };

    if (in.peek() == 0xEF) { // a byte order mark
        char mark[3];
        in.read(mark, 3);
    }
    long line = 0;
    if (csv_in) {
        try {
            const auto header = csv::read_row(in, line);
            if (!header || header->front().empty()) {
                std::cerr << "fusain-cli: the CSV has no header line of field names\n";
                return exit_command;
            }
            while (const auto row = csv::read_row(in, line)) {
                if (row->size() == 1 && row->front().empty()) continue;
                const bool fits = row->size() == header->size();
                const bool wrote = write(fits ? cli::compute_record(cli::record_from_csv(*header, *row))
                                              : cli::error_result(row->front(), "wrong_columns", "",
                                                                  "Line " + std::to_string(line) + " has " + std::to_string(row->size())
                                                                      + " cells; the header has " + std::to_string(header->size()) + "."));
                if (!wrote) break;
            }
        } catch (const std::runtime_error& e) {
            write(cli::error_result(cli::Json(), "bad_csv", "", std::string("CSV: ") + e.what() + "."));
        }
    } else {
        for (std::string text; std::getline(in, text);) {
            ++line;
            if (text.find_first_not_of(" \t\r") == std::string::npos) continue;
            if (!write(cli::compute_line(text, line))) break;
        }
    }
    if (!out) {
        std::cerr << "fusain-cli: writing the results failed\n";
        return exit_command;
    }
    return errors ? exit_errors : exit_ok;
}

} // namespace

int main(int argc, char** argv)
{
    std::ios::sync_with_stdio(false);
    CLI::App app{"Body composition from measurements: the core of Fusain without a window", "fusain-cli"};
    app.set_version_flag("--version", "fusain " FUSAIN_VERSION);
    app.require_subcommand(1);

    ComputeOptions options;
    CLI::App* compute_command = app.add_subcommand("compute", "Compute records (JSON Lines or CSV), one result a record");
    compute_command->add_option("INPUT", options.input, "Input file, or - for standard input");
    compute_command->add_option("-o,--output", options.output, "Output file, or - for standard output");
    compute_command->add_option("--format", options.format, "Format of the input, and of the output unless its name or --output-format says otherwise")->check(CLI::IsMember({"jsonl", "csv"}));
    compute_command->add_option("--output-format", options.output_format, "Format of the output")->check(CLI::IsMember({"jsonl", "csv"}));
    compute_command->add_flag("--story", options.story, "Add every step: inputs, corrections, equations, results");

    std::string trace;
    CLI::App* read_command = app.add_subcommand("read", "Read a recorded raw signal");
    read_command->require_subcommand(1);
    CLI::App* swing_command = read_command->add_subcommand("swing", "A swinging load cell: columns t_s,mass_kg");
    swing_command->add_option("TRACE", trace, "CSV file, or - for standard input")->required();

    std::string run, empty, cylinder;
    double cylinder_l = 0, drive_hz = 3;
    CLI::App* chamber_command = read_command->add_subcommand("chamber", "A displacement chamber: columns t_s,p_test_pa,p_reference_pa,door");
    chamber_command->add_option("RUN", run, "CSV file of the run")->required();
    chamber_command->add_option("--empty", empty, "CSV file of the empty chamber")->required();
    chamber_command->add_option("--cylinder", cylinder, "CSV file with the cylinder in the chamber")->required();
    chamber_command->add_option("--cylinder-volume-l", cylinder_l, "Certified volume of the cylinder, L")->required();
    chamber_command->add_option("--drive-hz", drive_hz, "Frequency of the oscillating wall, Hz");

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? exit_ok : exit_command;
    }
    if (*compute_command) return compute(options);
    std::ifstream files[3];
    const auto open = [&](std::ifstream& file, const std::string& name) {
        file.open(name, std::ios::binary);
        if (!file) std::cerr << "fusain-cli: cannot read " << name << "\n";
        return bool(file);
    };
    if (*chamber_command) {
        if (!open(files[0], run) || !open(files[1], empty) || !open(files[2], cylinder)) return exit_command;
        return cli::read_chamber(files[0], files[1], files[2], cylinder_l, drive_hz, std::cout) ? exit_ok : exit_errors;
    }
    if (trace == "-") return cli::read_swing(std::cin, std::cout) ? exit_ok : exit_errors;
    if (!open(files[0], trace)) return exit_command;
    return cli::read_swing(files[0], std::cout) ? exit_ok : exit_errors;
}

// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/compute.h"
#include "cli/series/change.h"
#include "cli/traces/read.h"
#include "version.h"

#include <CLI/CLI.hpp>

#include <filesystem>
#include <fstream>
#include <iostream>

using namespace fusain;
using cli::exit_command, cli::exit_errors, cli::exit_ok;

int main(int argc, char** argv)
{
    std::ios::sync_with_stdio(false);
    CLI::App app{"Body composition from measurements: the core of Fusain without a window", "fusain-cli"};
    app.set_version_flag("--version", "fusain " FUSAIN_VERSION);
    app.require_subcommand(1);

    cli::ComputeOptions options;
    CLI::App* compute_command =
        app.add_subcommand("compute", "Compute records (JSON Lines or CSV), one result a record");
    compute_command->add_option("INPUT", options.input, "Input file, or - for standard input");
    compute_command->add_option("-o,--output", options.output, "Output file, or - for standard output");
    compute_command
        ->add_option("--format", options.format,
            "Format of the input, and of the output unless its name or --output-format says otherwise")
        ->check(CLI::IsMember({"jsonl", "csv"}));
    compute_command->add_option("--output-format", options.output_format, "Format of the output")
        ->check(CLI::IsMember({"jsonl", "csv"}));
    compute_command->add_flag("--story", options.story, "Add every step: inputs, corrections, equations, results");

    std::string series = "-";
    CLI::App* change_command =
        app.add_subcommand("change", "What changed over time, and what is only noise (JSON Lines, one series a line)");
    change_command->add_option("INPUT", series, "Input file, or - for standard input");

    std::string trace;
    CLI::App* read_command = app.add_subcommand("read", "Read a recorded raw signal");
    read_command->require_subcommand(1);
    CLI::App* swing_command = read_command->add_subcommand("swing", "A swinging load cell: columns t_s,mass_kg");
    swing_command->add_option("TRACE", trace, "CSV file, or - for standard input")->required();

    std::string run, empty, cylinder;
    double cylinder_l = 0, drive_hz = 3;
    CLI::App* chamber_command =
        read_command->add_subcommand("chamber", "A displacement chamber: columns t_s,p_test_pa,p_reference_pa,door");
    chamber_command->add_option("RUN", run, "CSV file of the run")->required();
    chamber_command->add_option("--empty", empty, "CSV file of the empty chamber")->required();
    chamber_command->add_option("--cylinder", cylinder, "CSV file with the cylinder in the chamber")->required();
    chamber_command->add_option("--cylinder-volume-l", cylinder_l, "Certified volume of the cylinder, L")->required();
    chamber_command->add_option("--drive-hz", drive_hz, "Frequency of the oscillating wall, Hz");

    std::string scan, table, lines;
    CLI::App* scan_command =
        read_command->add_subcommand("scan", "A two-energy X-ray map: DICOM, low then high energy");
    scan_command->add_option("SCAN", scan, "DICOM file")->required();
    scan_command->add_option("--profile", table, "JSON file of the table: attenuation of fat, lean and bone")
        ->required();
    scan_command->add_option("--lines", lines, "JSON file of the lines; without it they are placed by the program");

    std::string printout, layout;
    CLI::App* printout_command =
        read_command->add_subcommand("printout", "A printout of an instrument: PDF, PNG, JPEG or TIFF");
    printout_command->add_option("FILE", printout, "The printout")->required();
    printout_command->add_option("--layout", layout, "JSON file of the layout: what is printed under which words")
        ->required();

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? exit_ok : exit_command;
    }
    if (*compute_command) return cli::compute(options);
    std::ifstream files[3];
    const auto open = [&](std::ifstream& file, const std::string& name) {
        file.open(name, std::ios::binary);
        const bool folder = std::filesystem::is_directory(name);
        if (!file || folder)
            std::cerr << "fusain-cli: cannot read " << name << (folder ? ": it is a folder" : "") << "\n";
        return file && !folder;
    };
    bool good = false;
    if (*change_command) {
        if (series != "-" && !open(files[0], series)) return exit_command;
        good = cli::change(series == "-" ? std::cin : files[0], std::cout);
    } else if (*chamber_command) {
        if (!open(files[0], run) || !open(files[1], empty) || !open(files[2], cylinder)) return exit_command;
        good = cli::read_chamber(files[0], files[1], files[2], cylinder_l, drive_hz, std::cout);
    } else if (*scan_command) {
        if (!open(files[0], scan) || !open(files[1], table) || (!lines.empty() && !open(files[2], lines)))
            return exit_command;
        good = cli::read_scan(files[0], files[1], lines.empty() ? nullptr : &files[2], std::cout);
    } else if (*printout_command) {
        if (!open(files[0], printout) || !open(files[1], layout)) return exit_command;
        good = cli::read_printout(files[0], files[1], std::cout);
    } else {
        if (trace != "-" && !open(files[0], trace)) return exit_command;
        good = cli::read_swing(trace == "-" ? std::cin : files[0], std::cout);
    }
    if (!std::cout.flush()) {
        std::cerr << "fusain-cli: writing the result failed\n";
        return exit_command;
    }
    return good ? exit_ok : exit_errors;
}

// SPDX-License-Identifier: GPL-3.0-or-later
// fusain-virtual: stand-ins for the instruments, each on a real serial line (pseudo-terminal), with stage directions
// over a local socket. The program that measures sees only the line.
#include "bench/files/profile_file.h"
#include "virtual/analyser/analyser.h"
#include "virtual/analyser/profile_fit.h"
#include "virtual/chamber/chamber.h"
#include "virtual/foreign/ends.h"
#include "virtual/foreign/indicators.h"
#include "virtual/table/xray_table.h"
#include "virtual/tank/tank.h"
#include "version.h"

#include <CLI/CLI.hpp>

#include <chrono>
#include <csignal>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <poll.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <unistd.h>

using namespace fusain;

namespace {

volatile std::sig_atomic_t stop_asked = 0;

using virt::Indicators, virt::listen_at, virt::SerialEnd, virt::SocketEnd;

struct Talker {
    int fd;
    std::string pending;
};

/// A stand-in is anything that takes directions and speaks bytes up to a moment.
template <class Instrument, class End = SerialEnd>
int run(const std::string& line, const std::string& control, const std::string& client, double speed,
    std::uint64_t seed, const std::vector<std::string>& foreign)
{
    Instrument instrument(seed);
    if (!client.empty()) {
        const std::string answer = instrument.direct("client " + client);
        if (answer.starts_with("error")) throw std::runtime_error(answer.substr(6));
    }
    const int server = listen_at(control);
    End serial(line);
    Indicators indicators(foreign);
    const auto speak_to = [&](double now) {
        if constexpr (std::is_same_v<End, SocketEnd>)
            instrument.hear(serial.write(indicators.rest_of(instrument.advance_to(now))));
        else
            serial.write(indicators.rest_of(instrument.advance_to(now)));
    };
    std::cout << "line " << line << "\ncontrol " << control << "\nready" << std::endl;

    std::vector<Talker> talkers;
    double plug_back_at = -1;
    const auto start = std::chrono::steady_clock::now();
    while (!stop_asked) {
        std::vector<pollfd> watched = {{server, POLLIN, 0}};
        for (const Talker& t : talkers) watched.push_back({t.fd, POLLIN, 0});
        ::poll(watched.data(), watched.size(), 10);
        const double now = speed * std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();

        if (watched[0].revents & POLLIN)
            if (const int fd = ::accept4(server, nullptr, nullptr, SOCK_NONBLOCK); fd >= 0) talkers.push_back({fd, {}});
        for (std::size_t i = 0; i + 1 < watched.size(); ++i) {
            if (!watched[i + 1].revents) continue;
            char bytes[512];
            const ssize_t n = ::read(talkers[i].fd, bytes, sizeof bytes);
            if (n <= 0) {
                ::close(talkers[i].fd);
                talkers[i].fd = -1;
                continue;
            }
            talkers[i].pending.append(bytes, static_cast<std::size_t>(n));
            for (std::size_t end; (end = talkers[i].pending.find('\n')) != std::string::npos;
                 talkers[i].pending.erase(0, end + 1)) {
                const std::string words = talkers[i].pending.substr(0, end);
                speak_to(now); // so that a direction takes effect at its own moment
                std::string answer;
                if (words.starts_with("unplug")) {
                    serial.unplug();
                    indicators.plug(false);
                    plug_back_at = now + (words.size() > 7 ? std::stod(words.substr(7)) : 3.0);
                    answer = "ok unplug";
                } else if (words == "quit") {
                    stop_asked = 1;
                    answer = "ok quit";
                } else {
                    answer = instrument.direct(words);
                }
                answer += '\n';
                if (::write(talkers[i].fd, answer.data(), answer.size()) < 0) break;
            }
        }
        std::erase_if(talkers, [](const Talker& t) { return t.fd < 0; });
        if (!serial.plugged() && now >= plug_back_at) {
            serial.plug_in();
            indicators.plug(true);
        }
        speak_to(now);
    }
    ::unlink(control.c_str());
    return 0;
}

} // namespace

int main(int argc, char** argv)
{
    CLI::App app{"Stand-ins for the instruments, with a virtual client of known truth", "fusain-virtual"};
    app.set_version_flag("--version", "fusain " FUSAIN_VERSION);
    app.require_subcommand(1);
    std::string line, control, client;
    double speed = 1;
    std::uint64_t seed = 1;
    long parent = 0;
    std::vector<std::string> foreign;
    struct Row {
        const char *name, *words;
        int (*run)(const std::string&, const std::string&, const std::string&, double, std::uint64_t,
            const std::vector<std::string>&);
        CLI::App* command = nullptr;
    };
    Row rows[] = {
        {"tank", "A tank room: load cell, thermometer, scale, spirometer, barometer", run<virt::Tank>},
        {"chamber", "A displacement chamber: two pressures, door, airway", run<virt::Chamber>},
        {"analyser", "An impedance analyser: eight electrodes, five segments, its own platform", run<virt::Analyser>},
        {"table", "An X-ray table: its map row by row, over a local socket instead of a serial line",
            run<virt::XrayTable, SocketEnd>},
    };
    for (Row& row : rows) {
        row.command = app.add_subcommand(row.name, row.words);
        row.command->add_option("--line", line, "Name of the serial line (of the table: of the local socket) to make")
            ->required();
        row.command->add_option("--control", control, "Name of the local socket for stage directions")->required();
        row.command->add_option(
            "--client", client, "The virtual client, e.g. \"sex=female age=31 height=171 fat=14.6 ffm=53.8\"");
        row.command->add_option("--speed", speed, "How much faster than life (1 = as in life)")
            ->check(CLI::Range(0.1, 100.0));
        row.command->add_option("--seed", seed, "Seed of everything random");
        row.command->add_option("--parent", parent,
            "Number of the process that started this one: ends with it, and removes the folder of its line if that is "
            "empty");
        row.command->add_option("--foreign", foreign,
            "[CHANNEL=]DECODER@LINE: an indicator that shows a channel on a line of its own, in a decoder's words; "
            "LINE "
            "is a name, or tcp:PORT. Once for each");
    }
    int people = 400;
    std::string file;
    CLI::App* profile = app.add_subcommand(
        "profile", "Fits the instrument profile of the virtual analyser on virtual clients and writes it");
    profile->add_option("-o,--output", file, "The profile's file (without it, the standard output)");
    profile->add_option("--people", people, "How many virtual clients")->check(CLI::Range(20, 100000));
    profile->add_option("--seed", seed, "Seed of everything random");
    CLI11_PARSE(app, argc, argv);
    if (*profile) {
        const std::string text = bench::write_profile(virt::fit_profile(people, seed));
        if (file.empty()) {
            std::cout << text;
            return 0;
        }
        std::ofstream out(file, std::ios::trunc);
        out << text;
        out.close();
        if (out) return 0;
        std::cerr << "fusain-virtual: cannot write " << file << "\n";
        return 1;
    }

    std::signal(SIGINT, [](int) { stop_asked = 1; });
    std::signal(SIGTERM, [](int) { stop_asked = 1; });
    std::signal(SIGPIPE, SIG_IGN);
    ::prctl(PR_SET_PDEATHSIG, SIGTERM);            // a stand-in does not outlive the program that started it
    if (parent && ::getppid() != parent) return 0; // nor one that died before it could ask for that
    try {
        for (const Row& row : rows)
            if (*row.command) {
                const int code = row.run(line, control, client, speed, seed, foreign);
                // whoever is last of a room that nobody else can clear any more
                if (parent) ::rmdir(std::filesystem::path(control).parent_path().c_str());
                return code;
            }
        return 1;
    } catch (const std::exception& e) {
        std::cerr << "fusain-virtual: " << e.what() << "\n";
        return 1;
    }
}

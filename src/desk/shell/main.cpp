// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/shell/main_window.h"
#include "desk/shell/program.h"
#include "desk/stage/stand_in_processes.h"
#include "records/file/lab_file.h"
#include "records/file/schema.h"
#include "work/practice/practice.h"
#include "version.h"

#include <CLI/CLI.hpp>

#include <QApplication>
#include <QFile>

#include <iostream>
#include <optional>

using namespace fusain;
using namespace fusain::desk;

namespace {

/// Who works in the lab may practise; who is at work there is who practises.
struct People {
    QStringList all;
    QString at_work;
};
People people_of(const QString& file, const records::Peek& there)
{
    People out;
    if (!QFile::exists(file) || there.version != records::newest_schema()) return out;
    if (const auto lab = records::Store::open(file)) {
        out.at_work = (*lab)->setting(QStringLiteral("technician"));
        for (const auto& person : work::Lab(*lab).diary->staff())
            if (person.active) out.all << person.name;
    }
    return out;
}

} // namespace

int main(int argc, char** argv)
{
    CLI::App options{"Fusain: measuring body composition", "fusain"};
    options.set_version_flag("--version", "fusain " FUSAIN_VERSION);
    Asked asked;
    bool practice = false;
    add_to(options, asked);
    options.add_flag("--practice", practice,
        "The practice bench of the lab: invented bodies, virtual instruments, a folder of its own (LAB/practice)");
    options.add_option("--speed", asked.speed, "With --practice: how much faster than life the virtual client is");
    CLI11_PARSE(options, argc, argv);
    records::keep_to_this_user();

    look::prepare_fonts();
    QApplication app(argc, argv);
    if (!dress(asked)) return 1;
    Beginning says;
    if (practice) says.tell(QStringLiteral("Fusain is opened …"));
    const QString folder = asked.folder(QStringLiteral("fusain")), file = folder + QStringLiteral("/lab.fusain");
    const records::Peek there = records::peek(file); // looked at before a byte is changed
    if (!practice && work::is_practice(there)) {
        std::cerr << "fusain: " << folder.toStdString()
                  << " is a practice folder, and no lab; --practice opens it. Nothing was changed in it\n";
        return 1;
    }
    const People people = practice ? people_of(file, there) : People{};
    const auto opened =
        practice ? work::open_practice(work::practice_folder(folder), people.all) : open_lab(file, true);
    if (!opened) return could_not(opened.messages().front(), true);
    std::optional<StandInProcesses> room;
    QStringList lines = asked.lines();
    if (practice) {
        if ((*opened)->setting(QStringLiteral("technician")).isEmpty() && !people.at_work.isEmpty())
            if (const auto why = (*opened)->set_setting(QStringLiteral("technician"), people.at_work))
                return could_not(*why, true);
        room.emplace(asked.speed);
        if (!room->trouble().isEmpty()) std::cerr << "fusain: " << room->trouble().toStdString() << "\n";
        lines = room->lines();
    }
    MainWindow window(*opened, lines);
    if (practice) window.practise(*room);
    show(window, asked);
    says.close();
    return app.exec();
}

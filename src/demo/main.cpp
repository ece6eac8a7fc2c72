// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/demo_lab.h"
#include "demo/player/demo_player.h"
#include "demo/demo_strip.h"
#include "desk/shell/main_window.h"
#include "desk/shell/program.h"
#include "desk/stage/stand_in_processes.h"
#include "records/file/lab_file.h"
#include "version.h"

#include <CLI/CLI.hpp>

#include <QApplication>
#include <QDir>
#include <QFile>
#include <QTemporaryDir>

#include <iostream>
#include <optional>

using namespace fusain;
using namespace fusain::desk;

int main(int argc, char** argv)
{
    CLI::App options{"Fusain with the made-up lab and virtual instruments; never touches a real lab", "fusain-demo"};
    options.set_version_flag("--version", "fusain " FUSAIN_VERSION);
    Asked asked;
    std::string play, client = "quem", clock = "";
    add_to(options, asked);
    options.add_option("--play", play, "Play one whole test unattended and leave pictures and sheets in this folder");
    options.add_option("--client", client, "With --play: whom to test, by part of a name");
    options.add_option("--speed", asked.speed, "How much faster than life the virtual client is");
    options.add_option("--clock", clock, "The lab's clock begins at this time of the day, HH:MM");
    CLI11_PARSE(options, argc, argv);
    records::keep_to_this_user();
    if (!play.empty() && clock.empty()) clock = "08:20"; // the played test needs the morning of the made-up day

    look::prepare_fonts();
    QApplication app(argc, argv);
    if (!dress(asked)) return 1;
    Beginning says;
    says.tell(QStringLiteral("Fusain is opened …"));
    std::optional<QTemporaryDir> played; // what is played is played in a lab that is made for it, and gone with it
    if (!play.empty() && asked.lab.empty())
        asked.lab = played.emplace(QDir::tempPath() + "/fusain-played-XXXXXX").path().toStdString();
    const QString folder = asked.folder(QStringLiteral("fusain-demo")), file = folder + QStringLiteral("/lab.fusain");
    const bool was_there = QFile::exists(file);
    const records::Peek there = records::peek(file); // looked at before a byte is changed
    if (there.version > 0 && there.setting(QStringLiteral("demo")).isEmpty()) {
        std::cerr << "fusain-demo: " << folder.toStdString()
                  << " is a real lab; the demo opens only what a demo made. Nothing was changed in it\n";
        return 1;
    }
    const auto opened = open_lab(file, play.empty());
    if (!opened) return could_not(opened.messages().front(), play.empty());
    if (const auto not_kept = (*opened)->set_setting(QStringLiteral("demo"), QStringLiteral("yes")))
        return could_not(*not_kept, play.empty());
    set_demo_clock(QString::fromStdString(clock), asked.speed);
    says.tell(was_there ? QStringLiteral("Today's bookings are put in …")
                        : QStringLiteral("The made-up lab is filled: people, instruments, a year of tests …"));
    auto why = fill_demo_lab(**opened);
    if (!why) why = fill_demo_day(*opened);
    if (why) return could_not(*why, false);
    says.tell(QStringLiteral("The virtual instruments are switched on …"));
    StandInProcesses room(asked.speed);
    if (!room.trouble().isEmpty()) std::cerr << "fusain-demo: " << room.trouble().toStdString() << "\n";
    if (const auto not_kept = (*opened)->set_setting(QStringLiteral("watched_folder"), room.printouts()))
        return could_not(*not_kept, play.empty());
    MainWindow window(*opened, room.lines());
    room.listen_to(window.session(), demo_body);
    window.add_strip(make_demo_strip(room));
    show(window, asked);
    says.close();

    bool worked = true;
    if (!play.empty()) {
        auto* player = new DemoPlayer(window, QString::fromStdString(play), QString::fromStdString(client), &app);
        QObject::connect(player, &DemoPlayer::finished, &app, [&](bool ok) {
            worked = ok;
            app.quit();
        });
        QTimer::singleShot(800, player, &DemoPlayer::play);
    }
    const int code = app.exec();
    return worked ? code : 1;
}

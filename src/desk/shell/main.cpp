// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/demo/demo_lab.h"
#include "desk/demo/demo_player.h"
#include "desk/demo/demo_room.h"
#include "desk/shell/main_window.h"
#include "records/file/lab_file.h"
#include "records/file/schema.h"
#include "work/practice/practice.h"
#include "version.h"

#include <CLI/CLI.hpp>

#include <QApplication>
#include <QDir>
#include <QLabel>
#include <QMessageBox>
#include <QProgressDialog>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTextStream>

#include <iostream>
#include <memory>
#include <optional>

using namespace fusain;
using namespace fusain::desk;

namespace {

/// Bringing an older lab up to date may take minutes: it shows how far it is, and can be cancelled.
Outcome<std::shared_ptr<records::Store>> open_lab(const QString& file, bool shown)
{
    std::unique_ptr<QProgressDialog> progress;
    return records::Store::open(file, [&](int done, int of) {
        if (!shown) return true;
        if (!progress) {
            progress = std::make_unique<QProgressDialog>(
                QStringLiteral("Bringing the lab up to date: the results of %1 visits.\nA copy was made beside it.")
                    .arg(of),
                QStringLiteral("Cancel"), 0, of);
            progress->setWindowTitle(QStringLiteral("Fusain"));
            progress->setMinimumDuration(500);
        }
        progress->setValue(done);
        QApplication::processEvents();
        return !progress->wasCanceled();
    });
}

/// A small window that says what is done before the real one is there.
class Beginning {
public:
    void tell(const QString& words)
    {
        if (!box_) {
            box_ = std::make_unique<QLabel>();
            box_->setWindowTitle(QStringLiteral("Fusain"));
            box_->setObjectName(QStringLiteral("beginning"));
            box_->setAlignment(Qt::AlignCenter);
            box_->setFixedSize(Theme::get().px(520), Theme::get().px(120));
            box_->show();
        }
        box_->setText(words);
        box_->repaint();
        for (int i = 0; i < 3; ++i) QApplication::processEvents(); // shown, exposed, painted
    }
    void close() { box_.reset(); }

private:
    std::unique_ptr<QLabel> box_;
};

} // namespace

int main(int argc, char** argv)
{
    CLI::App options{"Fusain: measuring body composition", "fusain"};
    options.set_version_flag("--version", "fusain " FUSAIN_VERSION);
    std::string lab, play, size = "1280x800", client = "quem", clock = "";
    bool demo = false, night = false, practice = false;
    double speed = 1, zoom = 1;
    options.add_option("--lab", lab, "Folder of the lab (default: the user's data folder)");
    std::vector<std::string> ports;
    options.add_option("--port", ports,
        "Serial port of an instrument on the bench line, besides the lines that the lab keeps; once for each");
    options.add_flag("--demo", demo, "The made-up lab with a virtual tank; never touches a real lab");
    options.add_flag("--practice", practice,
        "The practice bench of the lab: invented bodies, virtual instruments, a folder of its own (LAB/practice)");
    options.add_option(
        "--play", play, "With --demo: play one whole test unattended and leave pictures and sheets in this folder");
    options.add_option("--client", client, "With --play: whom to test, by part of a name");
    options.add_option("--speed", speed, "With --demo or --practice: how much faster than life the virtual client is");
    options.add_option("--clock", clock, "With --demo: the lab's clock begins at this time of the day, HH:MM");
    options.add_option("--size", size, "Window size, WIDTHxHEIGHT");
    options.add_option("--zoom", zoom, "Text size, 1 = normal");
    options.add_flag("--night", night, "Night theme");
    CLI11_PARSE(options, argc, argv);
    records::keep_to_this_user();
    if (!play.empty() && clock.empty()) clock = "08:20"; // the played test needs the morning of the made-up day

    look::prepare_fonts();
    QApplication app(argc, argv);
    QApplication::setApplicationName(QStringLiteral("fusain"));
    QApplication::setStyle(QStringLiteral("Fusion"));
    if (!look::load_fonts()) {
        std::cerr << "fusain: the fonts that ship with the program are missing; build it again\n";
        return 1;
    }
    Theme::get().set_zoom(zoom);
    Theme::get().set_night(night);

    Beginning says; // seconds may go by before there is a window
    if (demo || practice) says.tell(QStringLiteral("Fusain is opened …"));
    QString folder = QString::fromStdString(lab);
    std::optional<QTemporaryDir> played; // what is played is played in a lab that is made for it, and gone with it
    if (demo && !play.empty() && folder.isEmpty())
        folder = played.emplace(QDir::tempPath() + "/fusain-played-XXXXXX").path();
    if (folder.isEmpty())
        folder = QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
                 (demo ? QStringLiteral("/fusain-demo") : QStringLiteral("/fusain"));
    const QString file = folder + QStringLiteral("/lab.fusain");
    const bool was_there = QFile::exists(file);
    QStringList people;
    QString at_work;
    const records::Peek there = records::peek(file); // looked at before a byte is changed
    const auto refuse = [&](const char* why) {
        std::cerr << "fusain: " << folder.toStdString() << why << ". Nothing was changed in it\n";
        return 1;
    };
    if (!practice && work::is_practice(there)) return refuse(" is a practice folder, and no lab; --practice opens it");
    if (there.version > 0 && demo && !practice && there.setting(QStringLiteral("demo")).isEmpty())
        return refuse(" is a real lab; the demo opens only what a demo made");
    if (practice && was_there && there.version == records::newest_schema()) // who works there may practise
        if (const auto theirs = records::Store::open(file)) {
            at_work = (*theirs)->setting(QStringLiteral("technician"));
            for (const auto& person : work::Lab(*theirs).diary->staff())
                if (person.active) people << person.name;
        }
    const auto opened =
        practice ? work::open_practice(work::practice_folder(folder), people) : open_lab(file, play.empty());
    if (!opened) {
        const QString text = q(opened.messages().front().text);
        std::cerr << "fusain: " << text.toStdString() << "\n";
        if (play.empty()) QMessageBox::critical(nullptr, QStringLiteral("Fusain"), text);
        return 1;
    }
    std::unique_ptr<DemoRoom> room;
    QStringList lines;
    for (const std::string& name : ports) lines << QString::fromStdString(name);
    if (demo && !practice) {
        (*opened)->set_setting(QStringLiteral("demo"), QStringLiteral("yes"));
        set_demo_clock(QString::fromStdString(clock), speed);
        says.tell(was_there ? QStringLiteral("Today's bookings are put in …")
                            : QStringLiteral("The made-up lab is filled: people, instruments, a year of tests …"));
        auto why = fill_demo_lab(**opened);
        if (!why) why = fill_demo_day(*opened);
        if (why) {
            std::cerr << "fusain: " << why->text << "\n";
            return 1;
        }
        says.tell(QStringLiteral("The virtual instruments are switched on …"));
        room = std::make_unique<DemoRoom>(speed);
        if (!room->trouble().isEmpty()) std::cerr << "fusain: " << room->trouble().toStdString() << "\n";
        lines = room->lines();
        (*opened)->set_setting(QStringLiteral("watched_folder"), room->printouts());
    }
    if (practice) {
        if ((*opened)->setting(QStringLiteral("technician")).isEmpty() && !at_work.isEmpty())
            (*opened)->set_setting(QStringLiteral("technician"), at_work);
        room = std::make_unique<DemoRoom>(speed);
        if (!room->trouble().isEmpty()) std::cerr << "fusain: " << room->trouble().toStdString() << "\n";
        lines = room->lines();
    }
    MainWindow window(*opened, lines);
    if (practice) {
        window.practise(*room);
    } else if (room) {
        room->listen_to(window.session());
        window.add_strip(room->make_strip());
    }
    const QStringList sides = QString::fromStdString(size).split('x');
    if (sides.size() == 2) window.resize(sides[0].toInt(), sides[1].toInt());
    window.show();
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

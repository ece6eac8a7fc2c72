// SPDX-License-Identifier: GPL-3.0-or-later
// The demo's player before anybody is measured: the day, instruments, rules, clients.
#include "demo/player/demo_player.h"
#include "report/sheets/letters.h"

#include <QDir>
#include <QFile>
#include <QLineEdit>
#include <QListWidget>

namespace fusain::desk {

void DemoPlayer::play_day()
{
    shot("day");
    add_press(QStringLiteral("day_move"));
    for (int i = 0; i < 3; ++i) add_press(QStringLiteral("move_later"));
    shot("day-move");
    add_press(QStringLiteral("move_leave"));
    add_press(QStringLiteral("day_send"));
    add(
        QStringLiteral("keep a preparation sheet"), [] { return true; },
        [this] {
            const QDir outbox(report::outbox(window_.lab()));
            QStringList all = outbox.entryList({QStringLiteral("*.pdf")}, QDir::Files, QDir::Size | QDir::Reversed);
            for (const QString& name : all)
                if (name.startsWith(QStringLiteral("105-"))) all.prepend(name); // three methods on one morning
            if (!all.isEmpty())
                QFile::copy(outbox.filePath(all.front()), out_ + QStringLiteral("/preparation-sheet.pdf"));
        });
    add_press(QStringLiteral("day_book"));
    add(
        QStringLiteral("whom to book"), [] { return true; },
        [this] { window_.findChild<QLineEdit*>(QStringLiteral("book_search"))->setText(QStringLiteral("riou")); });
    for (const char* m : {"method_impedance", "method_air_displacement", "method_hydrostatic"})
        add_press(QString::fromLatin1(m));
    shot("booking");
    add(
        QStringLiteral("back to the day"), [] { return true; },
        [this] {
            window_.show_day();
            window_.show_clients();
        });
    press_room("instruments");
    pick_row("instruments", 0);
    shot("instruments");
    add_press(QStringLiteral("begin_check"));
    add_press(QStringLiteral("check_main"));
    for (int i = 0; i < 3; ++i) {
        add_press(QStringLiteral("check_main"));
        if (i == 1)
            add(
                QStringLiteral("picture of a check"), [this] { return can_press(QStringLiteral("check_main")); },
                [this] { picture(QStringLiteral("check")); });
    }
    add(
        QStringLiteral("the check is done"), [this] { return button(QStringLiteral("check_repeat")) != nullptr; },
        [this] { picture(QStringLiteral("check-done")); });
    add_press(QStringLiteral("check_main"));
    add_press(QStringLiteral("lab_hours"));
    shot("hours");
    add_press(QStringLiteral("add_instrument"));
    shot("instrument-form");
    press_room("rules");
    shot("rules");
    add_press(QStringLiteral("rules_impedance"));
    shot("protocol");
}

void DemoPlayer::play_clients()
{
    press_room("clients");
    add(
        QStringLiteral("type part of a name"), [] { return true; },
        [this] { window_.findChild<QLineEdit*>(QStringLiteral("search"))->setText(client_); });
    shot("clients");
    add_press(QStringLiteral("more"));
    add_press(QStringLiteral("erase_client"));
    shot("client-more");
    add_press(QStringLiteral("more"));
    add_press(QStringLiteral("add_client"));
    add(
        QStringLiteral("a double"), [] { return true; },
        [this] {
            for (const auto& [field, words] : {std::pair{"given_name", "alienor"}, std::pair{"family_name", "Quemener"},
                     std::pair{"birth_date", "1995-05-02"}}) {
                auto* e = window_.findChild<QLineEdit*>(QString::fromLatin1(field));
                e->setText(QString::fromLatin1(words));
                emit e->editingFinished();
            }
        });
    shot("client-form");
    add(
        QStringLiteral("back to the list"), [] { return true; },
        [this] {
            window_.show_clients();
            if (auto* search = window_.findChild<QLineEdit*>(QStringLiteral("search")))
                emit search->textChanged(search->text());
        });
    add_press(QStringLiteral("import_list"));
    add(
        QStringLiteral("a list to import"), [] { return true; },
        [this] {
            QFile list(out_ + QStringLiteral("/list.csv"));
            if (!list.open(QIODevice::WriteOnly)) return;
            list.write(
                "Vorname;Nachname;Geburtsdatum;Geschlecht;Gr\xF6sse;Telefon\nKatell;Le Bris;30.12.1998;w;173;0151 "
                "21\nMalo;Stephan;27.05.1989;m;1,72;\nYuna;Floch;05.10.2003;x;166;\nGwenn;Riou;08.03.1992;w;168;\n");
            list.close();
            window_.findChild<ImportPage*>()->read(list.fileName());
        });
    add(
        QStringLiteral("picture of the import"), [this] { return can_press(QStringLiteral("import_now")); },
        [this] { picture(QStringLiteral("import")); });
    add_press(QStringLiteral("import_leave"));
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/shell/program.h"

#include "desk/parts/theme.h"
#include "desk/shell/main_window.h"

#include <CLI/CLI.hpp>

#include <QApplication>
#include <QMessageBox>
#include <QProgressDialog>
#include <QStandardPaths>

#include <iostream>

namespace fusain::desk {

void add_to(CLI::App& options, Asked& asked)
{
    options.add_option("--lab", asked.lab, "Folder of the lab (default: the user's data folder)");
    options.add_option("--port", asked.ports,
        "Serial port of an instrument on the bench line, besides the lines that the lab keeps; once for each");
    options.add_option("--size", asked.size, "Window size, WIDTHxHEIGHT");
    options.add_option("--zoom", asked.zoom, "Text size, 1 = normal");
    options.add_flag("--night", asked.night, "Night theme");
}

QString Asked::folder(const QString& otherwise) const
{
    if (!lab.empty()) return QString::fromStdString(lab);
    return QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + '/' + otherwise;
}

QStringList Asked::lines() const
{
    QStringList out;
    for (const std::string& name : ports) out << QString::fromStdString(name);
    return out;
}

bool dress(const Asked& asked)
{
    QApplication::setApplicationName(QStringLiteral("fusain"));
    QApplication::setStyle(QStringLiteral("Fusion"));
    if (!look::load_fonts()) {
        std::cerr << "fusain: the fonts that ship with the program are missing; build it again\n";
        return false;
    }
    Theme::get().set_zoom(asked.zoom);
    Theme::get().set_night(asked.night);
    return true;
}

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

int could_not(const Message& why, bool shown)
{
    std::cerr << "fusain: " << why.text << "\n";
    if (shown) QMessageBox::critical(nullptr, QStringLiteral("Fusain"), q(why.text));
    return 1;
}

void Beginning::tell(const QString& words)
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

void show(MainWindow& window, const Asked& asked)
{
    const QStringList sides = QString::fromStdString(asked.size).split('x');
    if (sides.size() == 2) window.resize(sides[0].toInt(), sides[1].toInt());
    window.show();
}

} // namespace fusain::desk

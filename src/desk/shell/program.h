// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/store/store.h"

#include <QLabel>

#include <memory>

namespace CLI {
class App;
}

/// What the programs with a window have in common: how they are asked for, what comes before the window.
namespace fusain::desk {

class MainWindow;

struct Asked {
    std::string lab, size = "1280x800";
    std::vector<std::string> ports;
    double speed = 1, zoom = 1;
    bool night = false;
    /// Folder and file of the lab; `otherwise`: below the user's data where nothing is asked for.
    QString folder(const QString& otherwise) const;
    QStringList lines() const;
};
void add_to(CLI::App& options, Asked& asked);

/// Fonts, style and theme. False, and said: the program was built without its fonts.
bool dress(const Asked& asked);

/// Bringing an older lab up to date may take minutes: it shows how far it is, and can be cancelled.
Outcome<std::shared_ptr<records::Store>> open_lab(const QString& file, bool shown);
/// On the standard error, and in a box where somebody looks. Returned: what the program ends with.
int could_not(const Message& why, bool shown);

/// A small window that says what is done before the real one is there: seconds may go by.
class Beginning {
public:
    void tell(const QString& words);
    void close() { box_.reset(); }

private:
    std::unique_ptr<QLabel> box_;
};

void show(MainWindow& window, const Asked& asked);

} // namespace fusain::desk

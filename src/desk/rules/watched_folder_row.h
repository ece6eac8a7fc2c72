// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/files/incoming.h"

namespace fusain::desk {

/// The folder in which printouts appear: none, or one that is watched.
class WatchedFolderRow : public QWidget {
    Q_OBJECT
public:
    explicit WatchedFolderRow(work::Incoming& incoming, QWidget* parent = nullptr);
    Q_INVOKABLE void take(const QString& folder);

private:
    void show_it();
    work::Incoming& incoming_;
    QLabel *now_, *said_;
    KeyButton* none_;
};

} // namespace fusain::desk

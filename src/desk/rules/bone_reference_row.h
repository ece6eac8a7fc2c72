// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/lab/lab.h"

namespace fusain::desk {

/// The lab's reference for bone mineral: none, or a table that was loaded, with its sources.
class BoneReferenceRow : public QWidget {
    Q_OBJECT
public:
    explicit BoneReferenceRow(work::Lab& lab, QWidget* parent = nullptr);
    /// From a file; what is wrong with it is said with its line, and what stood before stays.
    Q_INVOKABLE void take_file(const QString& path);

private:
    void show_it();
    work::Lab& lab_;
    QLabel *now_, *said_;
    KeyButton* none_;
};

} // namespace fusain::desk

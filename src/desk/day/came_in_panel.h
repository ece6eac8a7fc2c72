// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/files/incoming.h"

namespace fusain::desk {

/// The printouts that came in and that nobody has taken: whose each may be, and the way there.
class CameInPanel : public QWidget {
    Q_OBJECT
public:
    CameInPanel(work::Lab& lab, work::Incoming& incoming, QWidget* parent = nullptr);
    void begin();
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }

signals:
    void left();
    void to_booking(long id);
    void to_visit(long id);
    void keep_with(long visit, const QString& path); ///< of a visit whose numbers came another way

private:
    void list();
    void show_chosen();
    const work::CameIn* chosen() const;
    void go();
    void set_aside();
    work::Lab& lab_;
    work::Incoming& incoming_;
    std::function<QString()> who_;
    std::vector<work::Claim> claims_; ///< of what waits, in its order
    QListWidget* list_;
    QLabel *title_, *said_;
    KeyButton *go_, *open_, *aside_;
};

} // namespace fusain::desk

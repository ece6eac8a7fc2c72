// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts.h"
#include "desk/session.h"

#include <QBoxLayout>
#include <QComboBox>

/// One panel a step of the visit. Each says in its heading what to do now, and has one main key.
namespace fusain::desk {

class SwingView;

class Panel : public QWidget {
    Q_OBJECT
public:
    Panel(Session& session, bench::Step step, const QString& title, const QString& hint);
    bench::Step step() const { return step_; }
    virtual void enter() {}       ///< the panel comes on the screen
    virtual void on_changed() {}  ///< the log has grown
    virtual void on_live() {}     ///< the instruments have spoken

signals:
    void go_on();  ///< this step is done
    void give_up(); ///< back to the clients

protected:
    void say(const QString& title, const QString& hint);
    KeyButton* key(const QKeySequence& sequence, const QString& cap, const QString& words, bool main, const char* name);
    Session& session_;
    bench::Step step_;
    QVBoxLayout* body_;
    QHBoxLayout* keys_;
    QLabel *title_, *hint_;
};

Panel* make_who_panel(Session& session);
Panel* make_stops_panel(Session& session);
Panel* make_mass_panel(Session& session);
Panel* make_lungs_panel(Session& session);
Panel* make_zero_panel(Session& session);
Panel* make_water_panel(Session& session);
Panel* make_trials_panel(Session& session);

} // namespace fusain::desk

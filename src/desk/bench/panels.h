// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/files/incoming.h"
#include "work/visit/session.h"

#include <QBoxLayout>
#include <QComboBox>

/// One panel a step of a visit. Each says in its heading what to do now, and has one main key.
namespace fusain::desk {

/// What a channel said last, and how long ago, when that is too long to be taken: "34.6 °C, 2 min ago". Else nothing.
QString old_words(const bench::Live& live, bench::Channel channel, Measure measure);

class Panel : public QWidget {
    Q_OBJECT
public:
    Panel(work::Session& session, bench::Step step, const QString& title, const QString& hint);
    bench::Step step() const { return step_; }
    virtual void enter() {}                     ///< the panel comes on the screen
    virtual void on_changed() {}                ///< the log has grown
    virtual void on_live() {}                   ///< the instruments have spoken
    virtual void offer_from(work::Incoming&) {} ///< printouts that come in while it is on the screen

signals:
    void go_on();   ///< this step is done
    void give_up(); ///< back to the clients
    void to_step(fusain::bench::Step step);

protected:
    void say(const QString& title, const QString& hint);
    /// The visit that is open has this step: what comes of another method's is none of this panel's.
    bool of_this_visit() const;
    KeyButton* key(const QKeySequence& sequence, const QString& cap, const QString& words, bool main, const char* name);
    work::Session& session_;
    bench::Step step_;
    QVBoxLayout* body_;
    WrappedRow* keys_;
    QLabel *title_, *hint_;
};

/// A reading in large figures, beside it its doubt and what checks it.
class ReadingRow : public QWidget {
    Q_OBJECT
public:
    ReadingRow();
    void show_reading(const QString& number, const QString& doubt, const QString& check, bool stands);
    void clear() { show_reading({}, {}, {}, true); }

private:
    QLabel *number_, *doubt_, *check_;
};

/// Why something is thrown out: one key a reason.
class ReasonRow : public QWidget {
    Q_OBJECT
public:
    explicit ReasonRow(std::initializer_list<const char*> reasons);

signals:
    void chosen(const QString& reason);
};

/// The panel of a step. Every step but the result has one.
Panel* make_panel(bench::Step step, work::Session& session);

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/shell/main_window.h"

#include <QElapsedTimer>

namespace fusain::desk {

/// Plays one whole test in the real window, by its keys, and leaves pictures and sheets. Used by `fusain-demo
/// --play`.
class DemoPlayer : public QObject {
    Q_OBJECT
public:
    /// `client`: what is typed into the search; the first found is tested.
    DemoPlayer(MainWindow& window, const QString& out_folder, const QString& client, QObject* parent = nullptr);
    void play();

signals:
    void finished(bool worked);

private:
    struct Move {
        QString name;
        std::function<bool()> ready;
        std::function<void()> act;
    };
    void step();
    void give_out(); ///< the client's sheet, by name where the result asks to be measured again
    void picture(const QString& name);
    void shot_when(const char* name, std::function<bool()> ready);
    void answer_screening(bool with_pictures);
    void play_analyser();
    void shot(const char* name);
    void press_room(const char* name);
    void pick_row(const char* list, int row);
    void play_day();
    void play_clients();
    void play_chamber();
    void play_more_runs();
    void play_lung_gas();
    void play_tank();
    void play_trial(int i);
    void play_printout();
    void play_xray();
    void play_course();
    void keep_sheets(const QString& prefix);
    void press(const QString& object_name);
    QAbstractButton* button(const QString& object_name) const;
    bool can_press(const QString& object_name) const;
    void add(const QString& name, std::function<bool()> ready, std::function<void()> act);
    void add_press(const QString& object_name);
    void add_start(const QString& place); ///< the key that begins a visit there, wherever it stands in the row
    /// When the instruments have told so much more of themselves: a technician who watches them for that long.
    void watch(const QString& name, int tells, std::function<void()> act);
    /// What has come so far: rows, seconds of signals, events. As long as it changes, it is waited.
    QString progress() const;
    MainWindow& window_;
    QString out_, client_;
    std::vector<Move> moves_;
    std::size_t at_ = 0;
    long tells_ = 0; ///< of the instruments, so far
    QString before_; ///< progress at the last step
    int still_ = 0;  ///< steps since it changed
    QElapsedTimer begun_;
    QTimer timer_;
};

} // namespace fusain::desk

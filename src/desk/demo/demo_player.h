// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/shell/main_window.h"

#include <QElapsedTimer>

namespace fusain::desk {

/// Plays one whole test in the real window, by its keys, and leaves pictures and sheets. Used by `fusain --demo
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
        double patience_s = 30;
    };
    void step();
    void give_out(); ///< the client's sheet, by name where the result asks to be measured again
    void picture(const QString& name);
    void shot_when(const char* name, std::function<bool()> ready);
    void answer_screening(bool with_pictures);
    void play_analyser();
    void play_xray();
    void play_course();
    void keep_sheets(const QString& prefix);
    void press(const QString& object_name);
    QAbstractButton* button(const QString& object_name) const;
    bool can_press(const QString& object_name) const;
    void add(const QString& name, std::function<bool()> ready, std::function<void()> act, double patience_s = 30);
    void add_press(const QString& object_name, double patience_s = 30);
    MainWindow& window_;
    QString out_, client_;
    std::vector<Move> moves_;
    std::size_t at_ = 0;
    QElapsedTimer since_;
    QTimer timer_;
};

} // namespace fusain::desk

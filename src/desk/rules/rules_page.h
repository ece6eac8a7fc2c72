// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/files/incoming.h"
#include "desk/parts/parts.h"

#include <QStackedWidget>
#include <QTableWidget>
#include <QVBoxLayout>

namespace fusain::desk {

/// House rules and protocols: the lab's schools, decided once; every version is kept.
class RulesPage : public QWidget {
    Q_OBJECT
public:
    RulesPage(work::Lab& lab, work::Incoming& incoming, QWidget* parent = nullptr);
    void refresh();
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }
    /// Takes a protocol from a file; what is wrong with it is said with file and line.
    void take_file(const QString& path);

signals:
    void trouble(const QString& text);

protected:
    void resizeEvent(QResizeEvent*) override;

private:
    void show_house();
    void show_protocol(Method method);
    void show_rule();
    void keep_rule();
    void say(const QString& words);
    work::Lab& lab_;
    work::Incoming& incoming_;
    std::function<QString()> who_;
    std::vector<WordButton*> tabs_;
    QStackedWidget* pages_;
    QVBoxLayout* house_;
    QTableWidget* rules_;
    protocol::Protocol shown_{all_methods().front()}; ///< until another is shown
    QLabel *protocol_title_, *rule_title_, *rule_reason_, *versions_, *said_;
    QWidget* editor_;
    std::vector<QLineEdit*> limits_;
    QLineEdit *prepare_, *prepare_min_, *finding_, *reason_;
    QVBoxLayout* limit_rows_;
};

} // namespace fusain::desk

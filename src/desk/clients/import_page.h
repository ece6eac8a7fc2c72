// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/shell/parts.h"
#include "records/people/people.h"

#include <QProgressBar>
#include <QTableWidget>
#include <QThread>

#include <atomic>

namespace fusain::desk {

/// Importing a client list: preview, columns, what is wrong row by row, then all or nothing. Reading, checking and
/// writing run in a thread of their own and can be stopped.
class ImportPage : public QWidget {
    Q_OBJECT
public:
    explicit ImportPage(std::shared_ptr<records::Store> store, QWidget* parent = nullptr);
    ~ImportPage() override;
    void begin();
    void read(const QString& path);

signals:
    void done(int imported);
    void left();
    void progressed(qulonglong rows);

private:
    void choose();
    void preview();
    void check();
    void run_import();
    void show_check();
    void work(std::function<void()> job, std::function<void()> then, const QString& words);
    std::map<QString, int> mapping() const;
    std::shared_ptr<records::Store> store_;
    records::Table table_;
    std::optional<records::ImportCheck> check_;
    QLabel *title_, *said_, *trouble_;
    QTableWidget *preview_, *errors_;
    std::map<QString, ChoiceBox*> columns_;
    QWidget* mapping_box_;
    QProgressBar* progress_;
    KeyButton *choose_, *import_, *stop_, *leave_;
    QThread* thread_ = nullptr;
    std::atomic<bool> stop_wanted_{false};
    bool busy_ = false;
};

} // namespace fusain::desk

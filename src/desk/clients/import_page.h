// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "desk/clients/result_mapping.h"
#include "records/people/people.h"

#include <QProgressBar>
#include <QTableWidget>
#include <QThread>

#include <atomic>

namespace fusain::desk {

/// Importing a list of clients, or a table of results that were told elsewhere: preview, columns, what is wrong row by
/// row, then all or nothing. Reading, checking and writing run in a thread of their own and can be stopped.
class ImportPage : public QWidget {
    Q_OBJECT
public:
    explicit ImportPage(std::shared_ptr<records::Store> store, QWidget* parent = nullptr);
    ~ImportPage() override;
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }
    void begin();
    void read(const QString& path);

signals:
    void done(const QString& words); ///< what was taken over
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
    bool is_results() const { return kind_->currentIndex() == 1; }
    template <class Found, class Job>
    void check_with(std::optional<Found>& into, Job job);
    void show_found(
        std::size_t good, const std::vector<records::RowTrouble>& bad, const std::vector<records::RowTrouble>& doubles);
    void import_with(
        std::function<std::optional<Message>(records::Store&)> job, std::size_t rows, const QString& words);
    std::shared_ptr<records::Store> store_;
    records::Table table_;
    QString path_;
    std::optional<records::ImportCheck> check_;
    std::optional<records::results::Check> results_;
    std::function<QString()> who_;
    QLabel *title_, *said_, *trouble_;
    QWidget* kind_row_;
    ChoiceBox* kind_;
    ResultMapping* result_mapping_;
    QTableWidget *preview_, *errors_;
    std::map<QString, ChoiceBox*> columns_;
    QWidget *mapping_box_, *mapping_room_;
    QProgressBar* progress_;
    KeyButton *choose_, *import_, *stop_, *leave_;
    QThread* thread_ = nullptr;
    std::atomic<bool> stop_wanted_{false};
    bool busy_ = false, again_ = false; ///< again: a column was changed while the rows were looked at
};

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/files/scan_file.h"
#include "bench/xray/xray_events.h"
#include "core/xray/scan.h"
#include "desk/parts/typed_row.h"
#include "work/visit/session.h"

#include <QTimer>

#include <future>

class QGridLayout;

namespace fusain::desk {

/// A scan that does not come over a line: regions typed, a table of regions, or a map as a file.
class TypedScan : public QWidget {
    Q_OBJECT
public:
    explicit TypedScan(work::Session& session);
    ~TypedScan() override;
    void open();
    bool is_reading() const { return reading_.valid(); }

signals:
    void left();
    void changed(); ///< what it is doing

private:
    void take();
    void choose_file();
    Q_INVOKABLE void read(const QString& path);
    void read_table();
    void ask_about(const std::vector<std::string>& unknown);
    void read_map(const QString& path);
    void look();
    void keep_map();
    void bring(bench::ScanTaken scan);
    work::Session& session_;
    TypedRow* fields_row_;
    std::vector<NumberField*> fields_;
    QAbstractButton* head_in_trunk_;
    QLabel* said_;
    QWidget* asked_;
    QGridLayout* asked_rows_;
    KeyButton *take_, *file_key_, *agree_, *understood_;
    std::vector<std::pair<std::string, ChoiceBox*>> questions_;
    QString name_, sha_;
    std::string bytes_;
    std::optional<xray::Table> table_;
    std::optional<bench::ScanFile> map_;
    std::vector<std::string> of_another_;
    /// A map is read beside the window: its bytes, what they say, and what lies in it.
    struct ReadMap {
        QString sha;
        Outcome<bench::ScanFile> file;
        std::optional<Outcome<xray::Scan>> scan;
    };
    std::future<ReadMap> reading_;
    std::optional<Outcome<xray::Scan>> scan_;
    bench::Beat poll_;
};

} // namespace fusain::desk

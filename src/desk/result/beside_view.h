// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/visit/session.h"

#include <QGridLayout>

namespace fusain::desk {

/// The visit's result beside the nearest one of the same person by each other method of the same period: never joined.
class BesideView : public QWidget {
    Q_OBJECT
public:
    BesideView();
    /// Finds the other results. Reads the records: call it when the page comes on the screen, not at every change.
    void look(const work::Session& session);
    void show_result(const bench::Visit& visit, const std::optional<Result>& result);
    bool is_empty() const { return rows_.empty(); }

private:
    void add_column(const records::Snapshot& told, bool now);
    std::vector<records::Snapshot> others_;
    std::vector<report::BesideRow> rows_;
    Figure* figure_;
    QLabel* words_;
    QGridLayout* table_;
};

} // namespace fusain::desk

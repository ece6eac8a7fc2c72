// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "records/people/results_import.h"

class QGridLayout;

namespace fusain::desk {

/// Which column of a table of results holds what, in which unit: a line a column, with what stands in it.
class ResultMapping : public QWidget {
    Q_OBJECT
public:
    explicit ResultMapping(QWidget* parent = nullptr);
    /// `known`: how this layout was read last.
    void fill(const records::Table& table, const std::optional<records::results::Mapping>& known);
    records::results::Mapping mapping() const;

signals:
    void changed();

private:
    void show_units(std::size_t column);
    struct Line {
        QLabel *heading, *sample;
        ChoiceBox *what, *unit;
    };
    QWidget* columns_ = nullptr;
    QScrollArea* scroll_;
    std::vector<Line> lines_;
    QWidget* by_;
    ChoiceBox* method_;
    QLineEdit* error_;
};

} // namespace fusain::desk

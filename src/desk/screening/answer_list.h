// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QWidget>

#include <vector>

namespace fusain::desk {

/// The questions in their groups with what was answered, the current one marked; a click goes back to one.
class AnswerList : public QWidget {
    Q_OBJECT
public:
    struct Row {
        QString group, words, answer;
        int mark = 0;       ///< 0 open · 1 kept · 2 outside the rule · 3 a stop
        bool known = false; ///< from the record or the last visit
    };
    explicit AnswerList(QWidget* parent = nullptr);
    void show_rows(std::vector<Row> rows, int current);
    /// Where a row stands, with the heading above it.
    QRect place_of(int row) const;
    QSize sizeHint() const override;

signals:
    void chosen(int row);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;

private:
    int row_height() const;
    int head_height() const; ///< of a group's heading
    void lay_out();
    bool headed(std::size_t row) const { return row == 0 || rows_[row].group != rows_[row - 1].group; }
    std::vector<Row> rows_;
    std::vector<int> tops_; ///< of the rows
    int height_ = 0, current_ = -1;
};

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QLayout>

#include <memory>
#include <vector>

namespace fusain::desk {

/// Keys side by side; in further lines where the room is narrow or the text large. Hidden ones take no room, nothing is
/// cut.
class WrappedRow : public QLayout {
    Q_OBJECT
public:
    explicit WrappedRow(QWidget* parent = nullptr);

    void addItem(QLayoutItem* item) override { items_.emplace_back(item); }
    int count() const override { return static_cast<int>(items_.size()); }
    QLayoutItem* itemAt(int i) const override
    {
        return i >= 0 && i < count() ? items_[static_cast<std::size_t>(i)].get() : nullptr;
    }
    QLayoutItem* takeAt(int i) override;
    bool hasHeightForWidth() const override { return true; }
    Qt::Orientations expandingDirections() const override { return {}; } ///< room that is left goes to others
    int heightForWidth(int width) const override;
    QSize sizeHint() const override;    ///< all in one line
    QSize minimumSize() const override; ///< one in a line
    void setGeometry(const QRect& room) override;

private:
    struct Line {
        std::vector<QLayoutItem*> items;
        int width = 0, height = 0;
    };
    std::vector<Line> lines(int width) const;
    std::vector<std::unique_ptr<QLayoutItem>> items_;
};

} // namespace fusain::desk

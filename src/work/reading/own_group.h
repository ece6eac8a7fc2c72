// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/protocol.h"
#include "core/body/group.h"
#include "core/base/quantity.h"
#include "records/store/overview.h"

#include <QObject>
#include <QString>
#include <QThread>

#include <atomic>
#include <mutex>
#include <vector>

/// The lab's own clients as a group to stand in: the newest result of each by one method.
namespace fusain::work {

class OwnGroup : public QObject {
    Q_OBJECT
public:
    explicit OwnGroup(const QString& lab_file);
    ~OwnGroup() override;

    /// Reads the lab's results anew, in a thread of its own: some seconds for 200 000 of them.
    void look_again();
    bool is_read() const { return read_; }

    struct Whom {
        std::string method; ///< of one method only
        Sex sex = Sex::female;
        QString role;        ///< empty: everybody
        long but_client = 0; ///< not held against themselves
    };
    /// Nothing while it is being read, under twenty people, or for a quantity it does not keep (percent fat, fat-free
    /// and fat mass index). Never averages: the group is of one method.
    std::optional<group::Standing> standing(const Whom& whom, const Quantity& quantity, double value) const;

signals:
    void looked();

private:
    void load();
    const QString file_;
    QThread thread_;
    QObject* worker_;
    mutable std::mutex mutex_;
    std::vector<records::NewestResult> rows_;
    std::atomic<bool> read_ = false, stop_ = false;
};

} // namespace fusain::work

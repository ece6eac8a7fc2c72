// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <QObject>
#include <QString>

#include <atomic>
#include <thread>

namespace fusain::records {

/// Opening a lab checks its small tables; those that grow with every visit are looked through here, in a thread of its
/// own with a connection of its own, so that ten years of logs keep nobody waiting. Nothing is changed.
class Inspection : public QObject {
    Q_OBJECT
public:
    explicit Inspection(const QString& lab_file);
    ~Inspection() override; ///< stops it within a few milliseconds
    void begin();           ///< once whoever wants to hear of it is connected

signals:
    /// A page that cannot be read, or a body that is none: `lab_damaged`, with the table.
    void damaged(const fusain::Message& why);
    void finished(); ///< everything was looked through

private:
    QString lab_file_;
    std::thread thread_; ///< not one of Qt's: the thread sanitizer sees it end
    std::atomic<bool> stop_ = false;
};

} // namespace fusain::records

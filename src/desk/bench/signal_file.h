// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/recording_file.h"

#include <QObject>
#include <QThread>

#include <functional>

namespace fusain::desk {

/// A recording that is brought as a file: chosen, read in a thread of its own, handed over when it is read.
class SignalFile : public QObject {
    Q_OBJECT
public:
    using Reader = std::function<Outcome<work::Recording>(const QString& path)>;
    /// `reader` is made when a file is read, from what stands then.
    SignalFile(QWidget* parent, const char* name, std::function<Reader()> reader);
    ~SignalFile() override;
    void choose();
    Q_INVOKABLE void read(const QString& path);
    bool is_reading() const { return thread_ != nullptr; }

signals:
    void begun();
    void done(const std::shared_ptr<fusain::Outcome<fusain::work::Recording>>& read);

private:
    std::function<Reader()> reader_;
    QThread* thread_ = nullptr;
};

} // namespace fusain::desk

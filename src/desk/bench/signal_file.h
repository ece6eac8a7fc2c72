// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/lab/long_work.h"
#include "work/files/recording_file.h"

#include <QObject>

#include <functional>

namespace fusain::desk {

/// A recording that is brought as a file: chosen, read in a thread of its own, handed over when it is read.
class SignalFile : public QObject {
    Q_OBJECT
public:
    using Reader = std::function<Outcome<work::Recording>(const QString& path)>;
    /// `reader` is made when a file is read, from what stands then.
    SignalFile(QWidget* parent, const char* name, std::function<Reader()> reader);
    void choose();
    Q_INVOKABLE void read(const QString& path);
    bool is_reading() const { return reading_.is_running(); }

signals:
    void begun();
    void done(const std::shared_ptr<fusain::Outcome<fusain::work::Recording>>& read);

private:
    std::function<Reader()> reader_;
    work::LongWork reading_;
};

} // namespace fusain::desk

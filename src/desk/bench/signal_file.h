// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/lab/long_work.h"

#include <QObject>

#include <functional>
#include <memory>

namespace fusain::desk {

/// A recording that is brought as a file: chosen, read in a thread of its own, handed over when it is read.
class SignalFile : public QObject {
    Q_OBJECT
public:
    /// Reads in the thread; what it returns is done in the window's.
    using Reader = std::function<std::function<void()>(const QString& path)>;
    template <class Read, class Then>
    static Reader reader(Read read, Then then)
    {
        return [read, then](const QString& path) {
            const auto found = std::make_shared<decltype(read(path))>(read(path));
            return [then, found] { then(std::move(*found)); };
        };
    }
    /// `reader` is made when a file is read, from what stands then.
    SignalFile(QWidget* parent, const char* name, std::function<Reader()> reader);
    void choose();
    Q_INVOKABLE void read(const QString& path);
    bool is_reading() const { return reading_.is_running(); }

signals:
    void begun();

private:
    std::function<Reader()> reader_;
    work::LongWork reading_;
};

} // namespace fusain::desk

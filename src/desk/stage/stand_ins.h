// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/visit/session.h"

#include <functional>

namespace fusain::desk {

/// The virtual instruments of the demo and of the practice bench, and their client, who hears what the technician says.
/// The program that measures knows nothing of them but their lines.
class StandIns : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;
    /// Names of their lines, tank room first; empty when one could not be started.
    const QStringList& lines() const { return lines_; }
    QString trouble() const { return trouble_; }
    /// The true body of a client, in the words of the stand-ins; empty: not known.
    using Bodies = std::function<QString(const records::Client&)>;
    /// The virtual client is whoever is measured, and hears what is said to him.
    void listen_to(work::Session& session, const Bodies& bodies = {});
    /// Everybody hears it; whom it does not concern does not know the word.
    virtual void direct(const QString& words) = 0;
    /// One instrument alone ("tank", "table"); what it answers comes as `answered`.
    virtual void ask(const QString& instrument, const QString& words) = 0;

signals:
    void answered(const QString& words);

protected:
    QStringList lines_;
    QString trouble_;

private:
    long for_client_ = 0;
    long printed_for_ = 0; ///< visit whose client has stood on the instrument that prints
};

} // namespace fusain::desk

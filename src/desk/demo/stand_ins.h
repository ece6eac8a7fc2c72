// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/session.h"

#include <QWidget>

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
    void listen_to(work::Session& session);
    /// Everybody hears it; whom it does not concern does not know the word.
    virtual void direct(const QString& words) = 0;
    /// What the tank answers to a direction comes as `answered`.
    virtual void ask_tank(const QString& words) = 0;

    /// A strip that says that this is a demo, and lets things go wrong on purpose.
    QWidget* make_strip();

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

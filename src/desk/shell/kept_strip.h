// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "work/lab/long_work.h"
#include "work/visit/session.h"

namespace fusain::desk {

/// The files that are kept with the visit on the screen: a printout, a picture, the instrument's own table. Brought by
/// a dialog or dropped on the window; opened with a click, taken away with a reason.
class KeptStrip : public QWidget {
    Q_OBJECT
public:
    explicit KeptStrip(work::Session& session, QWidget* parent = nullptr);
    void refresh();
    bool holds_any() const { return !names_.empty(); }
    void choose();
    void bring(const QStringList& paths);

signals:
    void trouble(const QString& text);
    void note(const QString& text);
    void refreshed();

private:
    void bring_next();
    void open(const bench::Attached& file);
    void menu_of(const bench::Attached& file, QWidget* at);
    work::Session& session_;
    WrappedRow* row_;
    KeyButton* key_;
    QLabel* words_;
    std::vector<QWidget*> names_;
    QStringList waiting_; ///< still to be brought, one after the other
    QStringList wrong_;   ///< of those that could not be
    work::LongWork bringing_;
};

} // namespace fusain::desk

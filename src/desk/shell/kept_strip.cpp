// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/shell/kept_strip.h"

#include "records/visits/attached.h"

#include <QDesktopServices>
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QMenu>
#include <QTemporaryDir>
#include <QUrl>

namespace fusain::desk {

namespace event = bench::event;

KeptStrip::KeptStrip(work::Session& session, QWidget* parent)
    : QWidget(parent), session_(session), row_(new WrappedRow(this)), words_(label("small"))
{
    setObjectName(QStringLiteral("kept_strip"));
    row_->setContentsMargins(22, 2, 22, 2);
    words_->setWordWrap(false);
    words_->setObjectName(QStringLiteral("kept_words"));
    key_ = new KeyButton({}, QStringLiteral("F9"), QStringLiteral("keep a file with the visit"));
    key_->setObjectName(QStringLiteral("keep_file"));
    key_->setToolTip(QStringLiteral("A printout, a picture, a table: %1. Or drop it on the window.")
                         .arg(QString::fromLatin1(records::attached::allowed_words)));
    row_->addWidget(key_);
    row_->addWidget(words_);
    connect(key_, &QAbstractButton::clicked, this, &KeptStrip::choose);
    connect(&session_, &work::Session::changed, this, &KeptStrip::refresh);
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        if (e.is<event::Attached>()) {
            emit note(QStringLiteral("%1 is kept with the visit.").arg(q(session_.visit().attached.back().name)));
            // after everybody has heard of this one: what is said of the next must stay
            QMetaObject::invokeMethod(this, &KeptStrip::bring_next, Qt::QueuedConnection);
        }
        if (e.is<event::Detached>())
            if (const auto gone = bench::read<event::Detached>(e.body))
                records::attached::drop(session_.store().database(), q(gone->sha256));
    });
}

void KeptStrip::refresh()
{
    for (QWidget* w : names_) w->deleteLater();
    names_.clear();
    if (!session_.is_open()) return;
    for (const bench::Attached& a : session_.visit().attached) {
        if (!a.taken_away.empty()) continue;
        auto* name = new WordButton(q(a.name), 14);
        name->setCheckable(false);
        name->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
        name->setObjectName(QStringLiteral("kept_file"));
        name->setToolTip(QStringLiteral("%1 kB, kept by %2").arg(a.bytes / 1000 + 1).arg(q(a.who)));
        connect(name, &QAbstractButton::clicked, this, [this, a, name] { menu_of(a, name); });
        row_->addWidget(name);
        name->show();
        names_.push_back(name);
    }
    words_->setText(names_.empty() ? QString() : QStringLiteral("kept with this visit:"));
    words_->setVisible(!names_.empty());
    row_->invalidate();
    emit refreshed();
}

void KeptStrip::choose()
{
    if (!session_.is_open()) return;
    bring(QFileDialog::getOpenFileNames(this, QStringLiteral("Keep with the visit"), QString(),
        QStringLiteral(
            "Printouts, pictures, tables (*.pdf *.png *.jpg *.jpeg *.tif *.tiff *.csv *.txt);;All files (*)")));
}

void KeptStrip::bring(const QStringList& paths)
{
    if (paths.isEmpty()) return;
    if (!session_.is_open())
        return emit trouble(QStringLiteral("A file is kept with a visit: open the visit first, then drop it again."));
    waiting_ << paths;
    bring_next();
}

/// One after the other, each read and written in a thread of its own: a signal may run meanwhile.
void KeptStrip::bring_next()
{
    if (bringing_.is_running()) return;
    if (waiting_.isEmpty()) {
        if (!wrong_.isEmpty()) emit trouble(std::exchange(wrong_, {}).join(' '));
        return;
    }
    bringing_.run([path = waiting_.takeFirst(), lab = session_.store().file()](
                      const work::LongWork::Progress&) { return records::attached::bring(lab, path); },
        [this, visit = session_.visit_id()](const Outcome<event::Attached>& kept) {
            if (visit != session_.visit_id()) { // another client is on the screen now
                waiting_.clear();
                wrong_ << QStringLiteral("The visit was left before the file was read: it is not kept.");
            } else if (kept && !session_.visit().attachment(kept->sha256)) {
                return session_.act(*kept);
            } else if (kept) {
                wrong_ << QStringLiteral("The same file is kept with this visit already, as %1.")
                              .arg(q(session_.visit().attachment(kept->sha256)->name));
            } else {
                wrong_ << q(kept.messages().front().text);
            }
            bring_next();
        });
}

void KeptStrip::open(const bench::Attached& file)
{
    const auto bytes = records::attached::read(session_.store().database(), file);
    if (!bytes) return emit trouble(q(bytes.messages().front().text));
    // another program gets a copy, under its own name, that is gone with this one
    static QTemporaryDir copies;
    const QString place = copies.filePath(q(file.sha256).left(8));
    const QString path = place + '/' + q(file.name).section('/', -1);
    QFile out(path);
    if (!QDir().mkpath(place) || !out.open(QIODevice::WriteOnly) || out.write(*bytes) != bytes->size())
        return emit trouble(QStringLiteral("No copy of %1 could be made to look at.").arg(q(file.name)));
    out.close();
    if (!QDesktopServices::openUrl(QUrl::fromLocalFile(path)))
        emit trouble(QStringLiteral("No program here opens %1. A copy lies at %2.").arg(q(file.name), path));
}

void KeptStrip::menu_of(const bench::Attached& file, QWidget* at)
{
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("kept_menu"));
    connect(menu->addAction(QStringLiteral("Open it")), &QAction::triggered, this, [this, file] { open(file); });
    menu->addSeparator();
    for (const char* reason : {"it belongs to somebody else", "it is the wrong file", "a better copy is kept"})
        connect(menu->addAction(QStringLiteral("Take it away: %1").arg(QString::fromLatin1(reason))),
            &QAction::triggered, this, [this, file, reason] {
                session_.act(event::Detached{file.sha256, reason});
            });
    menu->popup(at->mapToGlobal(at->rect().topLeft()) - QPoint(0, menu->sizeHint().height()));
}

} // namespace fusain::desk

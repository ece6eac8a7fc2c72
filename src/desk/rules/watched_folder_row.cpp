// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/rules/watched_folder_row.h"

#include <QFileDialog>
#include <QGridLayout>

namespace fusain::desk {

WatchedFolderRow::WatchedFolderRow(work::Incoming& incoming, QWidget* parent)
    : QWidget(parent), incoming_(incoming), now_(label("text")), said_(label("trouble"))
{
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 8, 0, 8);
    grid->setHorizontalSpacing(24);
    grid->setColumnStretch(0, 2);
    grid->setColumnStretch(1, 10);
    grid->addWidget(label("heading", QStringLiteral("Where printouts appear")), 0, 0, Qt::AlignTop);
    now_->setObjectName(QStringLiteral("watched_folder_now"));
    said_->setObjectName(QStringLiteral("watched_folder_said"));
    grid->addWidget(now_, 0, 1, Qt::AlignTop);
    grid->addWidget(said_, 1, 1);
    auto* keys = new WrappedRow;
    auto* choose = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+W")), QStringLiteral("Ctrl W"), QStringLiteral("watch a folder"));
    choose->setObjectName(QStringLiteral("watched_folder_choose"));
    none_ = new KeyButton({}, QStringLiteral("×"), QStringLiteral("none any more"));
    none_->setObjectName(QStringLiteral("watched_folder_none"));
    keys->addWidget(choose);
    keys->addWidget(none_);
    grid->addLayout(keys, 2, 1);
    connect(choose, &QAbstractButton::clicked, this, [this] {
        const QString path = QFileDialog::getExistingDirectory(
            this, QStringLiteral("The folder in which printouts appear"), incoming_.folder());
        if (!path.isEmpty()) take(path);
    });
    connect(none_, &QAbstractButton::clicked, this, [this] { take({}); });
    connect(&incoming_, &work::Incoming::changed, this, &WatchedFolderRow::show_it);
    show_it();
}

void WatchedFolderRow::take(const QString& folder)
{
    const auto why = incoming_.watch(folder);
    said_->setText(why ? QStringLiteral("◆ ") + q(why->text) : QString());
    show_it();
}

void WatchedFolderRow::show_it()
{
    none_->setVisible(!incoming_.folder().isEmpty());
    said_->setVisible(!said_->text().isEmpty());
    const QString state = !incoming_.trouble().isEmpty() ? QStringLiteral("◆ ") + incoming_.trouble()
                          : incoming_.waiting().empty()
                              ? QStringLiteral("Nothing waits.")
                              : QStringLiteral("%1 waiting (Day, I).").arg(incoming_.waiting().size());
    now_->setText(
        incoming_.folder().isEmpty()
            ? QStringLiteral("None. A folder on this computer, a share or a stick can be watched: a printout that "
                             "appears there is offered at its instrument's bench. Nothing is taken by itself.")
            : QStringLiteral("%1\n%2").arg(incoming_.folder(), state));
}

} // namespace fusain::desk

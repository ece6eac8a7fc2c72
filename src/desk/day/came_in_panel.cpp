// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/day/came_in_panel.h"

#include <QDesktopServices>
#include <QUrl>
#include <QVBoxLayout>

namespace fusain::desk {

CameInPanel::CameInPanel(work::Lab& lab, work::Incoming& incoming, QWidget* parent)
    : QWidget(parent), lab_(lab), incoming_(incoming), list_(list_of_words()), title_(label("title")),
      said_(label("text"))
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(34, 22, 34, 16);
    column->setSpacing(10);
    title_->setObjectName(QStringLiteral("came_in_title"));
    said_->setObjectName(QStringLiteral("came_in_said"));
    list_->setObjectName(QStringLiteral("came_in_list"));
    column->addWidget(title_);
    column->addWidget(said_);
    column->addWidget(list_, 1);
    auto* keys = new WrappedRow;
    keys->setSpacing(10);
    const auto key = [&](const QKeySequence& k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(k, QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        keys->addWidget(b);
        return b;
    };
    go_ = key(Qt::Key_Return, "⏎", "", "came_in_go");
    go_->set_main(true);
    open_ = key(Qt::Key_O, "O", "look at the file", "came_in_open");
    aside_ = key(Qt::Key_Delete, "Del", "set aside: it is of no visit here", "came_in_aside");
    auto* back = key(Qt::Key_Escape, "Esc", "back to the day", "came_in_leave");
    column->addLayout(keys);
    connect(list_, &QListWidget::currentRowChanged, this, &CameInPanel::show_chosen);
    connect(go_, &QAbstractButton::clicked, this, &CameInPanel::go);
    connect(open_, &QAbstractButton::clicked, this, [this] {
        const work::CameIn* c = chosen();
        if (c && !QDesktopServices::openUrl(QUrl::fromLocalFile(c->path)))
            said_->setText(QStringLiteral("◆ No program here opens it. It lies at %1.").arg(c->path));
    });
    connect(aside_, &QAbstractButton::clicked, this, &CameInPanel::set_aside);
    connect(back, &QAbstractButton::clicked, this, &CameInPanel::left);
    connect(&incoming_, &work::Incoming::changed, this, [this] {
        if (isVisible()) list();
    });
}

void CameInPanel::begin()
{
    list();
    list_->setFocus();
}

const work::CameIn* CameInPanel::chosen() const
{
    const auto row = static_cast<std::size_t>(list_->currentRow());
    return list_->currentRow() >= 0 && row < incoming_.waiting().size() ? &incoming_.waiting()[row] : nullptr;
}

void CameInPanel::list()
{
    const work::CameIn* before = chosen();
    const std::string kept = before ? before->path.toStdString() : "";
    const auto& all = incoming_.waiting();
    title_->setText(all.empty()       ? QStringLiteral("Nothing waits")
                    : all.size() == 1 ? QStringLiteral("One printout came in")
                                      : QStringLiteral("%1 printouts came in").arg(all.size()));
    said_->setText(!incoming_.trouble().isEmpty()
                       ? QStringLiteral("◆ ") + incoming_.trouble()
                       : QStringLiteral("From %1. Nothing is taken by itself: at its client's bench each is offered, "
                                        "and looked at there.")
                             .arg(incoming_.folder()));
    const QSignalBlocker quiet(list_);
    list_->clear();
    claims_.clear();
    int row = 0;
    for (const work::CameIn& c : all) {
        claims_.push_back(work::claim(lab_, c));
        QStringList of;
        for (const std::string& serial : c.instruments) of << lab_.instrument_name(serial);
        list_->addItem(
            QStringLiteral("%1 · %2\n%3")
                .arg(c.name,
                    of.isEmpty() ? QStringLiteral("of no instrument that is known") : of.join(QStringLiteral(" or ")),
                    c.trouble.isEmpty() ? claims_.back().words : QStringLiteral("◆ ") + c.trouble));
        if (c.path.toStdString() == kept) row = list_->count() - 1;
    }
    list_->setCurrentRow(row);
    show_chosen();
}

void CameInPanel::show_chosen()
{
    const work::CameIn* c = chosen();
    const work::Claim claim = c ? claims_[static_cast<std::size_t>(list_->currentRow())] : work::Claim{};
    go_->setEnabled(claim.visit || claim.booking);
    go_->set_words(claim.visit && claim.is_open ? QStringLiteral("to its visit")
                   : claim.visit                ? QStringLiteral("keep it with that visit")
                   : claim.booking              ? QStringLiteral("begin with its client")
                                                : QStringLiteral("its visit is not known"));
    open_->setEnabled(c != nullptr);
    aside_->setEnabled(c && !c->sha256.empty());
}

void CameInPanel::go()
{
    const work::CameIn* c = chosen();
    if (!c) return;
    const work::Claim claim = claims_[static_cast<std::size_t>(list_->currentRow())];
    if (claim.visit && claim.is_open) return emit to_visit(claim.visit);
    if (claim.visit) return emit keep_with(claim.visit, c->path);
    if (claim.booking) emit to_booking(claim.booking);
}

void CameInPanel::set_aside()
{
    const work::CameIn* c = chosen();
    const QString who = who_ ? who_() : QString();
    if (!c || who.isEmpty()) return;
    if (const auto why = incoming_.set_aside(c->sha256, who)) said_->setText(QStringLiteral("◆ ") + q(why->text));
}

} // namespace fusain::desk

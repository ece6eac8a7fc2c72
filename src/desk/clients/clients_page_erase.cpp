// SPDX-License-Identifier: GPL-3.0-or-later
// A client is deleted for good: what else holds them, and what goes along.
#include "desk/clients/clients_page.h"

#include "records/file/regular.h"
#include "records/people/people.h"

#include <QFileInfo>
#include <QThread>

namespace fusain::desk {
namespace {

QString counted(qsizetype n, const char* one)
{
    return QStringLiteral("%1 %2%3").arg(n).arg(QString::fromLatin1(one), n == 1 ? QString() : QStringLiteral("s"));
}

/// The first few of them.
QString named_files(const QStringList& paths)
{
    constexpr qsizetype shown = 4;
    QStringList names;
    for (const QString& path : paths.mid(0, shown)) names << records::plain_name(path);
    const QString more = paths.size() > shown ? QStringLiteral(" and %1 more").arg(paths.size() - shown) : QString();
    return names.join(QStringLiteral(", ")) + more;
}

QString deletable_words(const records::AlsoHeld& held)
{
    QStringList out;
    if (!held.only_theirs.isEmpty()) out << counted(held.only_theirs.size(), "folder") + QStringLiteral(" handed out");
    if (!held.whole_labs.isEmpty())
        out << QStringLiteral("%1 of the whole lab")
                   .arg(held.whole_labs.size() == 1 ? QStringLiteral("1 copy")
                                                    : QStringLiteral("%1 copies").arg(held.whole_labs.size()));
    return out.join(QStringLiteral(" and "));
}

QString also(const records::AlsoHeld& held)
{
    QString out;
    if (const QString words = deletable_words(held); !words.isEmpty())
        out += QStringLiteral(" They are also in %1 (%2).").arg(words, named_files(held.deletable()));
    if (!held.tables.isEmpty())
        out += QStringLiteral(" Lists and letters name them among others: %1.").arg(named_files(held.tables));
    return out;
}

} // namespace

/// In a thread: a lab's folder may hold thousands of lists and letters.
struct ClientsPage::Looking {
    std::atomic<bool> stop = false;
    records::AlsoHeld found;
    std::unique_ptr<QThread> thread;
    ~Looking()
    {
        stop = true;
        if (thread) thread->wait();
    }
};

ClientsPage::~ClientsPage() = default;

void ClientsPage::look_before_erasing()
{
    const auto c = store_->client(shown_);
    if (!c) return;
    erase_number_->hide();
    erase_copies_->hide();
    trouble_->setText(
        QStringLiteral("The lab’s folder is looked through for what else holds %1 …").arg(c->full_name()));
    trouble_->show();
    looking_ = std::make_shared<Looking>();
    Looking* now = looking_.get();
    now->thread.reset(QThread::create(
        [now, file = store_->file(), client = *c] { now->found = records::also_held(file, client, now->stop); }));
    connect(now->thread.get(), &QThread::finished, this, [this, of = std::weak_ptr(looking_), id = c->id] {
        const auto done = of.lock();
        if (!done || done != looking_ || shown_ != id) return;
        held_ = done->found;
        ask_to_erase();
    });
    now->thread->start();
}

void ClientsPage::ask_to_erase()
{
    const auto c = store_->client(shown_);
    if (!c) return;
    trouble_->setText(
        QStringLiteral("Everything the lab holds on %1 is deleted for good: the record, %2, signals, "
                       "sheets. Only a count stays.%3 Copies in other places are yours to delete. Type "
                       "the number %4 and press Enter.")
            .arg(c->full_name(), counted(store_->visits_of(c->id).size(), "visit"), also(held_), c->number));
    erase_copies_->setVisible(!held_.deletable().isEmpty());
    erase_copies_->setChecked(false);
    name_copies();
    erase_number_->clear();
    erase_number_->setPlaceholderText(QStringLiteral("the client's number, to delete for good"));
    erase_number_->show();
    erase_number_->setFocus();
}

void ClientsPage::name_copies()
{
    erase_copies_->setText(
        QStringLiteral("%1  Ctrl K  delete %2 as well")
            .arg(erase_copies_->isChecked() ? QStringLiteral("●") : QStringLiteral("○"), deletable_words(held_)));
    erase_copies_->updateGeometry();
}

void ClientsPage::erase()
{
    const QString who = who_ ? who_() : QString();
    const auto c = store_->client(shown_);
    if (!c || who.isEmpty()) return;
    if (erase_number_->text().trimmed() != c->number) {
        trouble_->setText(QStringLiteral("◆ \"%1\" is not the number of %2 (%3). Nothing was deleted.")
                              .arg(erase_number_->text(), c->full_name(), c->number));
        return;
    }
    const bool with_copies = erase_copies_->isChecked();
    const auto why = records::erase(*store_, c->id, who, lab_.diary->zone());
    const bool gone = !store_->client(c->id);
    QStringList left = with_copies && gone ? records::remove_all(held_.deletable()) : QStringList();
    show_more(false);
    search_->clear();
    search();
    QString words =
        why ? QStringLiteral("◆ ") + q(why->text)
            : QStringLiteral("Deleted. What is left is a count: %1 so far.").arg(records::erased_count(*store_));
    if (!with_copies && gone) left = held_.deletable();
    left += gone ? held_.tables : QStringList();
    left.removeIf(
        [](const QString& path) { return !QFileInfo::exists(path); }); // the person's letters are gone with them
    if (!left.isEmpty()) words += QStringLiteral(" They are still named in %1.").arg(named_files(left));
    trouble_->setText(words);
    trouble_->show();
    lab_.say_changed();
}

} // namespace fusain::desk

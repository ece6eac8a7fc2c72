// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/first_day/first_day_page.h"

#include <QGridLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace fusain::desk {

FirstDayPage::FirstDayPage(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), title_(label("title")), lead_(label("text")), demo_(new QWidget)
{
    auto* whole = new QVBoxLayout(this);
    whole->setContentsMargins(0, 0, 0, 0);
    auto* page = new QWidget;
    auto* v = new QVBoxLayout(page);
    v->setContentsMargins(64, 40, 64, 24);
    v->setSpacing(6);
    title_->setObjectName(QStringLiteral("first_title"));
    v->addWidget(title_);
    v->addWidget(lead_);
    v->addSpacing(18);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(24);
    grid->setVerticalSpacing(4);
    grid->setColumnStretch(1, 1);
    steps_ = {make_step(grid, 1, "This lab: its name, its hours, who works here",
                  "Hours and time zone make the diary. Every value is kept with the name of who took it.",
                  "name the lab and its people", "", "", "first_lab"),
        make_step(grid, 2, "Its instruments",
            "Each one with the way its numbers come: on a line, read off and typed, or from files. All three are full "
            "ways of working.",
            "add an instrument", "L", "connect one that speaks", "first_instruments"),
        make_step(grid, 3, "The first client",
            "By hand, or the whole list at once; results of earlier tests come in the same way.", "add a client", "I",
            "import a list", "first_client")};
    v->addLayout(grid);
    v->addSpacing(14);
    v->addWidget(hairline(false));
    v->addSpacing(8);
    auto* d = new WrappedRow(demo_);
    d->setContentsMargins(0, 0, 0, 0);
    auto* demo = new KeyButton(Qt::Key_D, QStringLiteral("D"), QStringLiteral("look at the demo first"));
    demo->setObjectName(QStringLiteral("first_demo"));
    d->addWidget(demo);
    auto* told =
        label("small", QStringLiteral("A made-up lab with virtual instruments, in a window of its own. Nothing "
                                      "of it comes into yours."));
    told->setWordWrap(false);
    d->addWidget(told);
    v->addWidget(demo_);
    v->addStretch();
    whole->addWidget(new Scroll(page));
    connect(demo, &QAbstractButton::clicked, this, &FirstDayPage::to_demo);
    connect(steps_[0].key, &QAbstractButton::clicked, this, &FirstDayPage::to_people);
    connect(steps_[1].key, &QAbstractButton::clicked, this, &FirstDayPage::to_instruments);
    connect(steps_[1].also, &QAbstractButton::clicked, this, &FirstDayPage::to_lines);
    connect(steps_[2].key, &QAbstractButton::clicked, this, &FirstDayPage::to_client);
    connect(steps_[2].also, &QAbstractButton::clicked, this, &FirstDayPage::to_import);
    setFocusPolicy(Qt::StrongFocus);
}

FirstDayPage::Step FirstDayPage::make_step(QGridLayout* grid, int n, const char* heading, const char* words,
    const char* key_words, const char* also_key, const char* also_words, const char* name)
{
    const QString digit = QString::number(n);
    Step s{label("title", digit), label("heading", QString::fromUtf8(heading)),
        label("small", QString::fromUtf8(words)), label("text"),
        new KeyButton(QKeySequence(digit), digit, QString::fromUtf8(key_words)), nullptr};
    s.key->setObjectName(QString::fromLatin1(name));
    s.state->setObjectName(QString::fromLatin1(name) + QStringLiteral("_state"));
    auto* text = new QVBoxLayout;
    text->setSpacing(3);
    text->addWidget(s.heading);
    text->addWidget(s.words);
    text->addWidget(s.state);
    auto* keys = new WrappedRow;
    keys->addWidget(s.key);
    if (*also_key) {
        s.also = new KeyButton(
            QKeySequence(QString::fromLatin1(also_key)), QString::fromLatin1(also_key), QString::fromUtf8(also_words));
        s.also->setObjectName(QString::fromLatin1(name) + QStringLiteral("_also"));
        keys->addWidget(s.also);
    }
    text->addLayout(keys);
    const int row = grid->rowCount();
    grid->addWidget(s.number, row, 0, Qt::AlignTop | Qt::AlignRight);
    grid->addLayout(text, row, 1);
    grid->setRowMinimumHeight(row + 1, 16);
    return s;
}

bool FirstDayPage::is_needed() const
{
    return lab_.diary->instruments().empty() ||
           (lab_.store->count_clients(QString()) == 0 && lab_.store->count_clients(QString(), true) == 0);
}

void FirstDayPage::refresh()
{
    const auto instruments = lab_.diary->instruments();
    QStringList people;
    for (const auto& p : lab_.diary->staff())
        if (p.active) people << p.name;
    const QString name = lab_.store->setting(QStringLiteral("lab_name"));
    const int clients = lab_.store->count_clients(QString());
    const bool done[] = {!people.isEmpty() && !name.isEmpty(), !instruments.empty(), clients > 0};
    const auto todo = std::find(std::begin(done), std::end(done), false) - std::begin(done);
    title_->setText(todo == 0   ? QStringLiteral("Welcome. Three steps, and the first client can come")
                    : todo == 1 ? QStringLiteral("Now the instruments")
                    : todo == 2 ? QStringLiteral("Now the first client")
                                : QStringLiteral("Everything is there"));
    lead_->setText(todo < 3 ? QStringLiteral("Any order will do; what is done stays, and can be changed at any time.")
                            : QStringLiteral("The day (Alt 1) shows who comes; a client's record begins a test."));
    QStringList named;
    for (const auto& i : instruments) {
        const auto way = std::find_if(std::begin(records::ways), std::end(records::ways),
            [&](const records::Way& w) { return i.way == QString::fromLatin1(w.id); });
        named << (way == std::end(records::ways)
                      ? i.name
                      : QStringLiteral("%1 (%2)").arg(i.name, QString::fromUtf8(way->title)));
    }
    const QString states[] = {done[0] ? QStringLiteral("✓  %1 · %2 · %3")
                                            .arg(name, QString::fromLatin1(lab_.diary->zone().id()), people.join(", "))
                              : people.isEmpty() && !name.isEmpty()
                                  ? QStringLiteral("Somebody has to work here: add a name.")
                                  : QString(),
        done[1] ? QStringLiteral("✓  ") + named.join(QStringLiteral(" · ")) : QString(),
        done[2] ? QStringLiteral("✓  %1").arg(
                      clients == 1 ? QStringLiteral("one client") : QStringLiteral("%1 clients").arg(clients))
                : QString()};
    for (std::size_t i = 0; i < steps_.size(); ++i) {
        steps_[i].state->setText(states[i]);
        steps_[i].state->setVisible(!states[i].isEmpty());
        steps_[i].key->set_main(static_cast<std::ptrdiff_t>(i) == todo);
    }
    steps_[0].key->set_words(done[0] ? QStringLiteral("change it") : QStringLiteral("name the lab and its people"));
    steps_[1].key->set_words(done[1] ? QStringLiteral("add another") : QStringLiteral("add an instrument"));
    steps_[2].key->set_words(done[2] ? QStringLiteral("add another") : QStringLiteral("add a client"));
    demo_->setVisible(lab_.store->setting(QStringLiteral("demo")).isEmpty());
}

} // namespace fusain::desk

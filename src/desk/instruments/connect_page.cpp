// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/instruments/connect_page.h"

#include <QVBoxLayout>

#include <algorithm>

namespace fusain::desk {

ConnectPage::ConnectPage(work::Lab& lab, work::Session& session, QWidget* parent)
    : QWidget(parent), lab_(lab), session_(session), pages_(new Pages), list_(list_of_words()), none_(label("text")),
      wrong_(label("trouble")), known_(label("small")), form_(new ConnectForm(lab, session))
{
    auto* whole = new QVBoxLayout(this);
    whole->setContentsMargins(0, 0, 0, 0);
    whole->addWidget(pages_);
    auto* page = new QWidget;
    auto* v = new QVBoxLayout(page);
    v->setContentsMargins(34, 26, 34, 16);
    v->setSpacing(8);
    v->addWidget(label("title", QStringLiteral("Instruments that speak")));
    v->addWidget(
        label("small", QStringLiteral("Lines of this lab at this computer. Whatever has none is typed or comes "
                                      "from a file, and is worth as much.")));
    none_->setText(
        QStringLiteral("None yet. Plug an instrument in, then connect it: what arrives is shown, and the way "
                       "it speaks is proposed."));
    list_->setObjectName(QStringLiteral("lines"));
    list_->setSpacing(4);
    wrong_->setObjectName(QStringLiteral("lines_wrong"));
    v->addWidget(none_);
    v->addWidget(list_, 1);
    v->addWidget(wrong_);
    v->addWidget(known_);
    auto* keys = new WrappedRow;
    add_ = new KeyButton(Qt::Key_N, QStringLiteral("N"), QStringLiteral("connect an instrument"));
    add_->setObjectName(QStringLiteral("connect_one"));
    add_->set_main(true);
    change_ = new KeyButton(Qt::Key_Return, QStringLiteral("⏎"), QStringLiteral("look at it, change it"));
    change_->setObjectName(QStringLiteral("change_line"));
    forget_ = new KeyButton(Qt::Key_X, QStringLiteral("X"), QString());
    forget_->setObjectName(QStringLiteral("forget_line"));
    auto* leave = new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("back"));
    leave->setObjectName(QStringLiteral("lines_back"));
    for (auto* k : {add_, change_, forget_, leave}) keys->addWidget(k);
    v->addLayout(keys);
    pages_->addWidget(page);
    pages_->addWidget(form_);
    connect(add_, &QAbstractButton::clicked, this, [this] { begin({}); });
    connect(change_, &QAbstractButton::clicked, this, [this] {
        if (const auto line = current()) begin(line);
    });
    connect(forget_, &QAbstractButton::clicked, this, [this] {
        const auto line = current();
        if (!line) return;
        if (!std::exchange(asked_, true))
            return forget_->set_words(QStringLiteral("forget %1: press again").arg(q(line->title())));
        if (const auto why = work::forget_line(*lab_.store, line->place)) wrong_->setText(q(why->text));
        session_.set_lines(work::kept_lines(*lab_.store).lines);
        lab_.say_changed();
        refresh();
    });
    connect(list_, &QListWidget::currentRowChanged, this, [this] {
        asked_ = false;
        forget_->set_words(QStringLiteral("forget this line"));
    });
    connect(leave, &QAbstractButton::clicked, this, &ConnectPage::left);
    connect(form_, &ConnectForm::done, this, &ConnectPage::refresh);
    connect(&session_, &work::Session::live_changed, this, [this] {
        if (isVisible() && pages_->currentIndex() == 0) show_states();
    });
    setFocusPolicy(Qt::StrongFocus);
}

void ConnectPage::refresh()
{
    kept_ = work::kept_lines(*lab_.store);
    const auto known = work::decoders(*lab_.store);
    asked_ = false;
    pages_->setCurrentIndex(0);
    const int row = list_->currentRow();
    list_->clear();
    for (std::size_t i = 0; i < kept_.lines.size(); ++i) list_->addItem(QString());
    list_->setCurrentRow(std::clamp(row, 0, static_cast<int>(kept_.lines.size()) - 1));
    show_states();
    QStringList wrong;
    for (const Messages& some : {kept_.wrong, known.wrong})
        for (const Message& m : some) wrong << QStringLiteral("◆ ") + q(m.text);
    wrong_->setText(wrong.join('\n'));
    wrong_->setVisible(!wrong.isEmpty());
    known_->setText(QStringLiteral("%1 ways of speaking are known. One of your own is a small file in %2.")
                        .arg(known.all.size())
                        .arg(work::decoder_folder(*lab_.store)));
    const bool any = !kept_.lines.empty();
    none_->setVisible(!any);
    list_->setVisible(any);
    for (auto* k : {change_, forget_}) k->setVisible(any);
    forget_->set_words(QStringLiteral("forget this line"));
    setFocus(Qt::OtherFocusReason);
}

void ConnectPage::show_states()
{
    const auto& states = session_.live().lines;
    for (std::size_t i = 0; i < kept_.lines.size(); ++i) {
        const bench::LineSetup& l = kept_.lines[i];
        const auto at = std::find_if(states.begin(), states.end(), [&](const auto& s) { return s.place == l.place; });
        const bool heard = at != states.end() && at->connected;
        QStringList feeds;
        if (l.decoder)
            for (const bench::Channel c : l.decoder->feeds(l.feeds)) feeds << QString::fromUtf8(bench::row(c).title);
        const QString words =
            QStringLiteral("%1  %2%3\n     %4 · %5%6\n     %7")
                .arg(heard ? QStringLiteral("●") : QStringLiteral("○"), q(l.title()),
                    feeds.isEmpty() || feeds.size() > 3 || l.name.empty() ? QString()
                                                                          : QStringLiteral(" → ") + feeds.join(", "),
                    l.decoder ? q(l.decoder->title) : QStringLiteral("The bench line"), q(l.place),
                    l.is_serial() ? QStringLiteral(" at %1").arg(l.serial.baud) : QString(),
                    heard                 ? QStringLiteral("heard")
                    : at == states.end()  ? QStringLiteral("not listened to")
                    : at->trouble.empty() ? QStringLiteral("not heard yet")
                                          : QStringLiteral("◆ ") + q(at->trouble));
        QListWidgetItem* item = list_->item(static_cast<int>(i));
        if (item && item->text() != words) item->setText(words);
    }
}

std::optional<bench::LineSetup> ConnectPage::current() const
{
    const int row = list_->currentRow();
    if (row < 0 || row >= static_cast<int>(kept_.lines.size())) return std::nullopt;
    return kept_.lines[static_cast<std::size_t>(row)];
}

void ConnectPage::begin(const std::optional<bench::LineSetup>& line, const ConnectForm::Wanted& wanted)
{
    pages_->setCurrentIndex(1);
    form_->begin(line, wanted);
}

} // namespace fusain::desk

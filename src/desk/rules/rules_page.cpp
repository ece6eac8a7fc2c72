// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/rules/rules_page.h"

#include "bench/files/protocol_file.h"
#include "core/base/limits.h"
#include "desk/rules/bone_reference_row.h"
#include "desk/rules/watched_folder_row.h"
#include "records/base/clock.h"
#include "report/sheets/sheets.h"

#include <QFileDialog>
#include <QGridLayout>
#include <QHeaderView>
#include <QSaveFile>

namespace fusain::desk {

using protocol::Ask;

namespace {

QString limit_words(const protocol::Rule& r, const protocol::Book& book)
{
    const auto* question = book.question(r.question);
    if (!question) return QStringLiteral("told beforehand");
    if (question->ask == Ask::yes_no)
        return QStringLiteral("%1 → %2").arg(
            r.outside ? QStringLiteral("yes") : QStringLiteral("no"), QString::fromLatin1(protocol::title(r.verdict)));
    QStringList out;
    for (const auto& b : r.levels)
        out << (question->ask == Ask::clock
                    ? QStringLiteral("under %1 → %2")
                          .arg(q(protocol::span_words(b.limit)), QString::fromLatin1(protocol::title(b.verdict)))
                    : QStringLiteral("over %1 → %2")
                          .arg(q(limits::plain(b.limit)), QString::fromLatin1(protocol::title(b.verdict))));
    return out.join(QStringLiteral("; "));
}

} // namespace

RulesPage::RulesPage(work::Lab& lab, work::Incoming& incoming, QWidget* parent)
    : QWidget(parent), lab_(lab), incoming_(incoming), pages_(new Pages), rules_(new QTableWidget),
      protocol_title_(label("heading")), rule_title_(label("heading")), rule_reason_(label("small")),
      versions_(label("small")), said_(label("trouble")), editor_(new QWidget), prepare_(new QLineEdit),
      prepare_min_(new QLineEdit), finding_(new QLineEdit), reason_(new QLineEdit)
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(30, 18, 30, 14);
    v->addWidget(label("title", QStringLiteral("How this lab does it")));
    auto* tabs = new WrappedRow;
    tabs->setSpacing(18);
    const auto tab = [&](const QString& words, const char* name, auto show) {
        auto* w = new WordButton(words, 16);
        w->setObjectName(QString::fromLatin1(name));
        connect(w, &QAbstractButton::clicked, this, show);
        tabs_.push_back(w);
        tabs->addWidget(w);
    };
    tab(QStringLiteral("House rules"), "rules_house", [this] { show_house(); });
    for (Method m : all_methods())
        tab(QStringLiteral("Protocol: %1").arg(QString::fromLatin1(m->title)),
            (std::string("rules_") + m->word).c_str(), [this, m] { show_protocol(m); });
    v->addLayout(tabs);
    v->addWidget(hairline(false));
    v->addWidget(said_);
    said_->setObjectName(QStringLiteral("rules_said"));

    auto* house_box = new QWidget;
    house_ = new QVBoxLayout(house_box);
    house_->setContentsMargins(0, 8, 12, 0);
    pages_->addWidget(new Scroll(house_box));

    auto* page = new QWidget;
    auto* columns = new QHBoxLayout(page);
    columns->setContentsMargins(0, 8, 0, 0);
    columns->setSpacing(26);
    auto* left = new QVBoxLayout;
    left->setSpacing(5);
    left->addWidget(protocol_title_);
    left->addWidget(versions_);
    rules_->setObjectName(QStringLiteral("rules_table"));
    rules_->setColumnCount(3);
    rules_->setHorizontalHeaderLabels({QStringLiteral("rule"), QStringLiteral("outside it"), QStringLiteral("source")});
    rules_->verticalHeader()->hide();
    rules_->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    rules_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    rules_->setSelectionBehavior(QAbstractItemView::SelectRows);
    rules_->setSelectionMode(QAbstractItemView::SingleSelection);
    rules_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    rules_->setShowGrid(false);
    rules_->setWordWrap(true);
    rules_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
    rules_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
    rules_->horizontalHeader()->setSectionResizeMode(2, QHeaderView::Stretch);
    left->addWidget(rules_, 1);
    auto* keys = new WrappedRow;
    auto* open = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+O")), QStringLiteral("Ctrl O"), QStringLiteral("take a protocol file"));
    auto* write = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+E")), QStringLiteral("Ctrl E"), QStringLiteral("write it to a file"));
    keys->addWidget(open);
    keys->addWidget(write);
    left->addLayout(keys);
    columns->addLayout(left, 3);
    columns->addWidget(hairline(true));
    auto* e = new QVBoxLayout(editor_);
    e->setContentsMargins(0, 0, 12, 0);
    e->addWidget(rule_title_);
    rule_reason_->setObjectName(QStringLiteral("rule_reason"));
    e->addWidget(rule_reason_);
    e->addSpacing(6);
    auto* limit_box = new QWidget;
    limit_rows_ = new QVBoxLayout(limit_box);
    limit_rows_->setContentsMargins(0, 0, 0, 0);
    e->addWidget(limit_box);
    const auto field = [&](const char* title, QLineEdit* edit, const char* name) {
        e->addWidget(label("small", QString::fromLatin1(title)));
        edit->setObjectName(QString::fromLatin1(name));
        e->addWidget(edit);
    };
    field("On the client's sheet ({time} is the clock time)", prepare_, "rule_prepare");
    field("{time}: minutes before the test", prepare_min_, "rule_prepare_min");
    prepare_min_->setMaximumWidth(110);
    field("Said when it is not kept", finding_, "rule_finding");
    field("Reason", reason_, "rule_why");
    e->addSpacing(8);
    auto* keep = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+S")), QStringLiteral("Ctrl S"), QStringLiteral("keep as a new version"));
    keep->setObjectName(QStringLiteral("keep_rule"));
    keep->set_main(true);
    e->addStretch();
    auto* right = new QVBoxLayout; // the key stays in sight
    right->addWidget(new Scroll(editor_), 1);
    right->addWidget(keep);
    columns->addLayout(right, 2);
    pages_->addWidget(page);
    v->addWidget(pages_, 1);

    connect(rules_, &QTableWidget::currentCellChanged, this, [this] { show_rule(); });
    connect(keep, &QAbstractButton::clicked, this, &RulesPage::keep_rule);
    connect(open, &QAbstractButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(
            this, QStringLiteral("Protocol file"), lab_.folder(), QStringLiteral("Protocols (*.json)"));
        if (!path.isEmpty()) take_file(path);
    });
    connect(write, &QAbstractButton::clicked, this, [this] {
        const QString path = QFileDialog::getSaveFileName(this, QStringLiteral("Write the protocol"),
            lab_.folder() + QStringLiteral("/%1-v%2.json").arg(q(shown_.id)).arg(shown_.version),
            QStringLiteral("Protocols (*.json)"));
        if (path.isEmpty()) return;
        QSaveFile f(path);
        if (!f.open(QIODevice::WriteOnly) || f.write(QByteArray::fromStdString(bench::write_protocol(shown_))) < 0 ||
            !f.commit())
            return say(QStringLiteral("◆ %1 cannot be written: %2").arg(path, f.errorString()));
        say(QStringLiteral("Written to %1.").arg(path));
    });
}

void RulesPage::resizeEvent(QResizeEvent*)
{
    if (pages_->currentIndex() == 0 && isVisible()) show_house();
}

void RulesPage::say(const QString& words)
{
    said_->setText(words);
    said_->setVisible(!words.isEmpty());
}

void RulesPage::refresh()
{
    if (pages_->currentIndex() == 0)
        show_house();
    else
        show_protocol(shown_.method);
}

void RulesPage::show_house()
{
    for (std::size_t i = 0; i < tabs_.size(); ++i) tabs_[i]->setChecked(i == 0);
    pages_->setCurrentIndex(0);
    say({});
    while (QLayoutItem* item = house_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    const auto add = [this](QWidget* row) {
        house_->addWidget(row);
        house_->addWidget(hairline(false));
    };
    add(new WatchedFolderRow(incoming_));
    const auto now = lab_.rules.house();
    for (const house::Rule& r : lab_.rules.house_table()) {
        auto* row = new QWidget;
        auto* grid = new QGridLayout(row);
        grid->setContentsMargins(0, 8, 0, 8);
        grid->setHorizontalSpacing(24);
        grid->setColumnStretch(0, 2);
        grid->setColumnStretch(1, 5);
        grid->setColumnStretch(2, 5);
        grid->addWidget(label("heading", q(r.question)), 0, 0, Qt::AlignTop);
        auto* box = new ChoiceBox;
        box->setObjectName(QStringLiteral("house_") + q(r.id));
        for (const house::Option& o : r.options)
            box->addItem(
                q(o.title) + (o.id == r.default_id && r.options.size() > 1 ? QStringLiteral("  (default)") : QString()),
                q(o.id));
        box->setCurrentIndex(std::max(0, box->findData(q(now.at(r.id)))));
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(24);
        grid->addWidget(box, 0, 1, Qt::AlignTop);
        auto* why = label("small",
            QStringLiteral("Default because: %1\nChanges: %2. (%3)").arg(q(r.reason), q(r.changes), q(r.source)));
        why->ensurePolished();
        why->setMinimumHeight(why->heightForWidth(width() * 9 / 25)); // a scroll area would squeeze a wrapped label
        grid->addWidget(why, 0, 2, Qt::AlignTop);
        add(row);
        connect(box, &QComboBox::activated, this, [this, box, id = r.id] {
            const QString who = who_ ? who_() : QString();
            if (who.isEmpty()) return show_house();
            if (const auto refused = lab_.rules.choose(id, box->currentData().toString().toStdString(), who))
                return emit trouble(q(refused->text));
            say(QStringLiteral("Kept as version %1 of the house rules, %2. Results that are stored keep the rules they "
                               "were made with.")
                    .arg(lab_.rules.house_version())
                    .arg(who));
            lab_.say_changed();
        });
    }
    add(new BoneReferenceRow(lab_));
    const auto versions = lab_.rules.history(QStringLiteral("house"));
    house_->addWidget(label("small",
        versions.empty() ? QStringLiteral("Nothing changed yet: every rule stands at its default.")
                         : QStringLiteral("Version %1, changed on %2 by %3.")
                               .arg(versions.front().version)
                               .arg(records::date_words(versions.front().at.toStdString()), versions.front().who)));
    house_->addStretch();
}

void RulesPage::show_protocol(Method method)
{
    for (std::size_t i = 0; i < tabs_.size(); ++i) tabs_[i]->setChecked(i > 0 && all_methods()[i - 1] == method);
    pages_->setCurrentIndex(1);
    say({});
    const protocol::Book book = lab_.rules.book();
    const auto* p = book.protocol(method);
    if (!p) return;
    const int row = shown_.method == method ? std::max(0, rules_->currentRow()) : 0;
    shown_ = *p;
    protocol_title_->setText(q(p->title));
    const auto versions = lab_.rules.history(QString::fromLatin1(method->word));
    versions_->setText(
        versions.empty()
            ? QStringLiteral("Version %1, as shipped.").arg(p->version)
            : QStringLiteral("Version %1, %2, %3. Earlier versions are kept for the visits made under them.")
                  .arg(p->version)
                  .arg(records::date_words(versions.front().at.toStdString()), versions.front().who));
    {
        const QSignalBlocker quiet(rules_);
        rules_->setRowCount(static_cast<int>(p->rules.size()));
        for (std::size_t i = 0; i < p->rules.size(); ++i) {
            const protocol::Rule& r = p->rules[i];
            QString name = q(r.id);
            name.replace('_', ' ');
            if (r.safety) name = QStringLiteral("■ ") + name;
            QString source = q(r.source);
            for (const auto& [rule, options] : r.when)
                source += QStringLiteral(" · only with ") + q(options.front()).replace('_', ' ');
            int column = 0;
            for (const QString& words : {name, limit_words(r, book), source})
                rules_->setItem(static_cast<int>(i), column++, new QTableWidgetItem(words));
        }
    }
    rules_->setCurrentCell(row, 0);
    show_rule();
}

void RulesPage::show_rule()
{
    const int row = rules_->currentRow();
    if (row < 0 || row >= static_cast<int>(shown_.rules.size())) return;
    const protocol::Rule& r = shown_.rules[static_cast<std::size_t>(row)];
    QString name = q(r.id);
    rule_title_->setText(name.replace('_', ' '));
    QString words = q(r.reason) + QStringLiteral(" (%1)").arg(q(r.source));
    for (const auto& e : r.effects) words += QStringLiteral("\nEffect: %1.").arg(q(protocol::words(e)));
    if (r.safety) words += QStringLiteral("\nA matter of safety: no override, and it cannot be made milder here.");
    rule_reason_->setText(words);
    while (QLayoutItem* item = limit_rows_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    limits_.clear();
    const protocol::Book book = lab_.rules.book();
    const auto* question = book.question(r.question);
    const bool clock = question && question->ask == Ask::clock;
    for (const auto& b : r.levels) {
        limit_rows_->addWidget(label("small", QStringLiteral("%1 when %2, %3")
                                                  .arg(QString::fromLatin1(protocol::title(b.verdict)),
                                                      clock ? QStringLiteral("less than") : QStringLiteral("more than"),
                                                      clock ? QStringLiteral("minutes") : q(question->unit))));
        auto* edit = new QLineEdit(q(limits::plain(b.limit)));
        edit->setObjectName(QStringLiteral("rule_limit_%1").arg(limits_.size()));
        edit->setMaximumWidth(110);
        limit_rows_->addWidget(edit);
        limits_.push_back(edit);
    }
    prepare_->setText(q(r.prepare));
    prepare_->setCursorPosition(0);
    prepare_min_->setText(r.prepare_min > 0 ? q(limits::plain(r.prepare_min)) : QString());
    finding_->setText(q(r.finding));
    finding_->setCursorPosition(0);
    reason_->setText(q(r.reason));
    reason_->setCursorPosition(0);
}

void RulesPage::keep_rule()
{
    const QString who = who_ ? who_() : QString();
    const int row = rules_->currentRow();
    if (who.isEmpty() || row < 0) return;
    protocol::Protocol next = shown_;
    protocol::Rule& r = next.rules[static_cast<std::size_t>(row)];
    for (std::size_t i = 0; i < limits_.size(); ++i) {
        bool number = false;
        r.levels[i].limit = limits_[i]->text().trimmed().replace(',', '.').toDouble(&number);
        if (!number) return say(QStringLiteral("◆ \"%1\" is not a number. Nothing was kept.").arg(limits_[i]->text()));
    }
    bool number = true;
    r.prepare = prepare_->text().trimmed().toStdString();
    r.prepare_min = prepare_min_->text().trimmed().isEmpty()
                        ? 0
                        : prepare_min_->text().trimmed().replace(',', '.').toDouble(&number);
    if (!number)
        return say(QStringLiteral("◆ \"%1\" is not a number of minutes. Nothing was kept.").arg(prepare_min_->text()));
    r.finding = finding_->text().trimmed().toStdString();
    r.reason = reason_->text().trimmed().toStdString();
    if (bench::write_protocol(next) == bench::write_protocol(shown_))
        return say(QStringLiteral("Nothing has changed."));
    const auto kept = lab_.rules.keep(next, who);
    if (!kept)
        return say(QStringLiteral("◆ %1 Nothing was kept; version %2 stays in use.")
                       .arg(q(kept.messages().front().text))
                       .arg(shown_.version));
    lab_.say_changed();
    show_protocol(next.method);
    say(QStringLiteral("Kept as version %1.").arg(kept->version));
}

void RulesPage::take_file(const QString& path)
{
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty()) return;
    const auto taken = lab_.rules.take_file(path, who);
    if (!taken) return say(QStringLiteral("◆ ") + q(taken.messages().front().text));
    lab_.say_changed();
    show_protocol(taken->method);
    say(QStringLiteral("Taken as version %1.").arg(taken->version));
}

} // namespace fusain::desk

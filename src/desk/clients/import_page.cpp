// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/clients/import_page.h"

#include "work/lab.h"

#include <QDate>
#include <QFileDialog>
#include <QGridLayout>
#include <QHeaderView>
#include <QVBoxLayout>

namespace fusain::desk {

ImportPage::ImportPage(std::shared_ptr<records::Store> store, QWidget* parent)
    : QWidget(parent), store_(std::move(store)), title_(label("title")), said_(label("small")),
      trouble_(label("trouble")), preview_(new QTableWidget), errors_(new QTableWidget), mapping_box_(new QWidget),
      progress_(new QProgressBar)
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(34, 22, 34, 14);
    title_->setObjectName(QStringLiteral("import_title"));
    said_->setObjectName(QStringLiteral("import_said"));
    trouble_->setObjectName(QStringLiteral("import_trouble"));
    v->addWidget(title_);
    v->addWidget(said_);
    v->addWidget(trouble_);
    auto* grid = new QGridLayout(mapping_box_);
    grid->setContentsMargins(0, 4, 0, 4);
    grid->setHorizontalSpacing(14);
    int n = 0;
    for (const auto& f : records::import_fields()) {
        auto* box = new ChoiceBox;
        box->setObjectName(QStringLiteral("column_") + QString::fromLatin1(f.id));
        columns_[QString::fromLatin1(f.id)] = box;
        grid->addWidget(
            label("small", QString::fromUtf8(f.title) + (f.needed ? QStringLiteral(" (needed)") : QString())),
            n / 4 * 2, n % 4);
        grid->addWidget(box, n / 4 * 2 + 1, n % 4);
        connect(box, &QComboBox::activated, this, &ImportPage::check);
        ++n;
    }
    v->addWidget(mapping_box_);
    for (QTableWidget* t : {preview_, errors_}) {
        t->setEditTriggers(QAbstractItemView::NoEditTriggers);
        t->setSelectionMode(QAbstractItemView::NoSelection);
        t->verticalHeader()->hide();
        t->setShowGrid(false);
        t->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        t->setFocusPolicy(Qt::NoFocus);
    }
    preview_->setMaximumHeight(Theme::get().px(170));
    v->addWidget(preview_);
    errors_->setObjectName(QStringLiteral("import_errors"));
    errors_->setColumnCount(2);
    errors_->setHorizontalHeaderLabels(
        {QStringLiteral("line"), QStringLiteral("what is wrong with it; such rows are left out")});
    errors_->horizontalHeader()->setStretchLastSection(true);
    errors_->setWordWrap(true);
    v->addWidget(errors_, 1);
    progress_->setTextVisible(true);
    v->addWidget(progress_);
    auto* keys = new WrappedRow;
    keys->setSpacing(16);
    import_ =
        new KeyButton(QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"), QStringLiteral("import"));
    import_->setObjectName(QStringLiteral("import_now"));
    import_->set_main(true);
    choose_ = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+O")), QStringLiteral("Ctrl O"), QStringLiteral("choose a file"));
    stop_ = new KeyButton(Qt::Key_X, QStringLiteral("X"), QStringLiteral("stop"));
    stop_->setObjectName(QStringLiteral("import_stop"));
    leave_ = new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("back to the clients"));
    leave_->setObjectName(QStringLiteral("import_leave"));
    for (auto* k : {import_, choose_, stop_, leave_}) keys->addWidget(k);
    v->addLayout(keys);
    connect(choose_, &QAbstractButton::clicked, this, &ImportPage::choose);
    connect(import_, &QAbstractButton::clicked, this, &ImportPage::run_import);
    connect(stop_, &QAbstractButton::clicked, this, [this] { stop_wanted_ = true; });
    connect(leave_, &QAbstractButton::clicked, this, [this] {
        stop_wanted_ = true;
        if (!busy_) emit left();
    });
    connect(this, &ImportPage::progressed, progress_,
        [this](qulonglong rows) { progress_->setValue(static_cast<int>(rows)); });
}

ImportPage::~ImportPage()
{
    stop_wanted_ = true;
    if (thread_) {
        thread_->wait();
        delete thread_;
    }
}

void ImportPage::begin()
{
    table_ = {};
    check_.reset();
    title_->setText(QStringLiteral("Import a client list"));
    said_->setText(QStringLiteral("A CSV file with a heading. Separator and letters are found out by the program; "
                                  "nothing is stored before you have seen what is in it."));
    trouble_->setText(QString());
    for (QWidget* w : {static_cast<QWidget*>(mapping_box_), static_cast<QWidget*>(preview_),
             static_cast<QWidget*>(errors_), static_cast<QWidget*>(progress_), static_cast<QWidget*>(stop_)})
        w->hide();
    import_->setEnabled(false);
    choose_->setFocus();
}

void ImportPage::choose()
{
    const QString path = QFileDialog::getOpenFileName(
        this, QStringLiteral("Client list"), QString(), QStringLiteral("Lists (*.csv *.txt *.tsv);;All files (*)"));
    if (!path.isEmpty()) read(path);
}

void ImportPage::work(std::function<void()> job, std::function<void()> then, const QString& words)
{
    if (busy_) return;
    busy_ = true;
    stop_wanted_ = false;
    said_->setText(words);
    progress_->show();
    stop_->show();
    import_->setEnabled(false);
    choose_->setEnabled(false);
    mapping_box_->setEnabled(false);
    if (thread_) {
        thread_->wait();
        delete thread_;
    }
    thread_ = QThread::create(std::move(job));
    connect(thread_, &QThread::finished, this, [this, then = std::move(then)] {
        busy_ = false;
        progress_->hide();
        stop_->hide();
        choose_->setEnabled(true);
        mapping_box_->setEnabled(true);
        then();
    });
    thread_->start();
}

void ImportPage::read(const QString& path)
{
    auto table = std::make_shared<Outcome<records::Table>>(records::Table{});
    progress_->setRange(0, 0);
    trouble_->setText(QString());
    work(
        [this, path, table] {
            *table = records::read_table(path, [this](std::size_t rows) {
                emit progressed(rows);
                return !stop_wanted_;
            });
        },
        [this, table, path] {
            if (!*table) {
                trouble_->setText(QStringLiteral("◆ ") + q(table->messages().front().text));
                said_->setText(QString());
                return;
            }
            table_ = **table;
            title_->setText(QStringLiteral("%1 rows in %2").arg(table_.rows.size()).arg(path.section('/', -1)));
            preview();
            check();
        },
        QStringLiteral("Reading …"));
}

void ImportPage::preview()
{
    const auto guess = records::guess_mapping(table_.header);
    for (auto& [id, box] : columns_) {
        box->clear();
        box->addItem(QStringLiteral("none"), -1);
        for (int i = 0; i < table_.header.size(); ++i) box->addItem(table_.header[i], i);
        box->setCurrentIndex(box->findData(guess.at(id)));
    }
    preview_->setColumnCount(static_cast<int>(table_.header.size()));
    preview_->setHorizontalHeaderLabels(table_.header);
    const int rows = static_cast<int>(std::min<std::size_t>(5, table_.rows.size()));
    preview_->setRowCount(rows);
    for (int r = 0; r < rows; ++r)
        for (int c = 0; c < table_.header.size(); ++c)
            preview_->setItem(r, c, new QTableWidgetItem(table_.rows[static_cast<std::size_t>(r)].value(c)));
    mapping_box_->show();
    preview_->show();
}

std::map<QString, int> ImportPage::mapping() const
{
    std::map<QString, int> out;
    for (const auto& [id, box] : columns_) out[id] = box->currentData().toInt();
    return out;
}

void ImportPage::check()
{
    check_.reset();
    errors_->hide();
    trouble_->setText(QString());
    auto result = std::make_shared<Outcome<records::ImportCheck>>(records::ImportCheck{});
    progress_->setRange(0, static_cast<int>(table_.rows.size()));
    work(
        [this, result, map = mapping(), file = store_->file(), today = work::clock_now().date().toString(Qt::ISODate)] {
            const auto own = records::Store::open(file); // a connection of this thread's
            if (!own)
                *result = Outcome<records::ImportCheck>::refuse(own.messages());
            else
                *result = records::check_import(**own, table_, map, today, [this](std::size_t rows) {
                    emit progressed(rows);
                    return !stop_wanted_;
                });
        },
        [this, result] {
            if (!*result) {
                trouble_->setText(QStringLiteral("◆ ") + q(result->messages().front().text));
                said_->setText(QString());
                return;
            }
            check_ = **result;
            show_check();
        },
        QStringLiteral("Checking every row …"));
}

void ImportPage::show_check()
{
    constexpr int most = 1000; // more lines than that nobody reads; the count stands above
    const auto total = check_->bad.size() + check_->doubles.size();
    errors_->setVisible(total > 0);
    const int rows = static_cast<int>(std::min<std::size_t>(most, total));
    errors_->setRowCount(rows);
    for (int i = 0; i < rows; ++i) {
        const auto at = static_cast<std::size_t>(i);
        const records::RowTrouble& t =
            at < check_->bad.size() ? check_->bad[at] : check_->doubles[at - check_->bad.size()];
        errors_->setItem(i, 0, new QTableWidgetItem(QString::number(t.line)));
        errors_->setItem(i, 1, new QTableWidgetItem(t.text));
    }
    errors_->resizeRowsToContents();
    const auto& s = table_.separator;
    said_->setText(QStringLiteral("%1, separated by %2.  %3 can be imported, %4 cannot be used, %5 are there already.")
                       .arg(table_.encoding, s == ';'    ? QStringLiteral("semicolons")
                                             : s == '\t' ? QStringLiteral("tabs")
                                                         : QStringLiteral("commas"))
                       .arg(check_->good.size())
                       .arg(check_->bad.size())
                       .arg(check_->doubles.size()));
    import_->set_words(check_->good.size() == 1 ? QStringLiteral("import 1 client")
                                                : QStringLiteral("import %1 clients").arg(check_->good.size()));
    import_->setEnabled(!check_->good.empty());
}

void ImportPage::run_import()
{
    if (!check_ || busy_) return;
    auto why = std::make_shared<std::optional<Message>>();
    progress_->setRange(0, static_cast<int>(check_->good.size()));
    work(
        [this, why, file = store_->file()] {
            const auto own = records::Store::open(file);
            if (!own)
                *why = own.messages().front();
            else
                *why = records::import_clients(**own, check_->good, [this](std::size_t rows) {
                    emit progressed(rows);
                    return !stop_wanted_;
                });
        },
        [this, why] {
            if (*why) {
                show_check();
                return trouble_->setText(QStringLiteral("◆ %1").arg(q((*why)->text)));
            }
            emit done(static_cast<int>(check_->good.size()));
        },
        QStringLiteral("Importing: all of them or none …"));
}

} // namespace fusain::desk

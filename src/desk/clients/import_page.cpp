// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/clients/import_page.h"

#include "work/lab/lab.h"

#include <QDate>
#include <QFileDialog>
#include <QGridLayout>
#include <QHeaderView>
#include <QVBoxLayout>

namespace fusain::desk {

ImportPage::ImportPage(std::shared_ptr<records::Store> store, QWidget* parent)
    : QWidget(parent), store_(std::move(store)), title_(label("title")), said_(label("small")),
      trouble_(label("trouble")), kind_row_(new QWidget), kind_(new ChoiceBox), result_mapping_(new ResultMapping),
      preview_(new QTableWidget), errors_(new QTableWidget), mapping_box_(new QWidget), progress_(new QProgressBar)
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(34, 22, 34, 14);
    title_->setObjectName(QStringLiteral("import_title"));
    said_->setObjectName(QStringLiteral("import_said"));
    trouble_->setObjectName(QStringLiteral("import_trouble"));
    v->addWidget(title_);
    v->addWidget(said_);
    v->addWidget(trouble_);
    auto* kinds = new WrappedRow(kind_row_);
    kinds->setContentsMargins(0, 0, 0, 0);
    auto* holds = label("small", QStringLiteral("The table holds"));
    holds->setWordWrap(false);
    kinds->addWidget(holds);
    kind_->setObjectName(QStringLiteral("import_kind"));
    kind_->addItem(QStringLiteral("clients"));
    kind_->addItem(QStringLiteral("results of tests"));
    kinds->addWidget(kind_);
    v->addWidget(kind_row_);
    connect(kind_, &QComboBox::activated, this, [this] {
        preview();
        check();
    });
    connect(result_mapping_, &ResultMapping::changed, this, &ImportPage::check);
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
    grid->setRowStretch(grid->rowCount(), 1);
    v->addWidget(mapping_room_ = new Scroll(mapping_box_), 2);
    v->addWidget(result_mapping_, 2);
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
    v->addStretch(); // before a file is chosen everything stands at the top
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
    results_.reset();
    title_->setText(QStringLiteral("Import clients, or results"));
    said_->setText(QStringLiteral("A CSV file with a heading: a list of clients, or results of tests that were made "
                                  "elsewhere or before. Separator and letters are found out by the program; nothing is "
                                  "stored before you have seen what is in it."));
    trouble_->setText(QString());
    for (QWidget* w : {static_cast<QWidget*>(mapping_room_), static_cast<QWidget*>(preview_),
             static_cast<QWidget*>(errors_), static_cast<QWidget*>(progress_), static_cast<QWidget*>(stop_), kind_row_,
             static_cast<QWidget*>(result_mapping_)})
        w->hide();
    import_->setEnabled(false);
    import_->set_main(false);
    choose_->set_main(true);
    choose_->setFocus();
}

void ImportPage::choose()
{
    const QString path = QFileDialog::getOpenFileName(this, QStringLiteral("A list of clients, or a table of results"),
        QString(), QStringLiteral("Lists (*.csv *.txt *.tsv);;All files (*)"));
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
    result_mapping_->setEnabled(false);
    kind_row_->setEnabled(false);
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
        result_mapping_->setEnabled(true);
        kind_row_->setEnabled(true);
        if (std::exchange(again_, false)) return check();
        then();
    });
    thread_->start();
}

void ImportPage::read(const QString& path)
{
    auto table = std::make_shared<Outcome<records::Table>>(records::Table{});
    progress_->setRange(0, 0);
    trouble_->setText(QString());
    import_->set_words(QStringLiteral("import"));
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
            path_ = path;
            choose_->set_main(false);
            import_->set_main(true);
            // a table in which a day, a mass and fat stand is one of results
            const auto known = records::results::remembered(*store_, table_.header);
            const auto columns = known ? known->columns : records::results::guess(table_.header).columns;
            const auto has = [&](const char* what) {
                return std::any_of(columns.begin(), columns.end(), [&](const auto& c) { return c.what == what; });
            };
            kind_->setCurrentIndex(has("date") && (has("mass_kg") || has("fat_percent") || has("fat_mass_kg")) ? 1 : 0);
            title_->setText(QStringLiteral("%1 %2 in %3")
                                .arg(table_.rows.size())
                                .arg(table_.rows.size() == 1 ? QStringLiteral("row") : QStringLiteral("rows"),
                                    path.section('/', -1)));
            preview();
            check();
        },
        QStringLiteral("Reading …"));
}

void ImportPage::preview()
{
    kind_row_->show();
    mapping_room_->setVisible(!is_results());
    preview_->setVisible(!is_results());
    result_mapping_->setVisible(is_results());
    if (is_results()) return result_mapping_->fill(table_, records::results::remembered(*store_, table_.header));
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
}

std::map<QString, int> ImportPage::mapping() const
{
    std::map<QString, int> out;
    for (const auto& [id, box] : columns_) out[id] = box->currentData().toInt();
    return out;
}

void ImportPage::check()
{
    if (busy_) {
        again_ = true;
        return;
    }
    check_.reset();
    results_.reset();
    errors_->hide();
    trouble_->setText(QString());
    const auto told = [this](std::size_t rows) {
        emit progressed(rows);
        return !stop_wanted_;
    };
    if (!is_results())
        return check_with(
            check_, [this, told, map = mapping(), today = work::clock_now().date().toString(Qt::ISODate)](
                        records::Store& own) { return records::check_import(own, table_, map, today, told); });
    const records::results::Source source{path_.section('/', -1), table_.sha256,
        store_->setting(QStringLiteral("technician")), QTimeZone(store_->setting(QStringLiteral("zone")).toLatin1()),
        work::clock_now()};
    check_with(results_, [this, told, source, mapping = result_mapping_->mapping()](records::Store& own) {
        return records::results::check(own, table_, mapping, source, told);
    });
}

/// Looks at every row in a thread, over a connection of its own; `into`: what was found.
template <class Found, class Job>
void ImportPage::check_with(std::optional<Found>& into, Job job)
{
    auto result = std::make_shared<Outcome<Found>>(Found{});
    progress_->setRange(0, static_cast<int>(table_.rows.size()));
    work(
        [result, job, file = store_->file()] {
            const auto own = records::Store::open(file);
            *result = own ? job(**own) : Outcome<Found>::refuse(own.messages());
        },
        [this, result, &into] {
            if (!*result) {
                trouble_->setText(QStringLiteral("◆ ") + q(result->messages().front().text));
                said_->setText(QString());
                return;
            }
            into = **result;
            if (results_ && !results_->doubt.isEmpty()) trouble_->setText(QStringLiteral("◆ ") + results_->doubt);
            show_check();
        },
        QStringLiteral("Checking every row …"));
}

void ImportPage::show_check()
{
    if (results_) return show_found(results_->good.size(), results_->bad, results_->doubles);
    if (check_) show_found(check_->good.size(), check_->bad, check_->doubles);
}

void ImportPage::show_found(
    std::size_t good, const std::vector<records::RowTrouble>& bad, const std::vector<records::RowTrouble>& doubles)
{
    constexpr int most = 1000; // more lines than that nobody reads; the count stands above
    const auto total = bad.size() + doubles.size();
    errors_->setVisible(total > 0);
    const int rows = static_cast<int>(std::min<std::size_t>(most, total));
    errors_->setRowCount(rows);
    for (int i = 0; i < rows; ++i) {
        const auto at = static_cast<std::size_t>(i);
        const records::RowTrouble& t = at < bad.size() ? bad[at] : doubles[at - bad.size()];
        errors_->setItem(i, 0, new QTableWidgetItem(QString::number(t.line)));
        errors_->setItem(i, 1, new QTableWidgetItem(t.text));
    }
    errors_->resizeRowsToContents();
    const auto& s = table_.separator;
    said_->setText(QStringLiteral("%1, separated by %2.  %3 can be imported, %4 cannot be used, %5 are there already.")
                       .arg(table_.encoding, s == ';'    ? QStringLiteral("semicolons")
                                             : s == '\t' ? QStringLiteral("tabs")
                                                         : QStringLiteral("commas"))
                       .arg(good)
                       .arg(bad.size())
                       .arg(doubles.size()));
    const QString one = is_results() ? QStringLiteral("test") : QStringLiteral("client");
    import_->set_words(
        QStringLiteral("import %1 %2%3").arg(good).arg(one, good == 1 ? QString() : QStringLiteral("s")));
    import_->setEnabled(good > 0);
}

void ImportPage::run_import()
{
    if (busy_) return;
    const auto counted = [](std::size_t n, const char* one) {
        return n == 1 ? QStringLiteral("One %1 imported.").arg(QString::fromLatin1(one))
                      : QStringLiteral("%1 %2s imported.").arg(n).arg(QString::fromLatin1(one));
    };
    if (results_) {
        if (who_ && who_().isEmpty()) return;
        if (const auto why = records::results::remember(*store_, table_.header, result_mapping_->mapping()))
            return trouble_->setText(QStringLiteral("◆ ") + q(why->text));
        const auto good = std::make_shared<std::vector<records::Store::Whole>>(results_->good);
        return import_with(
            [this, good](records::Store& own) {
                return own.add_whole(*good, [this](int done, int) {
                    emit progressed(static_cast<qulonglong>(done));
                    return !stop_wanted_;
                });
            },
            good->size(), counted(good->size(), "test"));
    }
    if (!check_) return;
    import_with(
        [this](records::Store& own) {
            return records::import_clients(own, check_->good, [this](std::size_t rows) {
                emit progressed(rows);
                return !stop_wanted_;
            });
        },
        check_->good.size(), counted(check_->good.size(), "client"));
}

void ImportPage::import_with(
    std::function<std::optional<Message>(records::Store&)> job, std::size_t rows, const QString& words)
{
    auto why = std::make_shared<std::optional<Message>>();
    progress_->setRange(0, static_cast<int>(rows));
    work(
        [why, job = std::move(job), file = store_->file()] {
            const auto own = records::Store::open(file);
            *why = own ? job(**own) : own.messages().front();
        },
        [this, why, words] {
            if (*why) {
                show_check();
                return trouble_->setText(QStringLiteral("◆ %1").arg(q((*why)->text)));
            }
            emit done(words);
        },
        QStringLiteral("Importing: all of them or none …"));
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/xray/typed_scan.h"

#include "bench/files/tissue_table.h"
#include "bench/xray/xray_take.h"
#include "records/file/regular.h"

#include <QCryptographicHash>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QRegularExpression>
#include <QVBoxLayout>

#include <algorithm>
#include <chrono>

namespace fusain::desk {
namespace {

constexpr int look_ms = 40;
constexpr qint64 most_bytes = 256LL << 20, most_table_bytes = 2 << 20;
constexpr std::size_t per_region = 3;
constexpr const char* field_names[] = {"fat_g", "lean_g", "bmc_g"};
constexpr double xray::Mass::*tissues[] = {&xray::Mass::fat_g, &xray::Mass::lean_g, &xray::Mass::bmc_g};
const QString learnt_setting = QStringLiteral("region_words");

bench::LearntWords learnt(const records::Store& store)
{
    return bench::texts_of(store.setting(learnt_setting, QStringLiteral("{}")).toStdString());
}

/// What the file says of whom and that is not so of the client; each a half sentence.
std::vector<std::string> differs(const bench::ScanOf& of, const bench::Visit& v)
{
    std::vector<std::string> out;
    const auto folded = [](const std::string& s) {
        QStringList words =
            records::folded(q(s)).split(QRegularExpression(QStringLiteral("[^a-z0-9]+")), Qt::SkipEmptyParts);
        words.sort();
        return words;
    };
    const auto say = [&](const char* what, const std::string& there, const std::string& here) {
        out.push_back(std::string(what) + " " + there + ", the client's is " + here);
    };
    if (!of.name.empty() && folded(of.name) != folded(v.subject.name)) say("name", of.name, v.subject.name);
    std::string born = of.birth_date;
    if (born.size() == 8) born = born.substr(0, 4) + '-' + born.substr(4, 2) + '-' + born.substr(6);
    if (!born.empty() && born != v.subject.birth_date) say("date of birth", born, v.subject.birth_date);
    const std::string sex = v.subject.sex == Sex::male ? "M" : "F";
    if ((of.sex == "M" || of.sex == "F") && of.sex != sex) say("sex", of.sex, sex);
    return out;
}

} // namespace

TypedScan::TypedScan(work::Session& session) : session_(session), said_(label("trouble")), poll_(session.clock(), this)
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* content = new QWidget;
    auto* list = new QVBoxLayout(content);
    list->setContentsMargins(0, 0, 12, 0);
    static std::vector<std::string> names;
    if (names.empty())
        for (const xray::RegionRow& r : xray::region_rows)
            for (const char* key : field_names) names.push_back(std::string("typed_") + r.id + '_' + key);
    std::vector<TypedRow::Field> all;
    std::size_t i = 0;
    for (const xray::RegionRow& r : xray::region_rows)
        for (const auto& [limit, words] : {std::pair{"absorptiometry.fat_g", "fat"}, {"absorptiometry.lean_g", "lean"},
                 {"absorptiometry.bmc_g", "bone"}}) {
            auto* field = fields_.emplace_back(new NumberField(limit, Measure::none));
            with_theme(field, [field] { field->edit()->setFixedWidth(Theme::get().px(96)); });
            const QString title = r.region == xray::Region::android  ? QStringLiteral("waist band")
                                  : r.region == xray::Region::gynoid ? QStringLiteral("hip band")
                                                                     : QString::fromLatin1(r.title);
            all.push_back({title + QStringLiteral(", ") + QString::fromLatin1(words), names[i++].c_str(), field});
        }
    head_in_trunk_ = toggle(QStringLiteral("the table's trunk holds the head"));
    head_in_trunk_->setObjectName(QStringLiteral("head_in_trunk"));
    list->addWidget(head_in_trunk_, 0, Qt::AlignLeft);
    list->addWidget(fields_row_ = new TypedRow(std::move(all), per_region));
    list->addStretch();
    said_->setObjectName(QStringLiteral("scan_said"));
    column->addWidget(said_);
    asked_ = new QWidget;
    auto* asked = new QVBoxLayout(asked_);
    asked->setContentsMargins(0, 0, 0, 0);
    asked->addLayout(asked_rows_ = new QGridLayout);
    understood_ = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+R")), QStringLiteral("Ctrl R"), QStringLiteral("read it so, and remember"));
    understood_->setObjectName(QStringLiteral("words_understood"));
    asked->addWidget(understood_, 0, Qt::AlignLeft);
    asked_->hide();
    column->addWidget(asked_);
    agree_ = new KeyButton(
        QKeySequence(Qt::Key_Y), QStringLiteral("Y"), QStringLiteral("it is this client all the same; it is noted"));
    agree_->setObjectName(QStringLiteral("scan_agree"));
    agree_->hide();
    column->addWidget(agree_, 0, Qt::AlignLeft);
    column->addWidget(new Scroll(content), 1);
    auto* keys = new WrappedRow;
    take_ =
        new KeyButton(QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"), QStringLiteral("take it"));
    take_->setObjectName(QStringLiteral("typed_scan_take"));
    take_->set_main(true);
    file_key_ = new KeyButton(QKeySequence(QStringLiteral("Ctrl+O")), QStringLiteral("Ctrl O"),
        QStringLiteral("from a file: a map (DICOM), or a table of regions (CSV)"));
    file_key_->setObjectName(QStringLiteral("scan_file"));
    keys->addWidget(take_);
    keys->addWidget(file_key_);
    column->addLayout(keys);
    connect(take_, &QAbstractButton::clicked, this, &TypedScan::take);
    connect(file_key_, &QAbstractButton::clicked, this, &TypedScan::choose_file);
    connect(fields_row_, &TypedRow::typed, this, &TypedScan::take);
    connect(fields_row_, &TypedRow::left, this, &TypedScan::left);
    connect(understood_, &QAbstractButton::clicked, this, [this] {
        bench::LearntWords words = learnt(session_.store());
        for (const auto& [heading, box] : questions_) words[heading] = box->currentData().toString().toStdString();
        if (const auto why = session_.store().set_setting(learnt_setting, q(bench::table_of(words))))
            return said_->setText(q(why->text));
        read_table();
    });
    connect(agree_, &QAbstractButton::clicked, this, &TypedScan::keep_map);
    connect(&poll_, &bench::Beat::due, this, &TypedScan::look);
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        if (e.is<bench::event::TrialTyped>()) fields_row_->clear();
    });
    connect(&session_, &work::Session::refused, this, [this](const Message& why) {
        if (isVisible()) said_->setText(q(why.text));
    });
}

TypedScan::~TypedScan() = default;

void TypedScan::open()
{
    show();
    said_->clear();
    asked_->hide();
    agree_->hide();
    fields_row_->open();
}

void TypedScan::take()
{
    said_->clear();
    const bool no_head = head_in_trunk_->isChecked();
    bench::event::ScanTyped typed;
    typed.what = bench::take::scan;
    typed.source = "typed";
    typed.trunk_has_head = no_head;
    for (std::size_t r = 0; r < xray::region_count; ++r) {
        const auto fields = std::span(fields_).subspan(per_region * r, per_region);
        const bool empty = std::all_of(fields.begin(), fields.end(), [](NumberField* f) { return f->is_empty(); });
        if (empty && (r >= xray::part_count || (no_head && r == xray::index(xray::Region::head)))) continue;
        for (std::size_t t = 0; t < per_region; ++t) {
            const auto grams = fields[t]->metric();
            if (!grams) return; // the field says why
            typed.regions[r].*tissues[t] = *grams;
        }
        typed.given[r] = true;
    }
    session_.act(typed);
}

void TypedScan::choose_file()
{
    const QString path = QFileDialog::getOpenFileName(this, QStringLiteral("A map, or a table of regions"), QString(),
        QStringLiteral("Maps and tables (*.dcm *.csv *.txt *.tsv);;Every file (*)"));
    if (!path.isEmpty()) read(path);
}

void TypedScan::read(const QString& path)
{
    said_->clear();
    asked_->hide();
    agree_->hide();
    if (is_reading()) return;
    const auto head = records::head_of_regular(path, most_bytes, 132);
    if (!head) return said_->setText(q(head.messages().front().text));
    name_ = records::plain_name(path);
    if (head->mid(128) == "DICM") return read_map(path);
    const auto table = records::read_regular(path, most_table_bytes);
    if (!table) return said_->setText(QStringLiteral("%1 is neither a map nor a table of regions.").arg(name_));
    const QByteArray& bytes = *table;
    sha_ = QString::fromLatin1(QCryptographicHash::hash(bytes, QCryptographicHash::Sha256).toHex());
    bytes_ = bytes.toStdString();
    read_table();
}

/// Adds where it comes from.
void TypedScan::bring(bench::ScanTaken scan)
{
    bench::event::ScanTyped typed;
    static_cast<bench::ScanTaken&>(typed) = std::move(scan);
    typed.what = bench::take::scan;
    typed.source = "file";
    typed.file = name_.toStdString();
    typed.sha256 = sha_.toStdString();
    typed.of_another = of_another_;
    if (map_)
        session_.bring(typed, bench::signal_of(map_->map));
    else
        session_.act(typed);
    map_.reset();
    scan_.reset();
    of_another_.clear();
}

void TypedScan::read_table()
{
    map_.reset();
    of_another_.clear();
    asked_->hide();
    const auto found = bench::read_region_table(bytes_, name_.toStdString(), learnt(session_.store()));
    if (!found) return said_->setText(q(found.messages().front().text));
    if (!found->unknown.empty()) return ask_about(found->unknown);
    bench::ScanTaken scan;
    static_cast<bench::RegionMasses&>(scan) = *found->masses;
    bring(std::move(scan));
}

void TypedScan::ask_about(const std::vector<std::string>& unknown)
{
    while (QLayoutItem* item = asked_rows_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    questions_.clear();
    int row = 0;
    for (const std::string& heading : unknown) {
        auto* box = new ChoiceBox;
        box->setObjectName(QStringLiteral("means_%1").arg(row));
        for (const bench::Meaning& m : bench::meanings())
            box->addItem(QString::fromLatin1(m.title), QString::fromLatin1(m.id));
        asked_rows_->addWidget(label("text", QStringLiteral("“%1” is").arg(q(heading))), row, 0);
        asked_rows_->addWidget(box, row++, 1);
        questions_.emplace_back(heading, box);
    }
    asked_rows_->setColumnStretch(2, 1);
    said_->setText(
        QStringLiteral("%1 has words that are not known here yet. Say what they mean; it is remembered for the "
                       "next file of its kind.")
            .arg(name_));
    asked_->show();
}

void TypedScan::read_map(const QString& path)
{
    scan_.reset();
    map_.reset();
    of_another_.clear();
    const bench::XrayState& own = bench::xray_of(session_.visit());
    table_.reset();
    if (const auto shipped = bench::shipped_table(own.table_id)) {
        table_ = shipped->table;
    } else {
        const QString chosen = QFileDialog::getOpenFileName(this,
            QStringLiteral("The tissue table of the instrument that made %1").arg(name_), QString(),
            QStringLiteral("Tissue tables (*.json)"));
        const auto json = records::read_regular(chosen, most_table_bytes);
        if (chosen.isEmpty() || !json)
            return said_->setText(
                QStringLiteral("Without the tissue table of its instrument %1 cannot be read.").arg(name_));
        const auto table = bench::read_tissue_table(json->toStdString(), chosen.toStdString());
        if (!table) return said_->setText(q(table.messages().front().text));
        table_ = *table;
    }
    reading_ = std::async(std::launch::async, [path, name = name_.toStdString(), table = *table_, half = own.half] {
        const auto read = records::read_regular(path, most_bytes);
        const QByteArray bytes = read ? *read : QByteArray();
        ReadMap out{QString::fromLatin1(QCryptographicHash::hash(bytes, QCryptographicHash::Sha256).toHex()),
            bench::read_scan(bytes.toStdString(), name), {}};
        if (out.file) out.scan = bench::read_map(out.file->map, table, half);
        return out;
    });
    said_->setText(QStringLiteral("Reading %1 …").arg(name_));
    poll_.start(look_ms);
    emit changed();
}

void TypedScan::look()
{
    if (!reading_.valid() || reading_.wait_for(std::chrono::seconds(0)) != std::future_status::ready) return;
    poll_.stop();
    ReadMap read = reading_.get();
    emit changed();
    if (!session_.is_open() || !bench::xray_if(session_.visit())) return;
    if (!read.file) return said_->setText(q(read.file.messages().front().text));
    if (!*read.scan) return said_->setText(q(read.scan->messages().front().text));
    sha_ = read.sha;
    map_ = std::move(read.file).take();
    scan_ = std::move(read.scan);
    said_->clear();
    of_another_ = differs(map_->of, session_.visit());
    if (of_another_.empty()) return keep_map();
    QStringList words;
    for (const std::string& d : of_another_) words << q(d);
    said_->setText(
        QStringLiteral("◆ %1 says: %2. Is it this client's scan?").arg(name_, words.join(QStringLiteral("; "))));
    agree_->show();
}

void TypedScan::keep_map()
{
    agree_->hide();
    if (!scan_ || !*scan_ || !map_) return;
    bring(bench::scan_taken(
        **scan_, scan_->messages(), *table_, bench::xray_of(session_.visit()).half, map_->map.columns()));
}

} // namespace fusain::desk

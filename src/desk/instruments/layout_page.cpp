// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/instruments/layout_page.h"

#include "core/printout/read.h"
#include "core/printout/taught.h"
#include "core/printout/typed.h"
#include "records/diary/diary.h"
#include "work/files/layouts.h"

#include <QFileDialog>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

#include <algorithm>
#include <cmath>

namespace fusain::desk {
namespace {

using printout::Field, printout::Layout;

constexpr const char* own_number = "";
const QString of_client = QStringLiteral("client.");

struct ClientRow {
    const char *id, *title;
    std::string printout::ClientLabels::*label;
};
constexpr ClientRow client_rows[] = {{"number", "The client's number", &printout::ClientLabels::number},
    {"at", "Day and hour of the test", &printout::ClientLabels::at},
    {"height_cm", "The client's height", &printout::ClientLabels::height_cm},
    {"age_y", "The client's age", &printout::ClientLabels::age_y},
    {"sex", "The client's sex", &printout::ClientLabels::sex}};

/// What a number can be, whole body first; `quantity|segment`.
const std::vector<std::pair<QString, QString>>& meanings()
{
    static const std::vector<std::pair<QString, QString>> all = [] {
        std::vector<std::pair<QString, QString>> out = {
            {QString::fromLatin1(own_number), QStringLiteral("its own number, kept under its name")}};
        for (const char* id : {"mass_kg", "fat_percent", "fat_mass_kg", "fat_free_mass_kg", "total_body_water_l",
                 "intracellular_water_l", "extracellular_water_l", "ecw_ratio", "protein_kg", "mineral_kg",
                 "bone_mineral_content_kg", "lean_soft_tissue_kg", "skeletal_muscle_kg", "visceral_fat_kg",
                 "visceral_fat_area_cm2", "bmi_kg_per_m2", "ffmi_kg_per_m2", "fmi_kg_per_m2", "phase_angle_deg",
                 "resistance_50khz_ohm", "reactance_50khz_ohm", "resting_kcal", "body_density_kg_per_l",
                 "body_volume_l", "raw_volume_l", "thoracic_gas_volume_l", "residual_volume_l", "underwater_mass_kg",
                 "water_density_kg_per_l", "tissue_fat_percent", "appendicular_lean_kg", "android_gynoid_ratio"})
            if (const Quantity* known = printout::said_quantity(id))
                out.emplace_back(QString::fromLatin1(id) + '|', QString::fromUtf8(known->title));
        constexpr std::pair<const char*, const char*> parts[] = {{"lean_kg", "lean"}, {"fat_kg", "fat"},
            {"fat_percent", "percent fat"}, {"bone_mineral_content_kg", "bone mineral"}};
        for (const char* segment : printout::segments)
            for (const auto& [id, words] : parts) {
                QString title =
                    QString::fromLatin1(segment).replace('_', ' ') + QStringLiteral(", ") + QString::fromLatin1(words);
                title[0] = title[0].toUpper();
                out.emplace_back(QString::fromLatin1(id) + '|' + QString::fromLatin1(segment), title);
            }
        for (const ClientRow& row : client_rows) out.emplace_back(of_client + row.id, QString::fromLatin1(row.title));
        return out;
    }();
    return all;
}

std::string meaning_of(const Field& f) { return f.quantity.empty() ? own_number : f.quantity + '|' + f.segment; }
/// By its name: of the client, or of the body.
std::string meaning_by_name(const Field& f)
{
    const std::string of = printout::identifies(f.label);
    return of.empty() ? meaning_of(f) : "client." + of;
}

} // namespace

PaperView::PaperView(QWidget* parent) : QWidget(parent)
{
    setMouseTracking(true);
    setObjectName(QStringLiteral("paper"));
    QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Minimum);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
}

void PaperView::show_page(const printout::Page& words, const bench::paper::Grey& picture)
{
    words_ = words;
    marked_.clear();
    hovered_.reset();
    image_ =
        QImage(picture.pixels.data(), picture.width, picture.height, picture.width, QImage::Format_Grayscale8).copy();
    updateGeometry();
    update();
}

void PaperView::mark(std::vector<std::size_t> words)
{
    marked_ = std::move(words);
    update();
}

double PaperView::scale() const { return words_.width_mm > 0 ? width() / words_.width_mm : 1; }

int PaperView::heightForWidth(int wide) const
{
    return words_.width_mm > 0 ? static_cast<int>(std::ceil(wide * words_.height_mm / words_.width_mm)) : 0;
}

QPointF PaperView::on_screen(std::size_t word) const
{
    const printout::Box& b = words_.words[word].on_paper;
    return QPointF(b.middle_x(), b.middle_y()) * scale();
}

std::optional<std::size_t> PaperView::under(const QPointF& at) const
{
    return printout::word_at(words_, at.x() / scale(), at.y() / scale());
}

void PaperView::paintEvent(QPaintEvent*)
{
    if (image_.isNull()) return;
    QPainter p(this);
    const look::Palette& c = Theme::get().palette();
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.drawImage(QRectF(0, 0, width(), words_.height_mm * scale()), image_);
    const auto outline = [&](std::size_t word, const QColor& colour) {
        const printout::Box& b = words_.words[word].on_paper;
        p.setPen(QPen(colour, 2));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(
            QRectF(b.x * scale(), b.y * scale(), b.w * scale(), b.h * scale()).adjusted(-4, -3, 4, 3), 3, 3);
    };
    for (std::size_t word : marked_) outline(word, c.lean);
    if (hovered_) outline(*hovered_, c.live);
}

void PaperView::mousePressEvent(QMouseEvent* e)
{
    if (const auto word = under(e->position())) emit clicked(*word);
}

void PaperView::mouseMoveEvent(QMouseEvent* e)
{
    const auto before = std::exchange(hovered_, under(e->position()));
    if (hovered_ != before) update();
    setCursor(hovered_ ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

LayoutPage::LayoutPage(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), title_(label("title")), hint_(label("small")), said_(label("trouble")),
      name_(new QLineEdit), next_(new QLineEdit), paper_(new PaperView)
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(34, 22, 20, 14);
    columns->setSpacing(18);
    auto* v = new QVBoxLayout;
    v->setSpacing(6);
    columns->addLayout(v, 6);
    title_->setObjectName(QStringLiteral("layout_title"));
    said_->setObjectName(QStringLiteral("layout_said"));
    next_->setObjectName(QStringLiteral("layout_next"));
    name_->setObjectName(QStringLiteral("layout_name"));
    next_->setPlaceholderText(QStringLiteral("the next name as it stands there, with its unit: Body fat (kg)"));
    v->addWidget(title_);
    v->addWidget(hint_);
    auto* called = new QHBoxLayout;
    auto* called_words = label("small", QStringLiteral("Its name"));
    called_words->setWordWrap(false);
    called->addWidget(called_words);
    called->addWidget(name_, 1);
    v->addLayout(called);
    auto* rows = new QWidget;
    rows_column_ = new QVBoxLayout(rows);
    rows_column_->setContentsMargins(0, 0, 12, 0);
    rows_column_->setSpacing(4);
    rows_column_->addStretch();
    v->addWidget(scroll_ = new Scroll(rows), 1);
    v->addWidget(next_);
    v->addWidget(said_);
    auto* keys = new WrappedRow;
    const auto key = [&](const QKeySequence& k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(k, QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        keys->addWidget(b);
        return b;
    };
    keep_ = key(QKeySequence(QStringLiteral("Ctrl+S")), "Ctrl S", "keep the layout", "keep_layout");
    keep_->set_main(true);
    show_ = key(QKeySequence(QStringLiteral("Ctrl+O")), "Ctrl O", "show a printout to click on", "show_paper");
    turn_ = key(QKeySequence(Qt::Key_PageDown), "PgDn", "its next page", "turn_page");
    stop_ = key(QKeySequence(QStringLiteral("Ctrl+X")), "Ctrl X", "stop reading", "stop_paper");
    auto* leave = key(QKeySequence(Qt::Key_Escape), "Esc", "leave without keeping", "leave_layout");
    v->addLayout(keys);
    columns->addWidget(paper_room_ = new Scroll(paper_), 5);
    paper_room_->hide();
    connect(next_, &QLineEdit::returnPressed, this, &LayoutPage::type_name);
    connect(name_, &QLineEdit::returnPressed, this, [this] { next_->setFocus(); });
    connect(paper_, &PaperView::clicked, this, &LayoutPage::taught);
    connect(keep_, &QAbstractButton::clicked, this, &LayoutPage::keep);
    connect(show_, &QAbstractButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, QStringLiteral("A printout of this instrument"),
            QString(), QStringLiteral("Printouts and pictures (*.pdf *.png *.jpg *.jpeg *.tif *.tiff);;All files (*)"));
        if (!path.isEmpty()) show_paper(path);
    });
    connect(turn_, &QAbstractButton::clicked, this, [this] { turn(1); });
    connect(stop_, &QAbstractButton::clicked, &reading_, &work::LongWork::stop);
    connect(leave, &QAbstractButton::clicked, this, &LayoutPage::left);
    connect(&reading_, &work::LongWork::progressed, this, [this](double done) {
        if (reading_.is_running()) said_->setText(QStringLiteral("Reading … %1 %").arg(static_cast<int>(100 * done)));
    });
}

void LayoutPage::clear()
{
    for (const Row& row : rows_) delete row.whole;
    rows_.clear();
    pages_.reset();
    paper_room_->hide();
    said_->clear();
    next_->clear();
}

void LayoutPage::begin(const records::Instrument& instrument)
{
    instrument_ = instrument;
    clear();
    before_ = {};
    if (!instrument.layout.isEmpty()) {
        if (auto found = work::layout(lab_, instrument.layout))
            before_ = std::move(found).take();
        else
            said_->setText(QStringLiteral("◆ ") + q(found.messages().front().text));
    }
    title_->setText(QStringLiteral("What %1 shows").arg(instrument.name));
    name_->setText(before_.title.empty() ? instrument.name : q(before_.title));
    for (const ClientRow& row : client_rows)
        if (const std::string& words = before_.client.*row.label; !words.empty()) {
            Field f;
            f.label = words;
            add(f, "client." + std::string(row.id));
        }
    for (const Field& f : before_.fields) add(f, meaning_of(f));
    next_->setFocus();
    tell();
}

void LayoutPage::add(const Field& field, const std::string& what)
{
    Row row;
    row.whole = new QWidget;
    row.whole->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    row.under = field.under;
    auto* grid = new QGridLayout(row.whole);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(8);
    row.label = new QLineEdit(q(field.label));
    row.label->setCursorPosition(0);
    row.label->setToolTip(field.under.empty() ? QString() : QStringLiteral("under \"%1\"").arg(q(field.under)));
    row.what = new ChoiceBox;
    for (const auto& [id, title] : meanings()) row.what->addItem(title, id);
    row.what->setCurrentIndex(std::max(0, row.what->findData(q(what))));
    row.what->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    row.what->setMinimumContentsLength(9);
    row.what->setObjectName(QStringLiteral("layout_what"));
    row.unit = new QLineEdit(q(field.unit));
    row.unit->setCursorPosition(0);
    row.unit->setPlaceholderText(QStringLiteral("unit"));
    row.decimals = new ChoiceBox;
    row.decimals->addItem(QStringLiteral("any"), -1);
    for (int n = 0; n <= 4; ++n)
        row.decimals->addItem(n == 0 ? QStringLiteral("0") : QStringLiteral("0.") + QString(n, '0'), n);
    row.decimals->setCurrentIndex(field.decimals + 1);
    row.limits = toggle(QStringLiteral("limits"), 14);
    row.limits->setChecked(field.range);
    row.limits->setToolTip(QStringLiteral("The instrument prints its own limits beside this value."));
    auto* away = new WordButton(QStringLiteral("×"), 17);
    away->setCheckable(false);
    away->setToolTip(QStringLiteral("take this line away"));
    row.away = away;
    place(row);
    with_theme(row.whole, [unit = row.unit, decimals = row.decimals] {
        unit->setFixedWidth(Theme::get().px(60));
        decimals->setFixedWidth(Theme::get().px(72));
    });
    connect(away, &QAbstractButton::clicked, this, [this, whole = row.whole] { remove(whole); });
    connect(row.what, &QComboBox::activated, this, [this] { tell(); });
    rows_column_->insertWidget(rows_column_->count() - 1, row.whole);
    rows_.push_back(row);
    QMetaObject::invokeMethod(
        this, [this] { scroll_->verticalScrollBar()->setValue(scroll_->verticalScrollBar()->maximum()); },
        Qt::QueuedConnection);
    tell();
}

/// In one line, or in two where a paper takes the room.
void LayoutPage::place(const Row& row) const
{
    auto* grid = static_cast<QGridLayout*>(row.whole->layout());
    const bool two = pages_ && width() < Theme::get().px(1100);
    const std::array<QWidget*, 6> all = {row.label, row.what, row.unit, row.decimals, row.limits, row.away};
    for (QWidget* w : all) grid->removeWidget(w);
    if (two) {
        grid->addWidget(row.label, 0, 0, 1, 4);
        grid->addWidget(row.away, 0, 4);
        for (int i = 1; i < 5; ++i) grid->addWidget(all[static_cast<std::size_t>(i)], 1, i - 1);
    } else {
        for (int i = 0; i < 6; ++i) grid->addWidget(all[static_cast<std::size_t>(i)], 0, i);
    }
    for (int i = 0; i < 6; ++i) grid->setColumnStretch(i, i == 0 || (!two && i == 1) ? 1 : 0);
}

void LayoutPage::resizeEvent(QResizeEvent*)
{
    for (const Row& row : rows_) place(row);
}

void LayoutPage::remove(const QWidget* whole)
{
    const auto at = std::find_if(rows_.begin(), rows_.end(), [&](const Row& r) { return r.whole == whole; });
    if (at == rows_.end()) return;
    at->whole->deleteLater();
    rows_.erase(at);
    mark();
    tell();
}

void LayoutPage::type_name()
{
    // several at once: pasted, one a line or with tabs and semicolons between
    for (const QString& line :
        next_->text().split(QRegularExpression(QStringLiteral("[\\n;\\t]")), Qt::SkipEmptyParts)) {
        const Field f = printout::named(line.trimmed().toStdString());
        if (f.label.empty()) continue;
        add(f, meaning_by_name(f));
    }
    next_->clear();
}

void LayoutPage::show_paper(const QString& path)
{
    reading_.run([path](const work::LongWork::Progress& progress) { return work::read_pages(path, progress); },
        [this](Outcome<work::PaperPages> found) {
            said_->setText(found ? QString() : QStringLiteral("◆ ") + q(found.messages().front().text));
            if (found) {
                pages_ = std::move(found).take();
                paper_room_->show();
                for (const Row& row : rows_) place(row);
                page_ = 0;
                turn(0);
            }
            tell();
            emit read_done();
        });
    tell();
}

void LayoutPage::turn(int by)
{
    if (!pages_ || pages_->words.empty()) return;
    page_ = (page_ + static_cast<std::size_t>(by)) % pages_->words.size();
    paper_->show_page(pages_->words[page_], pages_->pictures[page_]);
    mark();
}

void LayoutPage::mark()
{
    std::vector<std::size_t> words;
    for (const Row& row : rows_)
        if (row.at && row.at->first == page_) words.push_back(row.at->second);
    paper_->mark(std::move(words));
}

void LayoutPage::taught(std::size_t word)
{
    if (!pages_) return;
    for (const Row& row : rows_)
        if (row.at == std::pair(page_, word)) return row.label->setFocus();
    const printout::Marks marks{printout::decimal_of(pages_->words), ""};
    const printout::Page& page = pages_->words[page_];
    const auto field = printout::taught(page, word, marks);
    if (!field) return said_->setText(QStringLiteral("◆ ") + q(field.messages().front().text));
    add(*field, meaning_by_name(*field));
    std::string unit;
    rows_.back().at = std::pair(page_, word);
    if (const auto n = printout::number_in(page.words[word].text, marks, unit)) rows_.back().value = n->value;
    mark();
    tell();
}

Layout LayoutPage::made() const
{
    Layout out = before_;
    out.fields.clear();
    out.client = {};
    out.title = name_->text().trimmed().toStdString();
    out.method = (*instrument_.kind->method)->word;
    if (pages_) out.decimal = printout::decimal_of(pages_->words);
    for (const Row& row : rows_) {
        const QString what = row.what->currentData().toString();
        if (what.startsWith(of_client)) {
            for (const ClientRow& c : client_rows)
                if (what == of_client + c.id) out.client.*c.label = row.label->text().trimmed().toStdString();
            continue;
        }
        Field f;
        f.label = row.label->text().trimmed().toStdString();
        f.unit = row.unit->text().trimmed().toStdString();
        f.quantity = what.section('|', 0, 0).toStdString();
        f.segment = what.section('|', 1, 1).toStdString();
        f.decimals = row.decimals->currentData().toInt();
        f.range = row.limits->isChecked();
        for (const Field& known : before_.fields)
            if (known.label == f.label && known.quantity == f.quantity && known.segment == f.segment) {
                f.key = known.key;
                f.optional = known.optional;
            }
        const std::string unit = f.unit;
        if (f.key.empty()) printout::complete(f);
        f.unit = unit;
        out.fields.push_back(std::move(f));
    }
    printout::number_keys(out);
    // a heading tells lines apart that are called the same, here or elsewhere on the paper
    const auto reading = pages_ ? printout::read(pages_->words, out) : Outcome<printout::Reading>::refuse(Message{});
    std::size_t at = 0;
    for (const Row& row : rows_) {
        if (row.what->currentData().toString().startsWith(of_client)) continue;
        Field& f = out.fields[at++];
        const bool known = std::any_of(before_.fields.begin(), before_.fields.end(),
            [&](const Field& b) { return b.key == f.key && !b.under.empty(); });
        const auto same = std::count_if(out.fields.begin(), out.fields.end(),
            [&](const Field& o) { return o.label == f.label && o.unit == f.unit; });
        const bool twice = reading && reading->is_doubtful(f.key);
        if (same > 1 || known || twice) f.under = row.under;
    }
    if (out.id.empty()) {
        const auto all = work::layouts(lab_).usable;
        const std::string stem = printout::id_from(out.title);
        out.id = stem;
        for (int n = 2; std::any_of(all.begin(), all.end(), [&](const Layout& l) { return l.id == out.id; }); ++n)
            out.id = stem + '_' + std::to_string(n);
    }
    return out;
}

QStringList LayoutPage::not_found_again(const Layout& layout) const
{
    QStringList out;
    if (!pages_) return out;
    const auto reading = printout::read(pages_->words, layout);
    std::size_t at = 0;
    for (const Row& row : rows_) {
        if (row.what->currentData().toString().startsWith(of_client)) continue;
        const Field& f = layout.fields[at++];
        if (!row.at) continue;
        const printout::Value* v = reading ? reading->value(f.key) : nullptr;
        if (!v || std::abs(v->value - row.value) > 1e-9) out << q(f.label);
    }
    return out;
}

void LayoutPage::keep()
{
    const Layout layout = made();
    if (layout.title.empty()) return said_->setText(QStringLiteral("◆ Give it a name first."));
    if (const Messages wrong = printout::faults(layout); !wrong.empty()) {
        QString text = q(wrong.front().text);
        for (std::size_t i = 0; i < layout.fields.size(); ++i) // the line's own name instead of its place in the file
            text.replace(
                QStringLiteral("fields[%1].").arg(i), QStringLiteral("“%1”: its ").arg(q(layout.fields[i].label)));
        return said_->setText(QStringLiteral("◆ ") + text);
    }
    if (const QStringList lost = not_found_again(layout); !lost.isEmpty())
        return said_->setText(
            QStringLiteral("◆ Read again by this layout, these are not found where they were shown: %1. "
                           "Write their names as they stand on the paper, or take them away.")
                .arg(lost.join(QStringLiteral(", "))));
    if (const auto why = work::keep(lab_, layout)) return said_->setText(QStringLiteral("◆ ") + q(why->text));
    records::Instrument i = instrument_;
    i.layout = q(layout.id);
    const auto stored = lab_.diary->save(i);
    if (!stored) return said_->setText(QStringLiteral("◆ ") + q(stored.messages().front().text));
    lab_.say_changed();
    emit kept(stored->id);
}

void LayoutPage::tell()
{
    const bool reading = reading_.is_running();
    stop_->setVisible(reading);
    show_->setEnabled(!reading);
    turn_->setVisible(pages_ && pages_->words.size() > 1);
    keep_->setEnabled(!rows_.empty());
    hint_->setText(pages_ ? QStringLiteral("Click each number on the paper; its name is found beside it. Then see that "
                                           "what it is is right.")
                          : QStringLiteral("Type the names in the order in which it shows them, ⏎ after each. What is "
                                           "no quantity of ours is kept under its own name."));
}

} // namespace fusain::desk

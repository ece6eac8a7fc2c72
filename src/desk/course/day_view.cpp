// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/day_view.h"

#include "core/time/compare.h"
#include "records/base/clock.h"
#include "report/reading/reading_words.h"

#include <algorithm>

namespace fusain::desk {
DayView::DayView(work::Lab& lab)
    : CourseView(lab), title_(label("heading")), pairs_(label("text")), drops_(label("text")),
      differ_(label("trouble")), missing_(label("small")), cautions_(label("small")), table_(new QGridLayout)
{
    const TwoColumns c = two_columns(this, 400);
    title_->setObjectName(QStringLiteral("day_title"));
    pairs_->setObjectName(QStringLiteral("day_pairs"));
    drops_->setObjectName(QStringLiteral("together_drops"));
    differ_->setObjectName(QStringLiteral("together_differ"));
    missing_->setObjectName(QStringLiteral("together_missing"));
    c.left->addWidget(title_);
    auto* content = new QWidget;
    auto* column = new QVBoxLayout(content);
    column->setContentsMargins(0, 8, 10, 0);
    beside_ = new Figure([this](QPainter& p, const QRectF& area) {
        report::draw_beside(p, area, rows_, Theme::get().palette(), Theme::get().px(15));
    });
    beside_->setObjectName(QStringLiteral("day_beside"));
    column->addWidget(beside_);
    column->addSpacing(4);
    column->addWidget(pairs_);
    column->addSpacing(10);
    table_->setHorizontalSpacing(24);
    table_->setVerticalSpacing(4);
    column->addLayout(table_);
    column->addWidget(cautions_);
    column->addStretch();
    c.left->addWidget(new Scroll(content), 1);
    auto* keys = new WrappedRow;
    keys->setSpacing(10);
    earlier_ = new KeyButton(QKeySequence(Qt::Key_Left), QStringLiteral("←"), QStringLiteral("day before"));
    later_ = new KeyButton(QKeySequence(Qt::Key_Right), QStringLiteral("→"), QStringLiteral("day after"));
    earlier_->setObjectName(QStringLiteral("earlier_day"));
    later_->setObjectName(QStringLiteral("later_day"));
    keys->addWidget(earlier_);
    keys->addWidget(later_);
    c.left->addLayout(keys);
    connect(earlier_, &QAbstractButton::clicked, this, [this] { step(-1); });
    connect(later_, &QAbstractButton::clicked, this, [this] { step(+1); });

    c.right->addWidget(label("heading", QStringLiteral("Together")));
    c.right->addWidget(missing_);
    together_key_ = new KeyButton(QKeySequence(Qt::Key_C), QStringLiteral("C"), QStringLiteral("combine them"));
    together_key_->setObjectName(QStringLiteral("combine"));
    together_key_->set_main(true);
    c.right->addWidget(together_key_, 0, Qt::AlignLeft);
    connect(together_key_, &QAbstractButton::clicked, this, [this] {
        shown_together_ = !shown_together_;
        refresh();
    });
    together_room_ = new QWidget;
    auto* t = new QVBoxLayout(together_room_);
    t->setContentsMargins(0, 0, 0, 0);
    equation_ = new ChoiceBox;
    equation_->setObjectName(QStringLiteral("compartments"));
    t->addWidget(equation_);
    t->addWidget(drops_);
    t->addWidget(differ_);
    t->addSpacing(8);
    t->addWidget(label("heading", QStringLiteral("Where its doubt comes from")));
    budget_ = new Figure([this](QPainter& p, const QRectF& area) {
        if (together_)
            report::draw_budget(
                p, area, together_->budget(quantity::fat_percent), Theme::get().palette(), Theme::get().px(14));
    });
    t->addWidget(budget_);
    c.right->addWidget(together_room_);
    c.right->addStretch();
    connect(equation_, &QComboBox::activated, this, &DayView::refresh);
    connect(&Units::get(), &Units::changed, this, &DayView::refresh);
    connect(&Theme::get(), &Theme::changed, this, &DayView::refresh);
}

void DayView::step(int by)
{
    if (!reading_) return;
    const auto days = reading_->history->days();
    const auto at = std::find(days.begin(), days.end(), reading_->day);
    const auto place = at - days.begin() + by;
    if (at != days.end() && place >= 0 && place < static_cast<long>(days.size()))
        emit go_to_day(days[static_cast<std::size_t>(place)]);
}

void DayView::show_reading(const work::Reading& reading)
{
    reading_ = &reading;
    parts_ = work::ingredients(reading.today);
    const QVariant chosen = equation_->currentData();
    equation_->clear();
    for (const compartments::Equation& e : compartments::equations())
        if (parts_.allow(e))
            equation_->addItem(QStringLiteral("%1 (%2 compartments)")
                                   .arg(QString::fromUtf8(e.title))
                                   .arg(e.needs_water && e.needs_bone ? 4 : 3),
                QString::fromUtf8(e.id));
    int at = equation_->findData(chosen);
    if (at < 0) at = equation_->findData(QString::fromLatin1(compartments::default_id));
    equation_->setCurrentIndex(std::max(0, at));
    refresh();
}

std::optional<Result> DayView::combined(const std::string& equation, Messages* messages) const
{
    compartments::Input in = parts_.input;
    in.equation = equation;
    const auto told = compartments::compute(in);
    if (messages) *messages = told.messages();
    return told ? std::optional(*told) : std::nullopt;
}

void DayView::refresh()
{
    if (!reading_ || !isVisible()) return;
    const work::Reading& r = *reading_;
    empty(table_);
    rows_ = report::beside_rows(r.today, r.main);
    together_.reset();
    const bool can = equation_->count() > 0;
    together_key_->setVisible(can);
    together_key_->set_words(shown_together_ ? QStringLiteral("leave them apart") : QStringLiteral("combine them"));
    together_room_->setVisible(can && shown_together_);
    Messages messages;
    const auto* e = can ? compartments::find(equation_->currentData().toString().toStdString()) : nullptr;
    if (e && shown_together_) {
        together_ = combined(e->id, &messages);
        if (together_) {
            const Value& fat = (*together_)[quantity::fat_percent];
            rows_.push_back({QStringLiteral("together"), QString::fromUtf8(e->title), fat.value, fat.u, true});
        }
        drops_->setText(QStringLiteral("From %1, on one day: it no longer assumes %2.")
                            .arg(e->needs_water && e->needs_bone ? QStringLiteral("volume, water and bone mineral")
                                 : e->needs_water                ? QStringLiteral("volume and water")
                                                                 : QStringLiteral("volume and bone mineral"),
                                QString::fromUtf8(e->drops)));
        if (!together_) messages.insert(messages.begin(), Message{});
    }
    QStringList differ = parts_.differ;
    for (const Message& m : messages)
        if (!m.text.empty()) differ << q(m.text);
    differ_->setText(differ.isEmpty() ? QString() : QStringLiteral("◆ ") + differ.join(QStringLiteral("\n◆ ")));
    differ_->setVisible(!differ.isEmpty());
    budget_->setFixedHeight(together_ ? static_cast<int>(Theme::get().px(24) *
                                                         report::budget_rows(together_->budget(quantity::fat_percent)))
                                      : 0);
    QStringList needs;
    if (!parts_.volume) needs << QStringLiteral("a volume (tank or chamber)");
    if (parts_.volume && !parts_.water) needs << QStringLiteral("body water (analyser)");
    if (parts_.volume && !parts_.bone) needs << QStringLiteral("bone mineral (X-ray)");
    missing_->setText(can && needs.isEmpty() ? QStringLiteral("Volume, water and bone mineral of one day: fewer "
                                                              "assumptions than any one method.")
                      : can ? QStringLiteral("Three compartments; with %1 on the same day, four.").arg(needs.join(", "))
                            : QStringLiteral("To combine, the same day needs %1.")
                                  .arg(needs.join(parts_.volume ? QStringLiteral(" or ") : QStringLiteral(", "))));
    title_->setText(r.today.empty() ? QStringLiteral("Nothing measured yet.")
                                    : QStringLiteral("One day, one body: %1").arg(records::date_words(r.day)));
    QStringList pairs;
    std::vector<const work::Measurement*> told;
    std::map<std::string, int> times;
    for (const work::Measurement* m : r.today) {
        ++times[m->method];
        if (m->result.find(quantity::fat_percent)) told.push_back(m);
    }
    for (std::size_t i = 0; i < told.size(); ++i)
        for (std::size_t k = i + 1; k < told.size(); ++k) {
            const auto a = method_of(told[i]->method), b = method_of(told[k]->method);
            if (!a || !b || a == b) continue;
            if (const auto beside = compare::beside(
                    *a, told[i]->result[quantity::fat_percent].value, *b, told[k]->result[quantity::fat_percent].value))
                pairs << (beside->usual ? QString() : QStringLiteral("◆ ")) + q(beside->sentence);
        }
    if (!pairs.isEmpty()) pairs << QString::fromLatin1(compare::no_change);
    for (const auto& [method, n] : times)
        if (n > 1)
            pairs << QStringLiteral(
                "◆ %1 was done %2 times this day: both stand here, and the later one counts for the "
                "sheet.")
                         .arg(work::title_of(method))
                         .arg(n);
    pairs_->setText(pairs.join('\n'));
    pairs_->setVisible(!pairs.isEmpty());
    beside_->setFixedHeight(Theme::get().px(54) * static_cast<int>(std::max<std::size_t>(rows_.size(), 1)));
    beside_->update();
    budget_->update();

    // a column a method
    const auto cell = [&](const char* voice, const QString& text, int row, int column) {
        auto* one = label(voice, text); // wraps where the window is narrow
        one->setAlignment(column ? Qt::AlignRight | Qt::AlignTop : Qt::AlignLeft | Qt::AlignTop);
        table_->addWidget(one, row, column);
    };
    const report::MassUnit unit = mass_unit();
    struct Line {
        QString title;
        QStringList cells;
        bool any = false;
    };
    std::vector<Line> lines = {{QString(), {}, true}, {QStringLiteral("at"), {}, true}};
    const Quantity* const shown[] = {&quantity::body_mass, &quantity::fat_percent, &quantity::fat_mass,
        &quantity::fat_free_mass, &quantity::body_volume, &quantity::total_body_water, &quantity::ecw_ratio,
        &quantity::bone_mineral, &quantity::skeletal_muscle, &quantity::appendicular_lean, &quantity::visceral_fat,
        &quantity::skinfold_sum, &quantity::waist_hip, &quantity::waist_height};
    for (const Quantity* what : shown) lines.push_back({QString::fromUtf8(what->title).toLower(), {}, false});
    std::vector<std::pair<QString, const work::Measurement*>> columns;
    if (r.main) columns.emplace_back(work::title_of(r.main->method), r.main);
    for (const work::Measurement* m : r.today)
        if (m != r.main) columns.emplace_back(work::title_of(m->method), m);
    for (const auto& [title, m] : columns) {
        lines[0].cells << title;
        lines[1].cells << m->at.toString(QStringLiteral("HH:mm"));
        for (std::size_t i = 0; i < std::size(shown); ++i) {
            const auto value = m->value(*shown[i]);
            const Value* doubt = m->result.find(*shown[i]);
            QString words = value ? report::value_words(*shown[i], *value, unit) : QStringLiteral("–");
            if (value && doubt && doubt->u > 0) {
                const double u = doubt->u * (shown[i]->kind == UnitKind::mass ? unit.per_kg : 1);
                words.insert(words.lastIndexOf(' ') < 0 ? words.size() : words.lastIndexOf(' '),
                    QStringLiteral(" ± %1").arg(u, 0, 'f', shown[i]->decimals));
            }
            lines[i + 2].cells << words;
            lines[i + 2].any |= value.has_value();
        }
    }
    int row = 0;
    for (const Line& line : lines) {
        if (!line.any || line.cells.isEmpty()) continue;
        cell("small", line.title, row, 0);
        for (int i = 0; i < line.cells.size(); ++i) cell(row ? "number" : "small", line.cells[i], row, i + 1);
        ++row;
    }
    for (int i = 0; i <= static_cast<int>(columns.size()); ++i) table_->setColumnStretch(i, 1);
    QStringList cautions;
    for (const work::Measurement* m : r.today)
        for (const Message& one : m->messages)
            cautions << QStringLiteral("◆ %1: %2").arg(work::title_of(m->method), q(one.text));
    if (std::any_of(r.today.begin(), r.today.end(), [](const auto* m) { return m->future; }))
        cautions.prepend(QStringLiteral("◆ This day lies after today: the clock was wrong then, so it is left out of "
                                        "changes over time."));
    cautions_->setText(cautions.join('\n'));
    cautions_->setVisible(!cautions.isEmpty());
    const auto days = r.history->days();
    earlier_->setVisible(!days.empty() && r.day > days.front());
    later_->setVisible(!days.empty() && r.day < days.back());
}

} // namespace fusain::desk

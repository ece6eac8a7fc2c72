// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/energy_view.h"

#include "report/reading/reading_words.h"

#include <algorithm>

namespace fusain::desk {

EnergyView::EnergyView(work::Lab& lab)
    : CourseView(lab), activity_(new NumberField("energy.activity_level", Measure::none)),
      food_(new NumberField("energy.food_kcal", Measure::none)), school_(new ChoiceBox), table_(new QGridLayout),
      title_(label("heading")), gap_(label("text")), protein_(label("text")), deficit_(label("text"))
{
    const TwoColumns c = two_columns(this, 400);
    title_->setObjectName(QStringLiteral("energy_title"));
    gap_->setObjectName(QStringLiteral("energy_gap"));
    protein_->setObjectName(QStringLiteral("energy_protein"));
    deficit_->setObjectName(QStringLiteral("energy_deficit"));
    c.left->addWidget(title_);
    days_ = new Figure([this](QPainter& p, const QRectF& area) {
        report::draw_days(p, area, resting_, costs_, food_->peek(), Theme::get().palette(), Theme::get().px(15));
    });
    c.left->addWidget(days_);
    c.left->addWidget(gap_);
    c.left->addSpacing(6);
    c.left->addWidget(deficit_);
    c.left->addWidget(protein_);
    c.left->addStretch();
    c.right->addWidget(label("heading", QStringLiteral("This client's days")));
    c.right->addWidget(label(
        "small", QStringLiteral("Activity level, times rest: 1.40–1.69 light, 1.70–1.99 moderate, 2.00–2.40 vigorous "
                                "(FAO/WHO/UNU 2004)")));
    c.right->addWidget(activity_);
    c.right->addWidget(
        label("small", QStringLiteral("What is eaten in a day, as the client tells it (may stay empty)")));
    c.right->addWidget(food_);
    auto* keep_key = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"), QStringLiteral("keep this"));
    keep_key->setObjectName(QStringLiteral("keep_days"));
    keep_key->set_main(true);
    c.right->addWidget(keep_key, 0, Qt::AlignLeft);
    c.right->addSpacing(10);
    c.right->addWidget(label("heading", QStringLiteral("Rest, by every school")));
    school_->setObjectName(QStringLiteral("energy_school"));
    for (const energy::School& s : energy::schools_for(safe::adult_y))
        school_->addItem(QString::fromUtf8(s.title), QString::fromUtf8(s.id));
    c.right->addWidget(school_);
    table_->setHorizontalSpacing(12);
    table_->setVerticalSpacing(3);
    table_->setColumnStretch(0, 1);
    c.right->addLayout(table_);
    c.right->addStretch();
    connect(keep_key, &QAbstractButton::clicked, this, &EnergyView::store);
    connect(school_, &QComboBox::activated, this, &EnergyView::refresh);
    for (NumberField* f : {activity_, food_}) connect(f, &NumberField::edited, this, &EnergyView::refresh);
    connect(&Theme::get(), &Theme::changed, this, &EnergyView::refresh);
}

void EnergyView::show_reading(const work::Reading& r)
{
    reading_ = &r;
    if (client_ != r.history->client().id || (!activity_->is_touched() && !food_->is_touched())) {
        client_ = r.history->client().id;
        activity_->set_metric(r.days.activity_level);
        food_->set_metric(r.days.food_kcal);
        school_->setCurrentIndex(std::max(0, school_->findData(q(r.days.school))));
    }
    refresh();
}

void EnergyView::refresh()
{
    if (!reading_ || !isVisible()) return;
    const work::Reading& r = *reading_;
    empty(table_);
    costs_.clear();
    result_.reset();
    resting_ = 0;
    for (QLabel* l : {gap_, protein_, deficit_}) l->clear();
    days_->setFixedHeight(0);
    if (!r.main) {
        title_->setText(QStringLiteral("Energy is reckoned from fat-free mass: it takes a test that tells it."));
        return;
    }
    if (const QString why = work::no_plan(*r.history); !why.isEmpty()) {
        title_->setText(QStringLiteral("Nothing about energy is told here."));
        deficit_->setText(why);
        return;
    }
    energy::Input in = r.energy_in;
    in.school = school_->currentData().toString().toStdString();
    const auto activity = activity_->peek();
    in.activity_level = activity.value_or(r.days.activity_level);
    const auto told = energy::compute(in);
    if (!told) {
        title_->setText(q(told.messages().front().text));
        return;
    }
    result_ = *told;
    resting_ = (*told)[quantity::resting].value;
    const double daily = (*told)[quantity::daily].value;
    for (const energy::Day& d : energy::days)
        costs_.push_back({QString::fromUtf8(d.title), d.activity_level * resting_, false});
    costs_.push_back({QStringLiteral("this client's day"), daily, true});
    days_->setFixedHeight(Theme::get().px(34) * static_cast<int>(costs_.size()) + Theme::get().px(28));
    title_->setText(QStringLiteral("Lying still costs %1 kcal a day, this client's day %2 (± %3)")
                        .arg(resting_, 0, 'f', 0)
                        .arg(daily, 0, 'f', 0)
                        .arg(in.activity_level * energy::residual_sd_kcal, 0, 'f', 0));
    double low = INFINITY, high = 0;
    int row = 0;
    for (const energy::School& s : energy::schools_for(in.body.age_y)) {
        const double kcal = s.kcal(in.body);
        low = std::min(low, kcal);
        high = std::max(high, kcal);
        const bool is_chosen = in.school == s.id;
        table_->addWidget(label(is_chosen ? "text" : "small", QString::fromUtf8(s.title)), row, 0);
        auto* n = label("number",
            QStringLiteral("%1 kcal%2").arg(kcal, 0, 'f', 0).arg(is_chosen ? QStringLiteral(" ◂") : QString()));
        n->setWordWrap(false);
        table_->addWidget(n, row++, 1, Qt::AlignRight);
    }
    table_->addWidget(
        label("small", QStringLiteral("From %1 to %2: the schools alone differ by %3 kcal, and people beside "
                                      "each by some 165.")
                           .arg(low, 0, 'f', 0)
                           .arg(high, 0, 'f', 0)
                           .arg(high - low, 0, 'f', 0)),
        row, 0, 1, 2);
    if (const auto food = food_->peek()) {
        const double gap = *food - daily;
        gap_->setText(
            *food < resting_
                ? QStringLiteral(
                      "%1 kcal as told is under what lying still costs (%2). People forget about a third of "
                      "what they eat; if it is so all the same, hard undereating costs more than fat. How far "
                      "up can it go without going backwards?")
                      .arg(*food, 0, 'f', 0)
                      .arg(resting_, 0, 'f', 0)
                : QStringLiteral("%1 kcal as told, %2 kcal beside the day's need. People forget about a third of what "
                                 "they eat: with it, %3.")
                      .arg(*food, 0, 'f', 0)
                      .arg(QString::number(gap, 'f', 0).replace('-', QChar(0x2212)))
                      .arg(QStringLiteral("%1 kcal").arg(*food * 1.5, 0, 'f', 0)));
    }
    if (told->find(quantity::deficit))
        deficit_->setText(QStringLiteral("A cautious deficit: %1 kcal a day, half eaten less, half moved more (%2 kcal "
                                         "eaten). To gain: %3 kcal. Never under %4 kcal without a clinician.")
                              .arg((*told)[quantity::deficit].value, 0, 'f', 0)
                              .arg((*told)[quantity::deficit_intake].value, 0, 'f', 0)
                              .arg((*told)[quantity::surplus_intake].value, 0, 'f', 0)
                              .arg(safe::least_intake_kcal(in.body.sex, resting_), 0, 'f', 0));
    else if (!told.messages().empty())
        deficit_->setText(q(told.messages().front().text));
    if (r.history->sugar_medicine())
        deficit_->setText(
            QStringLiteral("Insulin, or a medicine that lowers sugar, stands in the record: eating less or "
                           "more is for the clinician who treats it."));
    protein_->setText(told->find(quantity::protein_low)
                          ? QStringLiteral("Protein, as a start: %1 to %2 g a day. Ask a dietitian.")
                                .arg((*told)[quantity::protein_low].value, 0, 'f', 0)
                                .arg((*told)[quantity::protein_high].value, 0, 'f', 0)
                          : QStringLiteral("Kidney disease stands in the record: no amount of protein is named."));
    days_->update();
}

void EnergyView::store()
{
    const auto activity = activity_->metric();
    if (!activity) return;
    work::Days d{*activity, school_->currentData().toString().toStdString(), {}, {}};
    if (!food_->is_empty()) {
        d.food_kcal = food_->metric();
        if (!d.food_kcal) return;
    }
    activity_->set_metric(*activity);
    food_->set_metric(d.food_kcal);
    if (keep(client_, work::event_of(d))) emit said(QStringLiteral("Kept."));
}

} // namespace fusain::desk

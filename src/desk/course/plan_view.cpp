// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/plan_view.h"

#include "core/body/reference.h"
#include "core/quality/precision.h"
#include "records/base/clock.h"
#include "report/page/pen.h"
#include "report/reading/reading_words.h"
#include "work/visit/next_visit.h"

#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace fusain::desk {
namespace {

constexpr int most_weeks = 156, beyond_weeks = 3;
constexpr double first_step_percent = 2;

} // namespace

PlanPlot::PlanPlot(QWidget* parent) : QWidget(parent)
{
    setObjectName(QStringLiteral("plan_plot"));
    setMinimumHeight(90);
    setCursor(Qt::OpenHandCursor);
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void PlanPlot::show_picture(report::PlanPicture picture)
{
    picture_ = std::move(picture);
    update();
}

QPointF PlanPlot::handle() const
{
    const report::PlanPlace place = report::place_plan(area(), picture_, Theme::get().px(14));
    return {place.x(static_cast<double>(picture_.start.daysTo(picture_.target_day))), place.y(picture_.target_percent)};
}

void PlanPlot::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    report::draw_plan(p, area(), picture_, Theme::get().palette(), Theme::get().px(14));
}

void PlanPlot::mousePressEvent(QMouseEvent* e)
{
    if (picture_.way.empty()) return;
    place_ = report::place_plan(area(), picture_, Theme::get().px(14));
    drag_to(e->position());
}

void PlanPlot::mouseMoveEvent(QMouseEvent* e)
{
    if (place_) drag_to(e->position());
}

void PlanPlot::drag_to(const QPointF& at)
{
    const int weeks = std::clamp(static_cast<int>(std::lround(place_->day_at(at.x()) / 7)), 1, most_weeks);
    emit dragged(weeks, std::clamp(std::round(10 * place_->percent_at(at.y())) / 10, 1.0, 75.0));
}

PlanView::PlanView(work::Lab& lab)
    : CourseView(lab), plot_(new PlanPlot), aim_(new ChoiceBox), lean_(new ChoiceBox), range_(new ChoiceBox),
      percent_(new NumberField("plan.target.fat_percent", Measure::none)),
      mass_(new NumberField("mass_kg", Measure::mass)), fat_(new NumberField("energy.fat_mass_kg", Measure::mass)),
      weeks_(new NumberField("plan.weeks", Measure::none)), title_(label("heading")), takes_(label("text")),
      only_fat_(label("text")), beside_(label("small")), bands_(label("small")), next_words_(label("text")),
      way_(label("text")), stops_(label("trouble")), numbers_(new QGridLayout)
{
    const TwoColumns c = two_columns(this, 380);
    const auto named = [](QWidget* w, const char* name) { w->setObjectName(QString::fromLatin1(name)); };
    named(title_, "plan_title");
    named(takes_, "plan_takes");
    named(only_fat_, "plan_only_fat");
    named(next_words_, "plan_next");
    named(way_, "plan_way");
    named(stops_, "plan_stops");
    c.left->addWidget(title_);
    c.left->addWidget(stops_);
    c.left->addWidget(takes_);
    c.left->addWidget(plot_, 1);
    c.left->addWidget(next_words_);
    c.left->addWidget(way_);
    auto* keys = new WrappedRow;
    keys->setSpacing(10);
    const auto key = [&](const QKeySequence& k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(k, QString::fromUtf8(cap), QString::fromUtf8(words));
        named(b, name);
        keys->addWidget(b);
        return b;
    };
    agree_ = key(QKeySequence(QStringLiteral("Ctrl+Return")), "Ctrl ⏎", "agree on this plan", "agree_plan");
    agree_->set_main(true);
    book_ = key(QKeySequence(QStringLiteral("Ctrl+B")), "Ctrl B", "book the next visit", "book_next");
    end_ = key(QKeySequence(QStringLiteral("Ctrl+Backspace")), "Ctrl ⌫", "end the plan", "end_plan");
    c.left->addLayout(keys);

    form_ = new QWidget;
    auto* f = new QVBoxLayout(form_);
    f->setContentsMargins(0, 0, 0, 0);
    f->addWidget(label("heading", QStringLiteral("The aim")));
    named(aim_, "plan_aim");
    aim_->addItem(QStringLiteral("percent fat"), 0);
    aim_->addItem(QStringLiteral("body mass"), 1);
    aim_->addItem(QStringLiteral("fat mass"), 2);
    f->addWidget(aim_);
    for (NumberField* one : {percent_, mass_, fat_}) f->addWidget(one);
    mass_->edit()->setObjectName(QStringLiteral("plan_mass"));
    fat_->edit()->setObjectName(QStringLiteral("plan_fat"));
    f->addWidget(label("small", QStringLiteral("in")));
    f->addWidget(weeks_);
    f->addWidget(label("small", QStringLiteral("What goes along with fat")));
    named(lean_, "plan_lean");
    for (const plan::Lean& l : plan::leans) lean_->addItem(QString::fromUtf8(l.title), QString::fromUtf8(l.id));
    f->addWidget(lean_);
    f->addWidget(label("small", QStringLiteral("Not under the range of")));
    named(range_, "plan_range");
    for (const char* id : {"gallagher_2000", "one_band"})
        range_->addItem(QString::fromUtf8(reference::find(id)->title), QString::fromLatin1(id));
    f->addWidget(range_);
    c.right->addWidget(form_);
    c.right->addSpacing(6);
    c.right->addWidget(label("heading", QStringLiteral("What it takes")));
    numbers_->setHorizontalSpacing(12);
    numbers_->setVerticalSpacing(3);
    numbers_->setColumnStretch(0, 1);
    c.right->addLayout(numbers_);
    c.right->addWidget(only_fat_);
    c.right->addWidget(bands_);
    c.right->addWidget(beside_);
    c.right->addStretch();
    for (ChoiceBox* one : {aim_, lean_, range_}) connect(one, &QComboBox::activated, this, &PlanView::refresh);
    for (NumberField* one : {percent_, mass_, fat_, weeks_})
        connect(one, &NumberField::edited, this, &PlanView::refresh);
    connect(plot_, &PlanPlot::dragged, this, [this](int weeks, double percent) {
        weeks_->set_metric(weeks);
        percent_->set_metric(percent);
        const energy::Body body = input().body; // of the plan that runs, if one does
        const double kg = plan::mass_if_only_fat(body, percent);
        mass_->set_metric(std::round(10 * kg) / 10);
        fat_->set_metric(std::round(10 * (kg - body.fat_free_kg)) / 10);
        refresh();
    });
    connect(agree_, &QAbstractButton::clicked, this, &PlanView::agree);
    connect(end_, &QAbstractButton::clicked, this, [this] {
        const records::entry::PlanEnded why{
            reading_->plan_stops.isEmpty() ? "ended by hand" : reading_->plan_stops.toStdString()};
        if (keep(client_, records::entered(why))) emit said(QStringLiteral("The plan has ended."));
    });
    connect(book_, &QAbstractButton::clicked, this, [this] {
        if (reading_) book_next();
    });
    connect(&Units::get(), &Units::changed, this, &PlanView::refresh);
    connect(&Theme::get(), &Theme::changed, this, &PlanView::refresh);
}

QDate PlanView::start() const
{
    return reading_->plan ? QDate::fromString(reading_->plan->day, Qt::ISODate) : reading_->main->day;
}

void PlanView::show_reading(const work::Reading& r)
{
    reading_ = &r;
    if (client_ != r.history->client().id && r.main) {
        client_ = r.history->client().id;
        // begin where the middle of the range, or a small step, lies
        const energy::Body& body = r.energy_in.body;
        const double now = 100 * body.fat_kg / body.mass_kg();
        const auto* set = reference::find("gallagher_2000");
        const auto* row = set->row(body.sex, std::clamp(body.age_y, 20.0, 79.0));
        const double aim = row && now > row->high  ? row->high
                           : row && now < row->low ? row->low
                                                   : std::max(row ? row->low : now, now - first_step_percent);
        percent_->set_metric(std::round(10 * aim) / 10);
        const double kg = plan::mass_if_only_fat(body, aim);
        mass_->set_metric(std::round(10 * kg) / 10);
        fat_->set_metric(std::round(10 * (kg - body.fat_free_kg)) / 10);
        weeks_->set_metric(12);
        if (r.plan) {
            const plan::Input& in = r.plan->input;
            aim_->setCurrentIndex(static_cast<int>(in.aim));
            (in.aim == plan::Aim::fat_percent  ? percent_
                : in.aim == plan::Aim::mass_kg ? mass_
                                               : fat_)
                ->set_metric(in.target);
            weeks_->set_metric(in.weeks);
            lean_->setCurrentIndex(std::max(0, lean_->findData(q(in.lean))));
            range_->setCurrentIndex(std::max(0, range_->findData(q(in.range))));
        }
    }
    client_ = r.history->client().id;
    refresh();
}

plan::Input PlanView::input() const
{
    plan::Input in;
    in.body = reading_->plan ? reading_->plan->input.body : reading_->energy_in.body;
    in.activity_level = reading_->plan ? reading_->plan->input.activity_level : reading_->energy_in.activity_level;
    in.school = reading_->plan ? reading_->plan->input.school : reading_->energy_in.school;
    in.aim = static_cast<plan::Aim>(aim_->currentIndex());
    NumberField* of[] = {percent_, mass_, fat_};
    in.target = of[aim_->currentIndex()]->peek().value_or(0);
    in.weeks = static_cast<int>(weeks_->peek().value_or(0));
    in.lean = lean_->currentData().toString().toStdString();
    in.range = range_->currentData().toString().toStdString();
    in.facts = reading_->history->facts();
    return in;
}

void PlanView::refresh()
{
    if (!reading_ || !isVisible()) return;
    const work::Reading& r = *reading_;
    NumberField* of[] = {percent_, mass_, fat_};
    for (int i = 0; i < 3; ++i) of[i]->setVisible(aim_->currentIndex() == i);
    empty(numbers_);
    for (QLabel* l : {takes_, only_fat_, beside_, bands_, next_words_, way_, stops_}) l->clear();
    next_.reset();
    const QString why_not = work::no_plan(*r.history);
    const bool can = r.main && why_not.isEmpty();
    form_->setVisible(can);
    plot_->setVisible(can);
    agree_->setVisible(can && !r.plan);
    end_->setVisible(r.plan != nullptr);
    book_->setVisible(r.main != nullptr);
    if (!can) {
        title_->setText(!r.main ? QStringLiteral("A plan begins with a test that tells fat and fat-free mass.")
                                : QStringLiteral("Nothing about weight is planned."));
        stops_->setText(
            why_not.isEmpty()
                ? QString()
                : (r.plan ? QStringLiteral("◆ The plan of %1 is not gone on with. ").arg(records::date_words(start()))
                          : QStringLiteral("◆ ")) +
                      why_not);
        stops_->setVisible(!stops_->text().isEmpty());
        return;
    }
    stops_->setText(r.history->sugar_medicine()
                        ? QStringLiteral("◆ Insulin, or another medicine that lowers sugar, stands in the record: no "
                                         "intake is agreed without their clinician.")
                        : QString());
    stops_->setVisible(!stops_->text().isEmpty());
    const plan::Input in = input();
    answer_ = plan::compute(in);
    const QDate from = start();
    const bool safe = answer_ && answer_->find(quantity::intake);
    title_->setText(!answer_ ? QStringLiteral("The aim is not written yet so that it can be reckoned.")
                    : safe   ? report::plan_sentence(in, answer_, from)
                             : QStringLiteral("That is not planned here."));
    takes_->setText(safe ? QString() : report::plan_sentence(in, answer_, from));
    takes_->setVisible(!safe);
    agree_->setEnabled(safe);
    if (!answer_) {
        plot_->show_picture({});
        return;
    }
    const report::MassUnit unit = mass_unit();
    const std::string method = r.plan ? r.plan->method : r.main->method;
    const double lsc = r.history->lsc_to_come(quantity::fat_percent, method);
    const double intake = safe ? (*answer_)[quantity::intake].value : plan::strictest_intake(in);
    const auto seen_week = lsc > 0 ? plan::first_seen_week(in, intake, lsc) : std::nullopt;
    int weeks = in.weeks + std::max(beyond_weeks, in.weeks / 3);
    if (seen_week && *seen_week <= 2 * in.weeks) weeks = std::max(weeks, *seen_week + 1);
    report::PlanPicture picture = report::plan_picture(in, intake, from, std::min(most_weeks, weeks), lsc);
    picture.refused = !safe;
    if (safe)
        picture.arrives = QStringLiteral("arrives: BMI %1 (least %2), fat-free index %3 (least %4)")
                              .arg((*answer_)[quantity::arrive_bmi].value, 0, 'f', 1)
                              .arg(safe::least_bmi(in.body.age_y), 0, 'f', 1)
                              .arg((*answer_)[quantity::arrive_ffmi].value, 0, 'f', 1)
                              .arg(safe::least_ffmi(in.body.sex), 0, 'f', 1);
    else if (const Value* nearest = answer_->find(quantity::nearest_fat_percent))
        picture.nearest_percent = nearest->value;
    if (const Value* earliest = answer_->find(quantity::earliest_weeks))
        picture.earliest = from.addDays(7 * static_cast<int>(earliest->value));
    if (seen_week) {
        next_ = from.addDays(7 * std::max(2, *seen_week)); // never under two weeks
        picture.next = next_;
    }
    const auto way = r.plan ? work::on_the_way(*r.history, *r.plan) : std::vector<work::OnTheWay>{};
    report::add_measured(picture, way);
    plot_->show_picture(picture);
    int row = 0;
    const auto number = [&](const QString& words, const QString& value) {
        numbers_->addWidget(label("text", words), row, 0);
        auto* n = label("number", value);
        n->setWordWrap(false);
        numbers_->addWidget(n, row++, 1, Qt::AlignRight);
    };
    if (safe) {
        const Result& a = *answer_;
        const double daily = plan::daily_kcal(in);
        number(QStringLiteral("eaten a day"), QStringLiteral("%1 kcal").arg(intake, 0, 'f', 0));
        number(QStringLiteral("beside the day's need"),
            report::pen::signed_number(intake - daily, 0) + QStringLiteral(" kcal"));
        number(QStringLiteral("or half of it moved"),
            QStringLiteral("%1 kcal eaten").arg((intake + daily) / 2, 0, 'f', 0));
        number(QStringLiteral("pace"), report::change_words(quantity::pace, a[quantity::pace].value));
        number(QStringLiteral("fat to change, only fat"),
            report::change_words(quantity::fat_change, a[quantity::fat_change].value, unit));
        number(QStringLiteral("on arrival, fat"),
            report::value_words(quantity::arrive_fat, a[quantity::arrive_fat].value, unit));
        number(QStringLiteral("on arrival, fat-free"),
            report::value_words(quantity::arrive_fat_free, a[quantity::arrive_fat_free].value, unit));
        number(QStringLiteral("earliest safe date"), records::date_words(*picture.earliest));
        number(QStringLiteral("the static rule would say"),
            QStringLiteral("%1 kcal").arg(a[quantity::static_intake].value, 0, 'f', 0));
    }
    const double percent = picture.target_percent;
    only_fat_->setText(
        QStringLiteral("At %1 % fat, if only fat changed, the scale would say %2.")
            .arg(percent, 0, 'f', 1)
            .arg(report::value_words(quantity::body_mass, plan::mass_if_only_fat(in.body, percent), unit)));
    bands_->setText(QStringLiteral(
        "The smudge is the doubt: how much lean goes along (three schools), and a need up to %1 "
        "kcal from what is reckoned for rest and activity, in two of three people. Water and glycogen of the first "
        "week are not in it. Drag the cross, or type.")
                        .arg(plan::need_error_kcal(in), 0, 'f', 0));
    next_words_->setText(
        next_ ? QStringLiteral("Next visit: %1. By then the planned change passes ± %2 %, what measuring "
                               "alone gives.")
                    .arg(records::date_words(*next_))
                    .arg(lsc, 0, 'f', 1)
        : lsc > 0 ? QStringLiteral("At this pace the change never passes what measuring alone gives (± %1 %).")
                        .arg(lsc, 0, 'f', 1)
                  : QString());
    beside_->setText(
        QStringLiteral("Dynamic model, reduced from Hall 2011; limits: not under %1 kcal, at most 1 kg and 1 % a week "
                       "down, half a kilogram up (this lab's rule); nobody arrives under the least BMI (WHO; from 70 "
                       "years GLIM 2019) or fat-free index (Kyle 2003). Ask a dietitian.")
            .arg(safe::least_intake_kcal(in.body.sex, plan::resting_kcal(in)), 0, 'f', 0));
    if (r.plan) {
        QStringList lines{QStringLiteral("Agreed on %1 by %2: %3 kcal a day.")
                              .arg(records::date_words(start()), r.plan->who)
                              .arg(r.plan->intake_kcal, 0, 'f', 0)};
        for (const work::OnTheWay& one : way) lines << report::way_sentence(one);
        way_->setText(lines.join('\n'));
    }
}

void PlanView::agree()
{
    if (!answer_ || !answer_->find(quantity::intake) || !reading_->main) return;
    work::Plan p;
    p.day = reading_->main->day.toString(Qt::ISODate);
    p.input = input();
    p.intake_kcal = (*answer_)[quantity::intake].value;
    p.method = reading_->main->method;
    if (keep(client_, work::event_of(p))) emit said(QStringLiteral("Agreed. Later visits are drawn on it."));
}

void PlanView::book_next()
{
    const QString who = who_ ? who_() : QString();
    const std::string method = reading_->plan ? reading_->plan->method : reading_->main ? reading_->main->method : "";
    const auto known = method_of(method);
    if (who.isEmpty() || !known) return;
    const QDate from = std::max(next_.value_or(lab_.today().addDays(28)), lab_.today().addDays(1));
    const auto booked = work::book_next(lab_, client_, *known, from, who);
    if (!booked) { // somebody must choose: the day's own panel says what binds
        emit trouble(q(booked.messages().front().text));
        emit book(client_, from);
        return;
    }
    const QDateTime at = records::local_of(booked->from(), lab_.diary->zone());
    emit kept();
    emit said(QStringLiteral("Booked: %1, %2, %3.")
                  .arg(records::date_words(at.date()), at.toString(QStringLiteral("HH:mm")), work::title_of(method)));
}

} // namespace fusain::desk

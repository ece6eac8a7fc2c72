// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/balance_view.h"

#include "core/quality/judgement.h"
#include "core/body/reference.h"
#include "report/reading/reading_words.h"

namespace fusain::desk {

BalanceView::BalanceView(work::Lab& lab, work::OwnGroup& group)
    : CourseView(lab), group_(group), title_(label("heading")), place_(label("text")), bmi_(label("small")),
      group_words_(label("text")), cautions_(label("trouble")), range_(new ChoiceBox), whom_(new ChoiceBox)
{
    const TwoColumns c = two_columns(this, 380);
    title_->setObjectName(QStringLiteral("balance_title"));
    c.left->addWidget(title_);
    plane_ = new Figure([this](QPainter& p, const QRectF& area) {
        report::draw_balance(p, area, picture_, Theme::get().palette(), Theme::get().px(14));
    });
    c.left->addWidget(plane_, 1);
    c.right->addWidget(label("heading", QStringLiteral("Against whom")));
    range_->setObjectName(QStringLiteral("course_range"));
    for (const reference::RangeSet& set : reference::sets())
        range_->addItem(QString::fromUtf8(set.title), QString::fromUtf8(set.id));
    c.right->addWidget(range_);
    range_figure_ = new Figure([this](QPainter& p, const QRectF& area) {
        if (!reading_ || !reading_->main) return;
        const Value& fat = reading_->main->result[quantity::fat_percent];
        const auto* set = reference::find(reading_->range);
        report::draw_range(p, area, fat.value, fat.u,
            set ? reference::place(*set, reading_->main->sex, reading_->main->age_y, fat.value) : std::nullopt,
            Theme::get().palette(), Theme::get().px(13));
    });
    c.right->addWidget(range_figure_);
    place_->setObjectName(QStringLiteral("course_place"));
    c.right->addWidget(place_);
    c.right->addSpacing(8);
    c.right->addWidget(label("heading", QStringLiteral("In this lab")));
    whom_->setObjectName(QStringLiteral("course_group"));
    c.right->addWidget(whom_);
    group_words_->setObjectName(QStringLiteral("course_standing"));
    c.right->addWidget(group_words_);
    c.right->addSpacing(8);
    c.right->addWidget(cautions_);
    c.right->addStretch();
    c.right->addWidget(bmi_);
    connect(range_, &QComboBox::activated, this, [this] { emit range_chosen(range_->currentData().toString()); });
    connect(whom_, &QComboBox::activated, this, &BalanceView::refresh);
    connect(&group_, &work::OwnGroup::looked, this, &BalanceView::refresh);
    connect(&Theme::get(), &Theme::changed, this, &BalanceView::refresh);
}

void BalanceView::show_reading(const work::Reading& reading)
{
    reading_ = &reading;
    range_->setCurrentIndex(std::max(0, range_->findData(q(reading.range))));
    const QVariant chosen = whom_->currentData();
    whom_->clear();
    const records::Client& client = reading.history->client();
    whom_->addItem(
        client.sex == Sex::male ? QStringLiteral("men of this lab") : QStringLiteral("women of this lab"), QString());
    if (!client.role.isEmpty()) whom_->addItem(QStringLiteral("the same, role %1").arg(client.role), client.role);
    whom_->setCurrentIndex(std::max(0, whom_->findData(chosen)));
    refresh();
}

void BalanceView::refresh()
{
    if (!reading_ || !isVisible()) return;
    const work::Reading& r = *reading_;
    picture_ = {};
    QStringList cautions;
    range_figure_->setFixedHeight(Theme::get().px(r.main ? 84 : 0));
    if (!r.main) {
        title_->setText(QStringLiteral("No test of this day tells fat and fat-free mass."));
        for (QLabel* l : {place_, bmi_, group_words_}) l->clear();
    } else {
        const work::Measurement& m = *r.main;
        picture_ = report::balance_picture(*r.history, m.method, r.day);
        title_->setText(report::balance_words(m));
        const auto* set = reference::find(r.range);
        const Value& fat = m.result[quantity::fat_percent];
        const auto place = set ? reference::place(*set, m.sex, m.age_y, fat.value) : std::nullopt;
        place_->setText(place ? QStringLiteral("%1 % fat by %2: %3. Source: %4.")
                                    .arg(fat.value, 0, 'f', 1)
                                    .arg(work::title_of(m.method), q(place->sentence), QString::fromUtf8(set->source))
                              : QStringLiteral("%1 has no range for this age and sex.")
                                    .arg(set ? QString::fromUtf8(set->title) : QStringLiteral("The reference")));
        bmi_->setText(report::bmi_sentence(m));
        const work::OwnGroup::Whom whom{m.method, m.sex, whom_->currentData().toString(), r.history->client().id};
        QStringList words;
        if (!group_.is_read()) {
            words << QStringLiteral("The lab's results are being read …");
        } else {
            for (const Quantity* what : {&quantity::fat_percent, &quantity::ffmi, &quantity::fmi}) {
                const auto standing = group_.standing(whom, *what, m.result[*what].value);
                if (!standing) {
                    words = {report::standing_words(standing, whom, *what)};
                    break;
                }
                words << (words.isEmpty() ? report::standing_words(standing, whom, *what)
                                          : QStringLiteral("%1: higher than %2 of 100.")
                                                .arg(QString::fromUtf8(what->title))
                                                .arg(standing->percentile, 0, 'f', 0));
            }
        }
        group_words_->setText(words.join('\n'));
        for (const Message& one : m.messages)
            if (judgement::forbids_plan(one) || judgement::asks_again(one))
                cautions << QStringLiteral("◆ ") + q(one.text);
    }
    cautions_->setText(cautions.join('\n'));
    cautions_->setVisible(!cautions.isEmpty());
    plane_->update();
    range_figure_->update();
}

} // namespace fusain::desk

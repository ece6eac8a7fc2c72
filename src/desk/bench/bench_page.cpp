// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/bench_page.h"

#include "desk/bench/method_desk.h"

#include "report/page/figures.h"
#include "report/sheets/sheets.h"

#include <QMouseEvent>
#include <QPainter>

namespace fusain::desk {

namespace step = bench::step;
using bench::Step;
using look::Voice;

Spine::Spine(work::Session& session, QWidget* parent) : QWidget(parent), session_(session)
{
    setMinimumHeight(8 * 36);
    setCursor(Qt::PointingHandCursor);
}

void Spine::show_step(Step step)
{
    shown_ = step;
    update();
}

double Spine::row_height() const
{
    return std::min<double>(
        Theme::get().px(50), static_cast<double>(height()) / static_cast<double>(session_.visit().steps().size()));
}

QString Spine::value_of(Step step) const
{
    if (session_.by_eye() && step == shown_) return {};
    const bench::Visit& v = session_.visit();
    const auto& summed = desk_of(v).summed;
    if (!v.done(step) && std::find(summed.begin(), summed.end(), step) == summed.end()) return {};
    if (step == step::mass) return Units::get().text(Measure::mass, *v.mass_kg, 2);
    if (step == step::who || step == step::stops || step == step::result) return {};
    return desk_of(v).value(step, v);
}

void Spine::paintEvent(QPaintEvent*)
{
    const Theme& t = Theme::get();
    const look::Palette& c = t.palette();
    const bench::Visit& v = session_.visit();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double row = row_height(), x = t.px(12);
    const auto& steps = v.steps();
    const double count = static_cast<double>(steps.size());
    const auto next = static_cast<double>(std::find(steps.begin(), steps.end(), v.next_step()) - steps.begin());
    p.setPen(QPen(c.line, 2));
    p.drawLine(QPointF(x, row / 2), QPointF(x, (count - 0.5) * row));
    p.setPen(QPen(c.ink, 3));
    p.drawLine(QPointF(x, row / 2), QPointF(x, (next + 0.5) * row));
    for (std::size_t n = 0; n < steps.size(); ++n) {
        const Step step = steps[n];
        const double i = static_cast<double>(n);
        const QPointF at(x, (i + 0.5) * row);
        const bool here = step == shown_, reached = i <= next;
        if (here) {
            p.setPen(QPen(c.live, 4));
            p.setBrush(c.paper);
            p.drawEllipse(at, 7.5, 7.5);
        } else {
            p.setPen(QPen(reached ? c.ink : c.line, 2));
            p.setBrush(v.done(step) ? c.ink : c.paper);
            p.drawEllipse(at, 5, 5);
        }
        const QString value = value_of(step);
        const QRectF r(x + t.px(20), i * row, width() - x - t.px(20), row);
        p.setFont(look::font(Voice::text, t.px(15), here));
        p.setPen(here ? c.ink : reached ? c.smudge : c.faint);
        const QString words = QString::fromUtf8(step->title);
        p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, words);
        const double taken = p.fontMetrics().horizontalAdvance(words);
        p.setFont(look::font(Voice::measured, t.px(13)));
        p.setPen(c.smudge);
        if (taken + p.fontMetrics().horizontalAdvance(value) + t.px(6) < r.width())
            p.drawText(r, Qt::AlignRight | Qt::AlignVCenter, value);
    }
}

void Spine::mousePressEvent(QMouseEvent* e)
{
    const auto& steps = session_.visit().steps();
    const auto i = static_cast<long>(e->position().y() / row_height());
    const long next = std::find(steps.begin(), steps.end(), session_.visit().next_step()) - steps.begin();
    if (i >= 0 && i <= next && !session_.live().trial) emit chosen(steps[static_cast<std::size_t>(i)]);
}

BenchPage::BenchPage(work::Session& session, work::Incoming& incoming, QWidget* parent)
    : QWidget(parent), session_(session), incoming_(incoming), name_(label("heading")), who_(label("small")),
      line_trouble_(label("trouble")), spine_(new Spine(session)), panels_(new Pages)
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);

    auto* rail = rail_ = new QWidget;
    rail->setObjectName(QStringLiteral("rail"));
    auto* r = new QVBoxLayout(rail);
    r->setContentsMargins(20, 22, 16, 16);
    r->addWidget(name_);
    r->addWidget(who_);
    r->addSpacing(10);
    r->addWidget(spine_, 1);
    r->addWidget(line_trouble_);
    caution_ = label("small");
    r->addWidget(caution_);
    auto* give_up =
        new KeyButton(QKeySequence(QStringLiteral("Ctrl+G")), QStringLiteral("Ctrl G"), QStringLiteral("give up"));
    give_up->setObjectName(QStringLiteral("give_visit_up"));
    auto* why = new QLineEdit;
    why->setObjectName(QStringLiteral("give_up_reason"));
    why->setPlaceholderText(QStringLiteral("why it ends without a result"));
    why->hide();
    r->addWidget(why);
    r->addWidget(give_up, 0, Qt::AlignLeft);
    connect(give_up, &QAbstractButton::clicked, this, [why] {
        why->show();
        why->setFocus();
    });
    connect(why, &QLineEdit::returnPressed, this, [this, why] {
        session_.act(bench::event::GivenUp{why->text().trimmed().toStdString()});
        why->clear();
        why->hide();
        setFocus(Qt::OtherFocusReason);
    });
    columns->addWidget(rail);
    columns->addWidget(hairline(true));
    columns->addWidget(panels_, 1);

    side_ = new QWidget;
    side_->setObjectName(QStringLiteral("side"));
    auto* s = new QVBoxLayout(side_);
    s->setContentsMargins(20, 22, 18, 16);
    s->addWidget(label("heading", QStringLiteral("So far")));
    so_far_note_ = label("small");
    s->addWidget(so_far_note_);
    s->addSpacing(8);
    ladder_ = new Figure([this](QPainter& p, const QRectF& area) {
        if (so_far_)
            report::draw_ladder(p, area.adjusted(8, 0, 0, 0), so_far_->ladder, Theme::get().palette(),
                Theme::get().px(14), mass_unit());
    });
    s->addWidget(ladder_);
    so_far_number_ = label("big");
    so_far_number_->setObjectName(QStringLiteral("so_far"));
    so_far_range_ = label("small");
    so_far_doubt_ = label("small");
    s->addWidget(so_far_number_);
    s->addWidget(so_far_range_);
    s->addSpacing(8);
    s->addWidget(so_far_doubt_);
    s->addStretch();
    side_line_ = hairline(true);
    columns->addWidget(side_line_);
    columns->addWidget(side_);

    connect(spine_, &Spine::chosen, this, [this](Step step) {
        if (step == step::result)
            emit to_result();
        else
            show_step(step);
    });
    connect(&session_, &work::Session::changed, this, &BenchPage::on_changed);
    connect(&session_, &work::Session::live_changed, this, [this] {
        if (!isVisible() || !session_.is_open()) return;
        panel(step_)->on_live();
        const bench::Live& l = session_.live();
        const bool heard = !l.speaks(session_.visit().method) || desk_of(session_.visit()).heard(l);
        const QString words =
            heard ? QString()
                  : QStringLiteral("◆ ") +
                        (l.trouble.empty() ? QStringLiteral("Its instrument is not heard.") : q(l.trouble));
        if (line_trouble_->text() != words) line_trouble_->setText(words);
    });
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        // an answered step leads to the next open one
        const bench::Visit& v = session_.visit();
        const auto& own = v.row().kinds;
        const bool answer = e.is<bench::event::Identity>() || e.is<bench::event::Mass>() ||
                            e.is<bench::event::Stops>() || own.count(e.kind) > 0;
        const auto& steps = v.steps(); // what is shown may still be a step of another method's visit
        const bool ours = std::find(steps.begin(), steps.end(), step_) != steps.end();
        if (answer && (!ours || (!is_summed(step_) && v.done(step_)))) show_step(next_open());
        if (e.is<bench::event::TrialTaken>() && !is_summed(step_) && v.done(step_)) show_step(next_open());
        if (e.kind == v.row().ends && v.result()) emit to_result();
        if (e.is<bench::event::GivenUp>()) emit to_clients();
    });
    connect(&Units::get(), &Units::changed, this, [this] {
        spine_->update();
        show_so_far();
    });
    connect(&Theme::get(), &Theme::changed, this, [this] {
        spine_->update();
        resizeEvent(nullptr);
    });
}

bool BenchPage::is_summed(Step step) const
{
    const auto& summed = desk_of(session_.visit()).summed;
    return std::find(summed.begin(), summed.end(), step) != summed.end();
}

void BenchPage::resizeEvent(QResizeEvent*)
{
    const Theme& t = Theme::get();
    rail_->setFixedWidth(t.px(238));
    side_->setFixedWidth(t.px(276));
    ladder_->setFixedHeight(t.px(280));
    side_->setVisible(is_summed(step_) && width() >= t.px(1060) && !session_.by_eye());
    side_line_->setVisible(!side_->isHidden());
}

void BenchPage::begin()
{
    const bench::Visit& v = session_.visit();
    name_->setText(q(v.subject.name));
    who_->setText(QStringLiteral("%1 y · %2 · number %3")
                      .arg(static_cast<int>(v.age_y()))
                      .arg(QString::fromLatin1(word(v.subject.sex)), q(v.subject.number)));
    caution_->setText(QString::fromUtf8(v.row().caution));
    step_ = v.steps().front();
    on_changed();
    show_step(v.stopped() ? step::stops : next_open());
}

Step BenchPage::next_open() const
{
    const bench::Visit& v = session_.visit();
    const Step next = v.next_step();
    return next == step::result ? v.steps()[v.steps().size() - 2] : next;
}

Panel* BenchPage::panel(Step step)
{
    Panel*& p = by_step_[step];
    if (p) return p;
    p = make_panel(step, session_);
    p->offer_from(incoming_);
    panels_->addWidget(p);
    connect(p, &Panel::go_on, this, &BenchPage::to_result);
    connect(p, &Panel::give_up, this, &BenchPage::to_clients);
    connect(p, &Panel::to_step, this, &BenchPage::show_step);
    return p;
}

void BenchPage::show_step(Step step)
{
    step_ = step;
    session_.attend(step);
    spine_->show_step(step);
    Panel* shown = panel(step);
    panels_->setCurrentWidget(shown);
    shown->setFocus();
    shown->enter(); // which may want a field to be typed in
    resizeEvent(nullptr);
}

void BenchPage::on_changed()
{
    if (!session_.is_open()) return;
    spine_->update();
    show_so_far();
    panel(step_)->on_changed();
}

void BenchPage::show_so_far()
{
    so_far_.reset();
    const bench::Visit& v = session_.visit();
    auto result = v.result();
    const bool provisional = !result;
    const Messages why = result.messages();
    if (provisional) result = v.provisional();
    if (result) so_far_ = *result;
    const bool impossible = provisional && !why.empty() && why.front().code == "not_a_body";
    so_far_note_->setText(impossible    ? QStringLiteral("◆ ") + q(why.front().text)
                          : !so_far_    ? QString::fromUtf8(v.row().before_any)
                          : provisional ? QString::fromUtf8(v.row().not_yet)
                                        : QStringLiteral("Moves with every reading."));
    so_far_number_->setText(
        so_far_ ? QStringLiteral("%1 %").arg((*so_far_)[quantity::fat_percent].value, 0, 'f', 1) : QString());
    const Quantity& with = *desk_of(v).with_fat;
    so_far_range_->setText(so_far_ ? QStringLiteral("fat, %1\n%2 %3 %4")
                                         .arg(report::likely_range((*so_far_)[quantity::fat_percent].value,
                                             so_far_->budget(quantity::fat_percent).u))
                                         .arg(QString::fromUtf8(with.title).toLower())
                                         .arg((*so_far_)[with].value, 0, 'f', std::min(with.decimals, 4))
                                         .arg(QString::fromUtf8(with.unit))
                                   : QString());
    so_far_doubt_->setText(
        so_far_ ? QStringLiteral("Biggest doubt: %1.")
                      .arg(q(std::string(so_far_->budget(quantity::fat_percent).shares.front().input.title)))
                : QString());
    ladder_->update();
}

} // namespace fusain::desk

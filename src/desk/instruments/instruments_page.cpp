// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/instruments/instruments_page.h"

#include "desk/instruments/connect_page.h"
#include "desk/instruments/layout_page.h"
#include "desk/precision/study_page.h"
#include "records/base/clock.h"
#include "report/page/charts.h"
#include "report/sheets/sheets.h"

#include <QGridLayout>
#include <QVBoxLayout>

namespace fusain::desk {

InstrumentsPage::InstrumentsPage(work::Lab& lab, work::Session& session, QWidget* parent)
    : QWidget(parent), lab_(lab), list_(list_of_words()), right_(new Pages), name_(label("title")),
      facts_(label("small")), ready_(label("heading")), chart_words_(label("text")), history_(label("text")),
      check_(new CheckPanel(lab, session)), form_(new InstrumentForm(lab)), hours_(new HoursForm(lab)),
      lines_(new ConnectPage(lab, session)), studies_(new StudyPage(lab)), layouts_(new LayoutPage(lab))
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);
    columns->addWidget(make_list());
    columns->addWidget(hairline(true));

    right_->addWidget(make_record());
    right_->addWidget(check_);
    right_->addWidget(form_);
    right_->addWidget(hours_);
    right_->addWidget(lines_);
    right_->addWidget(studies_);
    right_->addWidget(layouts_);
    columns->addWidget(right_, 1);

    connect_pages();
    connect_record();
    setFocusPolicy(Qt::StrongFocus);
}

QWidget* InstrumentsPage::make_list()
{
    auto* left = new QWidget;
    auto* l = new QVBoxLayout(left);
    l->setContentsMargins(22, 24, 10, 16);
    l->addWidget(label("title", QStringLiteral("Instruments")));
    list_->setObjectName(QStringLiteral("instruments"));
    list_->setSpacing(3);
    l->addWidget(list_, 1);
    auto* add = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+N")), QStringLiteral("Ctrl N"), QStringLiteral("add an instrument"));
    add->setObjectName(QStringLiteral("add_instrument"));
    auto* people = new KeyButton(Qt::Key_H, QStringLiteral("H"), QStringLiteral("hours and people"));
    people->setObjectName(QStringLiteral("lab_hours"));
    auto* lines = new KeyButton(Qt::Key_L, QStringLiteral("L"), QStringLiteral("lines: who speaks"));
    lines->setObjectName(QStringLiteral("lab_lines"));
    l->addWidget(add);
    l->addWidget(lines);
    l->addWidget(people);
    connect(add, &QAbstractButton::clicked, this, &InstrumentsPage::add_one);
    connect(people, &QAbstractButton::clicked, this, &InstrumentsPage::show_people);
    connect(lines, &QAbstractButton::clicked, this, &InstrumentsPage::show_lines);
    with_theme(this, [left] { left->setFixedWidth(Theme::get().px(300)); });
    // a paper and what is said of it need the whole width
    connect(right_, &QStackedWidget::currentChanged, this,
        [this, left] { left->setVisible(right_->currentWidget() != layouts_); });
    return left;
}

QWidget* InstrumentsPage::make_record()
{
    auto* record = new QWidget;
    auto* r = new QVBoxLayout(record);
    r->setContentsMargins(34, 26, 34, 14);
    r->setSpacing(5);
    name_->setObjectName(QStringLiteral("instrument_name"));
    ready_->setObjectName(QStringLiteral("instrument_ready"));
    r->addWidget(name_);
    r->addWidget(facts_);
    r->addSpacing(4);
    r->addWidget(ready_);
    auto* keys = new WrappedRow;
    check_key_ = new KeyButton(Qt::Key_C, QStringLiteral("C"), QString());
    check_key_->setObjectName(QStringLiteral("begin_check"));
    check_key_->set_main(true);
    edit_ = new KeyButton(Qt::Key_F2, QStringLiteral("F2"), QStringLiteral("change the entry"));
    keys->addWidget(check_key_);
    keys->addWidget(edit_);
    baseline_ = new KeyButton(Qt::Key_B, QStringLiteral("B"), QStringLiteral("new baseline after a service"));
    baseline_->setObjectName(QStringLiteral("new_baseline"));
    keys->addWidget(baseline_);
    study_key_ = new KeyButton(Qt::Key_S, QStringLiteral("S"), QStringLiteral("what its numbers are worth"));
    study_key_->setObjectName(QStringLiteral("show_studies"));
    keys->addWidget(study_key_);
    layout_key_ = new KeyButton(Qt::Key_Y, QStringLiteral("Y"), QStringLiteral("what it shows"));
    layout_key_->setObjectName(QStringLiteral("teach_layout"));
    keys->addWidget(layout_key_);
    r->addLayout(keys);
    service_ = new QLineEdit;
    service_->setObjectName(QStringLiteral("service_words"));
    service_->setPlaceholderText(QStringLiteral("what was done to it; the chart then begins anew"));
    service_->hide();
    r->addWidget(service_);
    r->addSpacing(6);
    chart_words_->setObjectName(QStringLiteral("chart_words"));
    r->addWidget(chart_words_);
    chart_ = new Figure([this](QPainter& p, const QRectF& area) {
        const auto i = lab_.diary->instrument(shown_);
        if (!i) return;
        const auto of = bench::chart_of(*i->kind, i->check_by.toStdString(), i->reference);
        report::draw_control_chart(p, area, chart_now_, points_, of.reference, QString::fromUtf8(of.unit), of.decimals,
            Theme::get().palette(), Theme::get().px(13));
    });
    with_theme(this, [this] { chart_->setMinimumHeight(Theme::get().px(230)); });
    history_->setTextFormat(Qt::RichText);
    history_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    auto* checks = new QWidget;
    auto* c = new QVBoxLayout(checks);
    c->setContentsMargins(0, 0, 12, 0);
    c->addWidget(chart_, 3);
    c->addWidget(history_, 2);
    r->addWidget(new Scroll(checks), 1);
    return record;
}

/// What the pages beside the record say.
void InstrumentsPage::connect_pages()
{
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row < 0 || row >= static_cast<int>(all_.size())) return;
        shown_ = all_[static_cast<std::size_t>(row)].id;
        right_->setCurrentIndex(0);
        show_instrument();
    });
    connect(lines_, &ConnectPage::left, this, [this] {
        right_->setCurrentIndex(0);
        refresh();
        setFocus(Qt::OtherFocusReason);
        emit kept();
    });
    connect(study_key_, &QAbstractButton::clicked, this, &InstrumentsPage::show_studies);
    connect(studies_, &StudyPage::left, this, [this] {
        right_->setCurrentIndex(0);
        setFocus(Qt::OtherFocusReason);
    });
    connect(layout_key_, &QAbstractButton::clicked, this, &InstrumentsPage::teach_layout);
    connect(layouts_, &LayoutPage::left, this, [this] {
        right_->setCurrentIndex(0);
        refresh();
        setFocus(Qt::OtherFocusReason);
    });
    connect(layouts_, &LayoutPage::kept, this, [this](long id) {
        right_->setCurrentIndex(0);
        select(id);
        setFocus(Qt::OtherFocusReason);
        emit note(QStringLiteral("The layout is kept: what it shows is typed at the bench, or read from a file."));
        emit kept();
    });
    connect(studies_, &StudyPage::trouble, this, &InstrumentsPage::trouble);
    connect(studies_, &StudyPage::note, this, &InstrumentsPage::note);
    connect(studies_, &StudyPage::measure, this, &InstrumentsPage::measure);
}

void InstrumentsPage::connect_record()
{
    connect(edit_, &QAbstractButton::clicked, this, [this] {
        if (const auto i = lab_.diary->instrument(shown_)) form_->edit(*i);
        right_->setCurrentWidget(form_);
    });
    connect(baseline_, &QAbstractButton::clicked, this, [this] {
        service_->clear();
        service_->show();
        service_->setFocus();
    });
    connect(service_, &QLineEdit::returnPressed, this, [this] {
        const QString who = who_ ? who_() : QString();
        const auto i = lab_.diary->instrument(shown_);
        if (who.isEmpty() || !i) return;
        const auto kept = lab_.checks.new_baseline(*i, who, service_->text(), lab_.now());
        if (!kept) return emit trouble(q(kept.messages().front().text));
        service_->hide();
        setFocus(Qt::OtherFocusReason);
        lab_.say_changed();
        refresh();
    });
    connect(check_key_, &QAbstractButton::clicked, this, &InstrumentsPage::begin_check);
    connect(check_, &CheckPanel::done, this, [this] {
        right_->setCurrentIndex(0);
        refresh();
        setFocus(Qt::OtherFocusReason);
        emit check_left(shown_);
    });
    connect(check_, &CheckPanel::trouble, this, &InstrumentsPage::trouble);
    connect(&lab_, &work::Lab::changed, this, [this] { // a check that is done, while its panel is still there
        if (isVisible() && right_->currentWidget() == check_) list_all();
    });
    connect(form_, &InstrumentForm::saved, this, [this](long id, InstrumentForm::Then then) {
        select(id);
        right_->setCurrentIndex(0);
        if (then == InstrumentForm::Then::connect) return connect_one(id);
        if (then == InstrumentForm::Then::teach) return teach_layout();
        emit kept();
    });
    connect(hours_, &HoursForm::kept, this, &InstrumentsPage::kept);
    connect(form_, &InstrumentForm::cancelled, this, [this] { right_->setCurrentIndex(0); });
}

void InstrumentsPage::set_technician(std::function<QString()> who)
{
    who_ = who;
    studies_->set_technician(who);
    check_->set_technician(std::move(who));
}

void InstrumentsPage::show_studies()
{
    const auto i = lab_.diary->instrument(shown_);
    if (!i || !i->kind->method) return;
    right_->setCurrentWidget(studies_);
    studies_->show_for(*i);
}

void InstrumentsPage::begin_check()
{
    const auto i = lab_.diary->instrument(shown_);
    if (!i) return;
    right_->setCurrentWidget(check_);
    if (const auto why = check_->begin(*i)) {
        right_->setCurrentIndex(0);
        emit trouble(q(why->text));
    }
}

void InstrumentsPage::show_lines()
{
    right_->setCurrentWidget(lines_);
    lines_->refresh();
}

void InstrumentsPage::connect_one(long instrument_id)
{
    ConnectForm::Wanted wanted;
    if (const auto i = lab_.diary->instrument(instrument_id)) {
        wanted.name = i->name;
        wanted.feeds = i->kind->feeds;
    }
    show_lines();
    lines_->connect_one(wanted);
}

void InstrumentsPage::add_one()
{
    form_->edit({});
    right_->setCurrentWidget(form_);
}

void InstrumentsPage::show_people()
{
    hours_->refresh();
    right_->setCurrentWidget(hours_);
}

void InstrumentsPage::select(long id)
{
    shown_ = id;
    refresh();
}

void InstrumentsPage::teach_layout()
{
    const auto i = lab_.diary->instrument(shown_);
    if (!i || !i->kind->method) return;
    right_->setCurrentWidget(layouts_);
    layouts_->begin(*i);
}

void InstrumentsPage::list_all()
{
    all_ = lab_.diary->instruments();
    const QDateTime now = lab_.now();
    const QSignalBlocker quiet(list_);
    list_->clear();
    int row = -1;
    for (std::size_t i = 0; i < all_.size(); ++i) {
        const auto ready = lab_.checks.ready(all_[i], now);
        const bool careful = ready.ready && ready.words != "Ready.";
        list_->addItem(
            QStringLiteral("%1  %2\n     %3")
                .arg(!all_[i].in_use ? QStringLiteral("–")
                     : ready.ready   ? (careful ? QStringLiteral("◆") : QStringLiteral("●"))
                                     : QStringLiteral("○"),
                    all_[i].name,
                    !all_[i].in_use ? QStringLiteral("out of use")
                    : ready.ready   ? (careful ? QStringLiteral("ready, look at its chart") : QStringLiteral("ready"))
                                    : q(ready.words).section(". ", 0, 0)));
        list_->item(static_cast<int>(i))->setSizeHint({10, Theme::get().px(52)});
        if (all_[i].id == shown_) row = static_cast<int>(i);
    }
    if (row < 0 && !all_.empty()) {
        row = 0;
        shown_ = all_[0].id;
    }
    list_->setCurrentRow(row);
}

void InstrumentsPage::refresh()
{
    list_all();
    if (all_.empty()) {
        shown_ = 0;
        right_->setCurrentWidget(form_);
        form_->edit({});
        return;
    }
    show_instrument();
}

void InstrumentsPage::show_instrument()
{
    const auto i = lab_.diary->instrument(shown_);
    if (!i) return;
    const bench::InstrumentKind& k = *i->kind;
    const std::string way = i->check_by.toStdString();
    const bool by_reference = bench::check_way(way) == &bench::check_ways[0];
    name_->setText(i->name);
    facts_->setText(
        QStringLiteral("%1  ·  serial %2%3%4%5%6")
            .arg(QString::fromUtf8(k.title), i->serial,
                i->location.isEmpty() ? QString() : QStringLiteral("  ·  ") + i->location,
                i->profile.isEmpty() ? QString() : QStringLiteral("  ·  profile ") + i->profile,
                !by_reference
                    ? QStringLiteral("  ·  checked by: %1").arg(QString::fromUtf8(bench::check_way(way)->title))
                : *k.reference_title ? QStringLiteral("  ·  %1 %2 %3")
                                           .arg(QString::fromUtf8(k.reference_title))
                                           .arg(i->reference, 0, 'g', 8)
                                           .arg(QString::fromUtf8(k.unit))
                                     : QString(),
                i->calibration_due.isEmpty()
                    ? QString()
                    : QStringLiteral("  ·  calibration due ") + records::date_words(i->calibration_due.toStdString())));
    const auto ready = lab_.checks.ready(*i, lab_.now());
    ready_->setText((ready.ready ? QString() : QStringLiteral("◆ ")) + q(ready.words));
    const auto open = lab_.checks.open_run(i->id, lab_.now());
    check_key_->set_words(
        open ? QStringLiteral("go on with the check")
             : q(bench::check_title(*i->kind, way)).left(1).toLower() + q(bench::check_title(*i->kind, way)).mid(1));
    check_key_->setVisible(way != "none");
    chart_now_ = lab_.checks.chart(*i);
    points_ = lab_.checks.points(*i);
    const bool charted = *k.reference_title && way != "self_test" && way != "none";
    chart_->setVisible(charted || *k.chart_words);
    chart_words_->setText(
        charted
            ? (way == "person" ? QStringLiteral("Percent fat of whoever was measured, over what is usual for them. ")
                               : QString()) +
                  q(chart_now_.words)
            : QString::fromUtf8(k.chart_words));
    study_key_->setVisible(k.method.has_value());
    layout_key_->setVisible(k.method.has_value() && i->way != QStringLiteral("line"));
    layout_key_->set_words(i->layout.isEmpty() ? QStringLiteral("it shows finished numbers: say which")
                                               : QStringLiteral("change what it shows"));
    baseline_->setVisible(charted && chart_now_.baseline_n > 0);
    service_->hide();
    chart_words_->setVisible(ready.words.find(chart_now_.words) == std::string::npos); // not twice
    chart_->update();
    QString rows;
    for (const records::CheckRow& c : lab_.checks.history(i->id, 12)) {
        QString words = c.finished ? c.words : QStringLiteral("not finished");
        for (const QString& remark : lab_.checks.remarks(c.id))
            words += QStringLiteral("<br>Noted: ") + remark.toHtmlEscaped();
        rows += QStringLiteral(
            "<tr><td style='padding:2px 14px 2px 0; white-space:nowrap'>%1 %2</td><td style='padding:2px 14px 2px 0; "
            "white-space:nowrap'>%3</td><td style='padding:2px 0'>%4 %5</td></tr>")
                    .arg(report::day_words(c.started_at, lab_.diary->zone()),
                        QDateTime::fromString(c.started_at, Qt::ISODateWithMs)
                            .toTimeZone(lab_.diary->zone())
                            .toString(QStringLiteral("HH:mm")),
                        c.who.toHtmlEscaped(), c.finished && !c.passed ? QStringLiteral("◆") : QString(), words);
    }
    history_->setText(QStringLiteral("<table>%1</table>").arg(rows));
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/precision/study_form.h"

#include "bench/visit/methods.h"
#include "report/precision/study_words.h"

#include <QGridLayout>
#include <QVBoxLayout>

namespace fusain::desk {

using work::StudyKind;

StudyForm::StudyForm(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), heading_(label("title")), worth_(label("text")), dose_(label("trouble")),
      kind_(new ChoiceBox), second_(new ChoiceBox), repaired_(new QLineEdit), people_(new QLineEdit),
      times_(new QLineEdit), operators_(list_of_words())
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(34, 26, 34, 14);
    v->addWidget(heading_);
    v->addSpacing(6);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(18);
    grid->setVerticalSpacing(6);
    grid->setColumnStretch(2, 1);
    const auto row = [&](const char* words, QWidget* field, const char* name, std::vector<QWidget*>* with = nullptr) {
        auto* title = label("small", QString::fromUtf8(words));
        auto* bad = label("trouble");
        bad->hide();
        field->setObjectName(QStringLiteral("study_") + QString::fromLatin1(name));
        const int at = grid->rowCount();
        grid->addWidget(title, at, 0, Qt::AlignTop);
        grid->addWidget(field, at, 1);
        grid->addWidget(bad, at + 1, 1);
        troubles_[name] = bad;
        if (with) *with = {title, field};
        with_theme(field, [title, field] {
            title->setMinimumWidth(Theme::get().px(190));
            field->setFixedWidth(Theme::get().px(380));
        });
    };
    kind_->addItem(QStringLiteral("how well it repeats: the same people again"));
    kind_->addItem(QStringLiteral("beside another instrument: the same people on both"));
    kind_->addItem(QStringLiteral("after a repair: the same people before and after"));
    kind_->addItem(QStringLiteral("over days: the same people on days of their own"));
    row("What is asked", kind_, "kind");
    row("The other instrument", second_, "second", &of_second_);
    row("Repaired on", repaired_, "repaired_on", &of_repair_);
    repaired_->setPlaceholderText(QStringLiteral("year-month-day"));
    row("People", people_, "people");
    row("Repeats of each", times_, "times", &of_times_);
    row("Whose repeats count", operators_, "operators");
    with_theme(operators_, [this] { operators_->setFixedHeight(Theme::get().px(120)); });
    v->addLayout(grid);
    worth_->setObjectName(QStringLiteral("study_worth"));
    v->addWidget(worth_);
    v->addWidget(dose_);
    auto* keys = new WrappedRow;
    auto* keep = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+S")), QStringLiteral("Ctrl S"), QStringLiteral("begin the study"));
    keep->setObjectName(QStringLiteral("begin_study"));
    keep->set_main(true);
    auto* leave = new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("leave"));
    keys->addWidget(keep);
    keys->addWidget(leave);
    v->addSpacing(6);
    v->addLayout(keys);
    v->addStretch();
    connect(keep, &QAbstractButton::clicked, this, &StudyForm::save);
    connect(leave, &QAbstractButton::clicked, this, &StudyForm::left);
    connect(kind_, &QComboBox::currentIndexChanged, this, &StudyForm::show_what);
    for (QLineEdit* e : {people_, times_, repaired_}) connect(e, &QLineEdit::textChanged, this, &StudyForm::show_what);
}

void StudyForm::begin(const records::Instrument& instrument, const QString& who)
{
    instrument_ = instrument;
    who_ = who;
    heading_->setText(QStringLiteral("A study on %1").arg(instrument.name));
    second_->clear();
    for (const auto& i : lab_.diary->instruments())
        if (i.kind == instrument.kind && i.id != instrument.id && i.in_use) second_->addItem(i.name, i.serial);
    operators_->clear();
    for (const auto& p : lab_.diary->staff()) {
        if (!p.active) continue;
        auto* item = new QListWidgetItem(p.name, operators_);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(p.name == who ? Qt::Checked : Qt::Unchecked);
    }
    kind_->setCurrentIndex(0);
    repaired_->clear();
    people_->setText(QStringLiteral("15"));
    times_->setText(QStringLiteral("3"));
    show_what();
    kind_->setFocus();
}

work::Design StudyForm::design() const
{
    work::Design d;
    d.kind = static_cast<StudyKind>(kind_->currentIndex());
    d.method = *instrument_.kind->method;
    d.instrument = instrument_.serial;
    if (d.kind == StudyKind::instruments) d.second = second_->currentData().toString();
    if (d.kind == StudyKind::repair) d.repaired_on = QDate::fromString(repaired_->text().trimmed(), Qt::ISODate);
    for (int i = 0; i < operators_->count(); ++i)
        if (operators_->item(i)->checkState() == Qt::Checked) d.operators << operators_->item(i)->text();
    d.people = people_->text().trimmed().toInt();
    d.times = d.kind == StudyKind::repeats || d.kind == StudyKind::days ? times_->text().trimmed().toInt() : 2;
    return d;
}

void StudyForm::show_what()
{
    for (auto& [field, bad] : troubles_) bad->hide(); // said of what stood there
    const work::Design d = design();
    for (QWidget* w : of_second_) w->setVisible(d.kind == StudyKind::instruments);
    for (QWidget* w : of_repair_) w->setVisible(d.kind == StudyKind::repair);
    const bool repeats = d.kind == StudyKind::repeats || d.kind == StudyKind::days;
    for (QWidget* w : of_times_) w->setVisible(repeats);
    const int free = work::degrees(d);
    worth_->setText(
        repeats ? (d.people > 0 && d.times > 1
                          ? report::worth_words(free) +
                                QStringLiteral(" Fifteen people three times each, or thirty twice, "
                                               "are asked for (ISCD 2019).") +
                                (d.kind == StudyKind::days
                                        ? QStringLiteral(
                                              " Each repeat on a day of its own, within %1 days, prepared alike: "
                                              "what days add to a change is then measured here, not taken from "
                                              "experience.")
                                              .arg(work::repeats_days)
                                        : QString())
                          : QString())
        : d.kind == StudyKind::instruments
            ? QStringLiteral("The same people on both, within %1 hours; they begin on them by turns. The "
                             "shift's limits say whether tests on both may be compared.")
                  .arg(work::repeats_hours)
            : QStringLiteral("From the day of the repair on, tests are held against those before only when this study "
                             "says so. The same people within %1 days, at an unchanged mass.")
                  .arg(work::repair_days));
    const bool beam = d.method->licence;
    dose_->setText(beam ? QStringLiteral("◆ Every repeat is one more dose for somebody who gains nothing by it: local "
                                         "rules and an ethics board decide whether this may be done.")
                        : QString());
    dose_->setVisible(beam);
}

void StudyForm::save()
{
    show_what();
    const auto done = work::begin_study(lab_, design(), who_);
    if (done) {
        emit begun(*done);
        return;
    }
    for (const Message& m : done.messages()) {
        const auto at = troubles_.find(m.field == "instrument" ? "kind" : m.field);
        QLabel* bad = at == troubles_.end() ? troubles_["kind"] : at->second;
        bad->setText(q(m.text));
        bad->show();
    }
}

} // namespace fusain::desk

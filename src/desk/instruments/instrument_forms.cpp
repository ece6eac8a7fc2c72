// SPDX-License-Identifier: GPL-3.0-or-later
// The forms of the register: an instrument, the lab's hours.
#include "desk/instruments/instruments_page.h"

#include "bench/files/profile_file.h"
#include "work/files/layouts.h"
#include "work/practice/practice.h"

#include <QCompleter>
#include <QGridLayout>
#include <QTimeZone>
#include <QVBoxLayout>

namespace fusain::desk {

namespace {

const QString to_be_taught = QStringLiteral("*");

/// A row of a form: words, field, and what is wrong with it under the field.
void form_row(
    QGridLayout* grid, QLabel* words, QWidget* field, const char* name, std::map<std::string, QLabel*>& troubles)
{
    field->setObjectName(QString::fromLatin1(name));
    const int row = grid->rowCount();
    words->setMinimumWidth(Theme::get().px(190));
    grid->addWidget(words, row, 0);
    grid->addWidget(field, row, 1);
    auto* t = label("trouble");
    t->hide();
    troubles[name] = t;
    grid->addWidget(t, row + 1, 1);
}

} // namespace

InstrumentForm::InstrumentForm(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), heading_(label("title")), reference_title_(label("small")),
      reference_x_title_(label("small", QStringLiteral("Its reactance at 50 kHz, Ω (0: plain resistor)"))),
      rated_title_(label("small", QStringLiteral("Table's rated mass, kg"))),
      shows_title_(label("small", QStringLiteral("It shows"))), kind_(new ChoiceBox), way_(new ChoiceBox),
      shows_(new ChoiceBox), check_by_(new ChoiceBox),
      more_(new KeyButton(
          QKeySequence(QStringLiteral("Ctrl+M")), QStringLiteral("Ctrl M"), QStringLiteral("serial number and more"))),
      name_(new QLineEdit), serial_(new QLineEdit), profile_(new QLineEdit), location_(new QLineEdit),
      due_(new QLineEdit), reference_(new QLineEdit), reference_x_(new QLineEdit), duration_(new QLineEdit),
      rated_(new QLineEdit), in_use_(toggle(QStringLiteral("in use"), 16))
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(34, 26, 34, 16);
    v->addWidget(heading_);
    v->addSpacing(8);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(18);
    grid->setVerticalSpacing(5);
    grid->setColumnStretch(2, 1);
    for (const bench::InstrumentKind* k : bench::instrument_kinds())
        kind_->addItem(QString::fromUtf8(k->title), QString::fromLatin1(k->id));
    for (QWidget* w : {static_cast<QWidget*>(kind_), static_cast<QWidget*>(name_), static_cast<QWidget*>(serial_),
             static_cast<QWidget*>(profile_), static_cast<QWidget*>(location_), static_cast<QWidget*>(way_),
             static_cast<QWidget*>(shows_), static_cast<QWidget*>(check_by_)})
        w->setFixedWidth(Theme::get().px(380));
    for (QLineEdit* w : {due_, reference_, reference_x_, duration_, rated_}) w->setMaximumWidth(150);
    due_->setPlaceholderText(QStringLiteral("year-month-day"));
    form_row(grid, label("small", QStringLiteral("What it is")), kind_, "instrument_kind", troubles_);
    form_row(grid, label("small", QStringLiteral("Name in the lab")), name_, "name", troubles_);
    way_->addItem(QStringLiteral("nobody has said"), QString());
    for (const records::Way& w : records::ways) way_->addItem(QString::fromUtf8(w.title), QString::fromLatin1(w.id));
    form_row(grid, label("small", QStringLiteral("Its numbers come")), way_, "instrument_way", troubles_);
    form_row(grid, shows_title_, shows_, "instrument_shows", troubles_);
    form_row(grid, label("small", QStringLiteral("It is checked by")), check_by_, "check_by", troubles_);
    form_row(grid, reference_title_, reference_, "reference", troubles_);
    form_row(grid, reference_x_title_, reference_x_, "reference_x", troubles_);
    more_->setObjectName(QStringLiteral("instrument_more"));
    more_->setCheckable(true);
    grid->addWidget(more_, grid->rowCount(), 1, Qt::AlignLeft);
    const auto seldom = [&](QLabel* words, QWidget* field, const char* name) {
        form_row(grid, words, field, name, troubles_);
        seldom_.push_back(words);
        seldom_.push_back(field);
    };
    seldom(label("small", QStringLiteral("Serial number")), serial_, "serial");
    serial_->setPlaceholderText(QStringLiteral("as on its plate; empty: its name"));
    seldom(label("small", QStringLiteral("Profile")), profile_, "profile");
    seldom(label("small", QStringLiteral("Where it stands")), location_, "location");
    seldom(label("small", QStringLiteral("Calibration due")), due_, "calibration_due");
    seldom(label("small", QStringLiteral("Client on it, minutes")), duration_, "duration_min");
    seldom(rated_title_, rated_, "rated_mass_kg");
    form_row(grid, label("small", QString()), in_use_, "instrument_in_use", troubles_);
    v->addLayout(grid);
    auto* keys = new WrappedRow;
    auto* save_key =
        new KeyButton(QKeySequence(QStringLiteral("Ctrl+S")), QStringLiteral("Ctrl S"), QStringLiteral("keep"));
    save_key->setObjectName(QStringLiteral("save_instrument"));
    save_key->set_main(true);
    auto* leave =
        new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("leave without keeping"));
    keys->addWidget(save_key);
    keys->addWidget(leave);
    v->addSpacing(10);
    v->addLayout(keys);
    v->addStretch();
    connect(save_key, &QAbstractButton::clicked, this, &InstrumentForm::save);
    connect(leave, &QAbstractButton::clicked, this, &InstrumentForm::cancelled);
    connect(more_, &QAbstractButton::toggled, this, &InstrumentForm::show_kind);
    for (QComboBox* box : {way_, shows_})
        connect(box, &QComboBox::activated, this, [this] {
            fill_checks();
            show_kind();
        });
    connect(check_by_, &QComboBox::activated, this, &InstrumentForm::show_kind);
    connect(kind_, &QComboBox::currentIndexChanged, this, [this] {
        const bench::InstrumentKind& k = kind();
        if (!now_.id) {
            reference_->setText(*k.reference_title ? QString::number(k.reference) : QString());
            duration_->setText(QString::number(k.duration_min));
        }
        fill_shows();
        fill_checks();
        show_kind();
    });
}

const bench::InstrumentKind& InstrumentForm::kind() const
{
    return *bench::instrument_kinds()[static_cast<std::size_t>(std::max(0, kind_->currentIndex()))];
}

/// What it shows: raw readings, or finished numbers by one of the lab's layouts.
void InstrumentForm::fill_shows()
{
    const auto method = kind().method;
    shows_->clear();
    if (!method) return;
    shows_->addItem(QStringLiteral("raw readings, which are computed here"), QString());
    for (const printout::Layout& l : work::layouts(lab_).usable)
        if (l.method == (*method)->word) shows_->addItem(q(l.title.empty() ? l.id : l.title), q(l.id));
    shows_->addItem(QStringLiteral("finished numbers: say which, next"), to_be_taught);
    const bool raw = now_.id ? now_.layout.isEmpty() : kind().usually_raw;
    shows_->setCurrentIndex(raw ? 0 : std::max(0, shows_->findData(now_.id ? now_.layout : to_be_taught)));
}

/// Each kind begins with the check that such labs have.
void InstrumentForm::fill_checks()
{
    const QString before = now_.id ? now_.check_by : QString();
    const bool finished =
        kind().method && way_->currentData() != QStringLiteral("line") && !shows_->currentData().toString().isEmpty();
    check_by_->clear();
    for (const bench::CheckWay& w : bench::check_ways)
        if (bench::check_fits(kind(), w.id))
            check_by_->addItem(&w == &bench::check_ways[0] && *kind().reference_title
                                   ? QString::fromUtf8(kind().reference_title)
                                   : QString::fromUtf8(w.title),
                QString::fromLatin1(w.id));
    const QString usual = finished ? QString::fromLatin1(kind().usual_way) : QStringLiteral("reference");
    const QString now = now_.id ? (before.isEmpty() ? QStringLiteral("reference") : before) : usual;
    check_by_->setCurrentIndex(std::max(0, check_by_->findData(now)));
}

void InstrumentForm::show_kind()
{
    const bench::InstrumentKind& k = kind();
    reference_title_->setText(
        QStringLiteral("Its %1, %2").arg(QString::fromUtf8(k.reference_title), QString::fromUtf8(k.unit)));
    for (QWidget* w : seldom_) w->setVisible(more_->isChecked());
    const bool by_reference = *k.reference_title && check_by_->currentData() == QStringLiteral("reference");
    reference_title_->setVisible(by_reference);
    reference_->setVisible(by_reference);
    reference_x_title_->setVisible(k.network && by_reference);
    reference_x_->setVisible(k.network && by_reference);
    const bool may_show = k.method && way_->currentData() != QStringLiteral("line");
    shows_title_->setVisible(may_show);
    shows_->setVisible(may_show);
    profile_->setPlaceholderText(
        k.profile ? QStringLiteral("%1: %2").arg(QString::fromUtf8(k.profile->what_for), q(k.profile->ids()))
                  : QString());
    const bool rated = k.method && (*k.method)->rated;
    rated_title_->setVisible(rated && more_->isChecked());
    rated_->setVisible(rated && more_->isChecked());
}

void InstrumentForm::edit(const records::Instrument& i)
{
    now_ = i;
    heading_->setText(i.id ? QStringLiteral("Change %1").arg(i.name) : QStringLiteral("Add an instrument"));
    for (auto& [field, t] : troubles_) t->hide();
    kind_->setCurrentIndex(std::max(0, kind_->findData(QString::fromLatin1(i.kind->id))));
    kind_->setEnabled(i.id == 0);
    name_->setText(i.name);
    way_->setCurrentIndex(std::max(0, way_->findData(i.id ? i.way : QStringLiteral("typed"))));
    serial_->setText(i.serial);
    profile_->setText(i.profile);
    location_->setText(i.location);
    due_->setText(i.calibration_due);
    const bench::InstrumentKind& k = *i.kind;
    reference_->setText(*k.reference_title ? QString::number(i.id ? i.reference : k.reference, 'g', 10) : QString());
    reference_x_->setText(QString::number(i.reference_x, 'g', 10));
    duration_->setText(QString::number(i.id ? i.duration_min : k.duration_min));
    rated_->setText(i.rated_mass_kg ? QString::number(*i.rated_mass_kg) : QString());
    in_use_->setChecked(i.in_use);
    more_->setChecked(i.id != 0);
    fill_shows();
    fill_checks();
    show_kind();
    name_->setFocus();
}

void InstrumentForm::save()
{
    for (auto& [field, t] : troubles_) t->hide();
    records::Instrument i = now_;
    i.kind = &kind();
    i.name = name_->text().trimmed();
    i.serial = serial_->text().trimmed().isEmpty() ? i.name : serial_->text().trimmed();
    const QString shows = shows_->isHidden() ? QString() : shows_->currentData().toString();
    if (shows != to_be_taught) i.layout = shows;
    const QString check = check_by_->currentData().toString();
    if (i.id && check != (i.check_by.isEmpty() ? QStringLiteral("reference") : i.check_by))
        i.baseline_from = lab_.now().toUTC().toString(Qt::ISODateWithMs); // another check has another chart
    i.check_by = check == QStringLiteral("reference") ? QString() : check;
    i.way = way_->currentData().toString();
    i.profile = profile_->text().trimmed();
    i.location = location_->text().trimmed();
    i.calibration_due = due_->text().trimmed();
    i.in_use = in_use_->isChecked();
    Messages bad;
    const auto number = [&](QLineEdit* field, const char* name, const char* title) {
        bool ok = false;
        const double v = field->text().trimmed().replace(',', '.').toDouble(&ok);
        if (!ok)
            bad.push_back({"not_a_number", Level::error, name,
                std::string(title) + " \"" + field->text().toStdString() + "\" is not a number."});
        return ok ? v : 0.0;
    };
    if (!reference_->isHidden())
        i.reference = number(reference_, "reference", i.kind->reference_title);
    else if (!i.id)
        i.reference = i.kind->reference;
    i.reference_x = !reference_x_->isHidden() && !reference_x_->text().trimmed().isEmpty()
                        ? number(reference_x_, "reference_x", "The reactance of the network")
                        : 0;
    i.duration_min = static_cast<int>(number(duration_, "duration_min", "The time on it"));
    i.rated_mass_kg.reset();
    if (!rated_->isHidden() && !rated_->text().trimmed().isEmpty())
        i.rated_mass_kg = number(rated_, "rated_mass_kg", "The rated mass");
    if (bad.empty()) bad = records::check(i);
    std::optional<records::Instrument> stored;
    if (bad.empty()) {
        const auto kept = lab_.diary->save(i);
        if (kept)
            stored = *kept;
        else
            bad = kept.messages();
    }
    for (const Message& m : bad) {
        const auto at = troubles_.find(m.field);
        QLabel* t = at == troubles_.end() ? troubles_["name"] : at->second;
        t->setText(q(m.text));
        t->show();
        if (at != troubles_.end() && std::count(seldom_.begin(), seldom_.end(), findChild<QWidget*>(q(m.field))))
            more_->setChecked(true);
    }
    if (!stored) return;
    lab_.say_changed();
    emit saved(stored->id, shows == to_be_taught                               ? Then::teach
                           : !now_.id && stored->way == QStringLiteral("line") ? Then::connect
                                                                               : Then::stay);
}

HoursForm::HoursForm(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), new_name_(new QLineEdit), lab_name_(new QLineEdit), zone_(new QLineEdit),
      staff_(list_of_words()), person_hours_(new QLineEdit), licence_(toggle(QStringLiteral("licensed for X-ray"), 16)),
      active_(toggle(QStringLiteral("works here"), 16)), said_(label("trouble"))
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(34, 26, 34, 16);
    v->addWidget(label("title", QStringLiteral("The lab: hours and people")));
    auto* columns = new QHBoxLayout;
    columns->setSpacing(40);
    auto* left = new QGridLayout;
    left->setVerticalSpacing(6);
    left->setHorizontalSpacing(14);
    constexpr const char* names[] = {"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"};
    left->addWidget(label("small", QStringLiteral("Name of the lab")), 0, 0);
    left->addWidget(lab_name_, 0, 1);
    left->addWidget(label("small", QStringLiteral("Time zone")), 1, 0);
    left->addWidget(zone_, 1, 1);
    zone_->setObjectName(QStringLiteral("lab_zone"));
    lab_name_->setObjectName(QStringLiteral("lab_name"));
    QStringList zones;
    for (const QByteArray& id : QTimeZone::availableTimeZoneIds()) zones << QString::fromLatin1(id);
    auto* known = new QCompleter(zones, zone_);
    known->setFilterMode(Qt::MatchContains);
    known->setCaseSensitivity(Qt::CaseInsensitive);
    zone_->setCompleter(known);
    left->addWidget(label("heading", QStringLiteral("Open for clients")), 2, 0, 1, 2);
    for (int d = 0; d < 7; ++d) {
        days_[d] = new QLineEdit;
        days_[d]->setObjectName(QStringLiteral("hours_%1").arg(d));
        days_[d]->setPlaceholderText(QStringLiteral("closed"));
        left->addWidget(label("small", QString::fromLatin1(names[d])), 3 + d, 0);
        left->addWidget(days_[d], 3 + d, 1);
    }
    left->setRowStretch(10, 1);
    columns->addLayout(left, 1);
    auto* right = new QVBoxLayout;
    right->setSpacing(6);
    right->addWidget(label("heading", QStringLiteral("People")));
    right->addWidget(label("small", QStringLiteral("Each test needs one of them; X-ray one with a licence.")));
    staff_->setMaximumHeight(190);
    auto* each = new QVBoxLayout(each_ = new QWidget);
    each->setContentsMargins(0, 0, 0, 0);
    each->addWidget(staff_);
    auto* person = new WrappedRow;
    person->addWidget(licence_);
    person->addWidget(active_);
    each->addLayout(person);
    each->addWidget(label("small", QStringLiteral("Own hours, every working day; empty: as the lab")));
    person_hours_->setPlaceholderText(QStringLiteral("04:30-12:30"));
    each->addWidget(person_hours_);
    each->addWidget(let_title_ = label("small"));
    let_ = new QLineEdit;
    let_->setObjectName(QStringLiteral("let_measure"));
    let_->setPlaceholderText(QStringLiteral("why you answer for it"));
    each->addWidget(let_);
    each->addSpacing(8);
    right->addWidget(each_);
    right->addWidget(new_title_ = label("small"));
    new_name_->setObjectName(QStringLiteral("new_staff"));
    right->addWidget(new_name_);
    right->addStretch();
    columns->addLayout(right, 1);
    v->addLayout(columns, 1);
    v->addWidget(said_);
    auto* keys = new WrappedRow;
    auto* keep =
        new KeyButton(QKeySequence(QStringLiteral("Ctrl+S")), QStringLiteral("Ctrl S"), QStringLiteral("keep"));
    keep->setObjectName(QStringLiteral("save_hours"));
    keep->set_main(true);
    keys->addWidget(keep);
    v->addLayout(keys);
    connect(keep, &QAbstractButton::clicked, this, &HoursForm::save);
    connect(new_name_, &QLineEdit::returnPressed, this, &HoursForm::save);
    connect(staff_, &QListWidget::currentRowChanged, this, [this](int row) {
        const bool any = row >= 0 && row < static_cast<int>(people_.size());
        for (QWidget* w :
            {static_cast<QWidget*>(licence_), static_cast<QWidget*>(active_), static_cast<QWidget*>(person_hours_)})
            w->setEnabled(any);
        if (!any) return;
        const auto& p = people_[static_cast<std::size_t>(row)];
        licence_->setChecked(p.xray_licence);
        active_->setChecked(p.active);
        person_hours_->setText(p.week.isEmpty() ? QString() : p.week.front());
        const auto house = lab_.rules.house();
        const auto level = house.find("practice_level");
        const bool asked = level != house.end() && level->second != "none";
        const QString let = work::let_by(lab_, p.name);
        let_title_->setText(let.isEmpty() ? QStringLiteral("May measure without the practice that is asked for; why")
                                          : QStringLiteral("May measure: %1").arg(let));
        let_title_->setVisible(asked);
        let_->setVisible(asked);
        let_->clear();
    });
}

void HoursForm::refresh()
{
    lab_name_->setText(lab_.store->setting(QStringLiteral("lab_name")));
    lab_name_->setCursorPosition(0);
    zone_->setText(QString::fromLatin1(lab_.diary->zone().id()));
    const QStringList hours = lab_.diary->hours();
    for (int d = 0; d < 7; ++d) days_[d]->setText(hours.value(d));
    people_ = lab_.diary->staff();
    const int row = staff_->currentRow();
    staff_->clear();
    for (const auto& p : people_)
        staff_->addItem(
            p.name + (p.xray_licence ? QStringLiteral("  ·  licensed for X-ray") : QString()) +
            (p.active ? QString() : QStringLiteral("  ·  not here any more")) +
            (p.week.isEmpty() || p.week.front().isEmpty() ? QString() : QStringLiteral("  ·  ") + p.week.front()));
    staff_->setCurrentRow(std::clamp(row, 0, static_cast<int>(people_.size()) - 1));
    each_->setVisible(!people_.empty());
    new_title_->setText(people_.empty()
                            ? QStringLiteral("Who is the first to work here? A name, as it stands in the records")
                            : QStringLiteral("Somebody new"));
    if (lab_name_->text().isEmpty()) lab_name_->setFocus();
    said_->setText(QString());
}

void HoursForm::save()
{
    const QTimeZone zone(zone_->text().trimmed().toLatin1());
    if (!zone.isValid())
        return said_->setText(
            QStringLiteral("◆ Time zone \"%1\" is not known; write it as Europe/Paris.").arg(zone_->text()));
    QStringList week;
    for (QLineEdit* d : days_) week << d->text().trimmed();
    if (const auto why = lab_.diary->set_hours(week)) return said_->setText(QStringLiteral("◆ ") + q(why->text));
    for (const auto& [key, value] :
        {std::pair{"zone", QString::fromLatin1(zone.id())}, std::pair{"lab_name", lab_name_->text().trimmed()}})
        if (const auto why = lab_.store->set_setting(QString::fromLatin1(key), value))
            return said_->setText(QStringLiteral("◆ ") + q(why->text));
    const int row = staff_->currentRow();
    if (row >= 0 && row < static_cast<int>(people_.size())) {
        records::StaffMember p = people_[static_cast<std::size_t>(row)];
        p.xray_licence = licence_->isChecked();
        p.active = active_->isChecked();
        const QString own = person_hours_->text().trimmed();
        p.week = own.isEmpty() ? QStringList{} : QStringList{own, own, own, own, own, QString(), QString()};
        if (!let_->text().trimmed().isEmpty())
            if (const auto why =
                    work::let_measure(lab_, p.name, lab_.store->setting(QStringLiteral("technician")), let_->text()))
                return said_->setText(QStringLiteral("◆ ") + q(why->text));
        if (const auto kept = lab_.diary->save(p); !kept)
            return said_->setText(QStringLiteral("◆ ") + q(kept.messages().front().text));
    }
    if (!new_name_->text().trimmed().isEmpty()) {
        const auto kept = lab_.diary->save(records::StaffMember{0, new_name_->text().trimmed(), false, {}, true});
        if (!kept) return said_->setText(QStringLiteral("◆ ") + q(kept.messages().front().text));
        new_name_->clear();
    }
    refresh();
    said_->setText(QStringLiteral("Kept."));
    lab_.say_changed();
    emit kept();
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/tape_view.h"

#include "core/base/limits.h"
#include "records/base/clock.h"
#include "report/reading/reading_words.h"

#include <QRegularExpression>

#include <algorithm>

namespace fusain::desk {
namespace {

QString site_words(const std::string& id) { return q(id).replace('_', ' '); }

} // namespace

TapeView::TapeView(work::Lab& lab)
    : CourseView(lab), equation_(new ChoiceBox), waist_(new ChoiceBox), measurer_(new QLineEdit), day_(new QLineEdit),
      so_far_(label("text")), before_(label("small")), trouble_(label("trouble"))
{
    const TwoColumns c = two_columns(this, 380);
    c.left->addWidget(label("heading", QStringLiteral("Folds (on the right) and girths, each twice")));
    c.left->addWidget(label("small",
        QStringLiteral("Type every repeat with a space between. A third is asked for when two are too far apart.")));
    auto* grid_box = new QWidget;
    auto* grid = new QGridLayout(grid_box);
    grid->setContentsMargins(0, 6, 0, 0);
    grid->setHorizontalSpacing(10);
    grid->setVerticalSpacing(4);
    const auto column_of = [&](const char* title, std::span<const char* const> ids, bool fold, int at) {
        auto* head = label("small", QString::fromUtf8(title));
        grid->addWidget(head, 0, at, 1, 3);
        if (!fold) girths_head_ = head;
        int row = 1;
        for (const char* id : ids) {
            Site site{id, fold, new QLineEdit, label("small")};
            site.repeats->setObjectName((fold ? QStringLiteral("fold_") : QStringLiteral("girth_")) + q(site.id));
            site.repeats->setMaximumWidth(110);
            site.repeats->setMinimumWidth(60);
            auto* name = label("text", site_words(site.id));
            name->setWordWrap(false);
            grid->addWidget(name, row, at);
            grid->addWidget(site.repeats, row, at + 1);
            grid->addWidget(site.state, row++, at + 2);
            connect(site.repeats, &QLineEdit::textEdited, this, &TapeView::look_at_sites);
            sites_.push_back(site);
        }
    };
    column_of("folds, mm", skinfolds::sites(), true, 0);
    column_of("girths, cm", skinfolds::girths(), false, 3);
    grid->setColumnStretch(2, 1);
    grid->setColumnStretch(5, 1);
    grid->setRowStretch(grid->rowCount(), 1);
    c.left->addWidget(new Scroll(grid_box), 1);
    trouble_->setObjectName(QStringLiteral("tape_trouble"));
    c.left->addWidget(trouble_);
    auto* row = new WrappedRow;
    row->setSpacing(10);
    auto* keep_key = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"), QStringLiteral("keep them"));
    keep_key->setObjectName(QStringLiteral("keep_tape"));
    keep_key->set_main(true);
    row->addWidget(keep_key);
    c.left->addLayout(row);
    connect(keep_key, &QAbstractButton::clicked, this, &TapeView::store);

    c.right->addWidget(label("heading", QStringLiteral("By whom, and how")));
    const auto field = [&](const QString& words, QWidget* w, const char* name) {
        auto* l = label("small", words);
        c.right->addWidget(l);
        c.right->addWidget(w);
        w->setObjectName(QString::fromLatin1(name));
    };
    field(QStringLiteral("Measured by (another pair of hands is another method)"), measurer_, "tape_measurer");
    field(QStringLiteral("Day"), day_, "tape_day");
    field(QStringLiteral("Density from folds by"), equation_, "tape_equation");
    field(QStringLiteral("Waist taken"), waist_, "tape_waist");
    waist_->addItem(QStringLiteral("at the narrowest"), QStringLiteral("narrowest"));
    waist_->addItem(QStringLiteral("midway between rib and hip"), QStringLiteral("midway"));
    so_far_->setObjectName(QStringLiteral("tape_so_far"));
    c.right->addSpacing(8);
    c.right->addWidget(so_far_);
    c.right->addSpacing(8);
    c.right->addWidget(label("heading", QStringLiteral("Before")));
    c.right->addWidget(before_);
    auto* box = new QWidget;
    list_ = new QVBoxLayout(box);
    list_->setContentsMargins(0, 0, 0, 0);
    c.right->addWidget(box);
    c.right->addStretch();
    connect(equation_, &QComboBox::activated, this, &TapeView::look_at_sites);
    connect(&Units::get(), &Units::changed, this, [this] {
        // what was typed in the other unit keeps its meaning
        static const QRegularExpression gap(QStringLiteral("[\\s;/]+"));
        const double factor = Units::get().imperial(Measure::length) ? 1 / 2.54 : 2.54;
        if (Units::get().imperial(Measure::length) != inches_)
            for (Site& site : sites_) {
                if (site.fold) continue;
                QStringList out;
                for (const QString& text : site.repeats->text().split(gap, Qt::SkipEmptyParts)) {
                    bool ok = false;
                    const double value = QString(text).replace(',', '.').toDouble(&ok);
                    out << (ok ? QString::number(value * factor, 'f', 2) : text);
                }
                site.repeats->setText(out.join(' '));
            }
        inches_ = Units::get().imperial(Measure::length);
        girths_head_->setText(QStringLiteral("girths, %1").arg(Units::get().unit(Measure::length)));
        if (isVisible()) look_at_sites();
    });
    inches_ = Units::get().imperial(Measure::length);
    girths_head_->setText(QStringLiteral("girths, %1").arg(Units::get().unit(Measure::length)));
}

void TapeView::show_reading(const work::Reading& r)
{
    reading_ = &r;
    const records::Client& client = r.history->client();
    if (client_ != client.id) {
        client_ = client.id;
        for (Site& s : sites_) s.repeats->clear();
        day_->setText(lab_.today().toString(Qt::ISODate));
        measurer_->clear();
        equation_->clear();
        equation_->addItem(QStringLiteral("none: girths alone"), QString());
        for (const skinfolds::Equation& e : skinfolds::equations())
            equation_->addItem(QStringLiteral("%1 · %2").arg(QString::fromUtf8(e.title), QString::fromUtf8(e.made_on)),
                QString::fromUtf8(e.id));
        // the one the client was measured by last
        const auto& tapes = r.history->entries().tapes;
        const int at = tapes.empty() ? 0 : equation_->findData(q(tapes.back().equation));
        equation_->setCurrentIndex(std::max(0, at));
        if (!tapes.empty()) waist_->setCurrentIndex(std::max(0, waist_->findData(q(tapes.back().waist_at))));
    }
    if (measurer_->text().isEmpty()) measurer_->setText(lab_.store->setting(QStringLiteral("technician")));
    empty(list_);
    const auto& tapes = r.history->entries().tapes;
    before_->setText(tapes.empty() ? QStringLiteral("No folds and girths of this client yet.")
                                   : QStringLiteral("Their changes stand under Change, each with its own noise."));
    for (auto t = tapes.rbegin(); t != tapes.rend(); ++t) {
        const auto girths = work::settled(t->girths_cm, skinfolds::settle_girth);
        const auto folds = work::settled(t->folds_mm, skinfolds::settle_fold);
        double sum = 0;
        for (const auto& [site, mm] : folds) sum += mm;
        QStringList words;
        if (girths.count("waist")) words << QStringLiteral("waist %1 cm").arg(girths.at("waist"), 0, 'f', 1);
        if (girths.count("hips")) words << QStringLiteral("hips %1 cm").arg(girths.at("hips"), 0, 'f', 1);
        if (!folds.empty()) words << QStringLiteral("%1 folds, %2 mm").arg(folds.size()).arg(sum, 0, 'f', 1);
        auto* line = label("text", QStringLiteral("%1 · %2 · %3")
                                       .arg(records::date_words(t->day.toStdString()), t->measurer, words.join(", ")));
        list_->addWidget(line);
        auto* wrong = new WordButton(QStringLiteral("take it back: it was wrong"), 13);
        wrong->setCheckable(false);
        wrong->setObjectName(QStringLiteral("withdraw_%1").arg(t->id));
        list_->addWidget(wrong, 0, Qt::AlignLeft);
        connect(wrong, &QAbstractButton::clicked, this, [this, id = t->id] {
            keep(client_, records::entered(records::entry::Withdrawn{id, "taken back by hand"}));
        });
    }
    look_at_sites();
}

std::optional<std::vector<double>> TapeView::typed(Site& site)
{
    std::vector<double> out;
    const char* limit = site.fold ? "callipers_and_tape.skinfolds_mm" : "callipers_and_tape.girths_cm";
    const auto wrong = [&](const QString& text) {
        site.state->setText(QStringLiteral("◆ ") + text);
        site.repeats->setProperty("wrong", true);
        site.repeats->style()->polish(site.repeats);
    };
    site.repeats->setProperty("wrong", false);
    site.repeats->style()->polish(site.repeats);
    static const QRegularExpression gap(QStringLiteral("[\\s;/]+"));
    for (const QString& text : site.repeats->text().split(gap, Qt::SkipEmptyParts)) {
        bool ok = false;
        double value = QString(text).replace(',', '.').toDouble(&ok);
        if (!site.fold) value = Units::get().stored(Measure::length, value);
        if (!ok || value != value) return wrong(QStringLiteral("\"%1\" is not a number").arg(text)), std::nullopt;
        if (limits::check(limit, value)) {
            const limits::Limit& row = limits::of(limit);
            return wrong(QStringLiteral("%1 %4: allowed is %2 to %3 %4")
                             .arg(value)
                             .arg(row.low)
                             .arg(row.high)
                             .arg(QString::fromUtf8(row.unit))),
                   std::nullopt;
        }
        out.push_back(value);
    }
    return out;
}

void TapeView::look_at_sites()
{
    using skinfolds::Repeats;
    const auto* e = skinfolds::find(equation_->currentData().toString().toStdString());
    work::Tape tape;
    for (Site& site : sites_) {
        const bool needed = site.fold && e &&
                            std::any_of(e->sites.begin(), e->sites.end(), [&](const char* s) { return site.id == s; });
        const auto values = typed(site);
        if (!values) continue;
        const auto settled = site.fold ? skinfolds::settle_fold(*values) : skinfolds::settle_girth(*values);
        const QString settled_words = site.fold ? QStringLiteral("%1 mm").arg(settled.value, 0, 'f', 1)
                                                : Units::get().text(Measure::length, settled.value, 1);
        switch (settled.state) {
        case Repeats::none: site.state->setText(needed ? QStringLiteral("needed") : QString()); break;
        case Repeats::one: site.state->setText(QStringLiteral("once more")); break;
        case Repeats::third_needed: site.state->setText(QStringLiteral("◆ too far apart: a third")); break;
        case Repeats::agree: site.state->setText(settled_words); break;
        }
        if (!values->empty()) (site.fold ? tape.folds_mm : tape.girths_cm)[site.id] = *values;
    }
    // what it comes to so far
    QString words;
    if (reading_ && reading_->history->newest()) {
        skinfolds::Input in;
        const work::Measurement& m = *reading_->history->newest();
        in.sex = m.sex;
        in.age_y = m.age_y;
        in.height_cm = m.height_cm;
        in.mass_kg = m.mass_kg;
        in.girths_cm = work::settled(tape.girths_cm, skinfolds::settle_girth);
        if (e) {
            in.skinfolds_mm = work::settled(tape.folds_mm, skinfolds::settle_fold);
            in.equation = e->id;
        }
        if (const auto told = skinfolds::compute(in)) {
            QStringList parts;
            for (const Quantity* what :
                {&quantity::skinfold_sum, &quantity::fat_percent, &quantity::waist_hip, &quantity::waist_height})
                if (const Value* v = told->find(*what))
                    parts << QStringLiteral("%1 %2%3").arg(QString::fromUtf8(what->title).toLower(),
                        report::value_words(*what, v->value),
                        what == &quantity::fat_percent ? QStringLiteral(" ± %1").arg(v->u, 0, 'f', 1) : QString());
            words = parts.join(QStringLiteral("\n"));
            for (const Message& one : told.messages()) words += QStringLiteral("\n◆ ") + q(one.text);
        }
    }
    so_far_->setText(words);
}

void TapeView::store()
{
    work::Tape tape;
    tape.day = day_->text().trimmed();
    tape.measurer = measurer_->text().trimmed();
    tape.equation = equation_->currentData().toString().toStdString();
    for (Site& site : sites_) {
        const auto values = typed(site);
        if (!values) {
            trouble_->setText(
                QStringLiteral("◆ The %1 is not written yet so that it can be kept.").arg(site_words(site.id)));
            site.repeats->setFocus();
            return;
        }
        if (!values->empty()) (site.fold ? tape.folds_mm : tape.girths_cm)[site.id] = *values;
    }
    if (tape.girths_cm.count("waist")) tape.waist_at = waist_->currentData().toString().toStdString();
    if (tape.folds_mm.empty()) tape.equation.clear();
    const QDate day = QDate::fromString(tape.day, Qt::ISODate);
    Messages bad = work::check(tape);
    if (!day.isValid() || day > lab_.today())
        bad.insert(bad.begin(),
            {"out_of_range", Level::error, "day",
                "The day is \"" + tape.day.toStdString() + "\"; a day up to today is needed, as 2026-11-26."});
    if (!bad.empty()) {
        trouble_->setText(QStringLiteral("◆ ") + q(bad.front().text));
        for (const Site& site : sites_)
            if (bad.front().field.ends_with('.' + site.id)) site.repeats->setFocus();
        return;
    }
    trouble_->clear();
    for (const work::Measurement* m : reading_->history->on(day))
        if (m->visit_id && m->mass_kg > 0) tape.mass_kg = m->mass_kg;
    if (!keep(client_, work::event_of(tape))) return;
    for (Site& s : sites_) s.repeats->clear();
    look_at_sites();
    emit said(QStringLiteral("Kept: %1 folds and %2 girths by %3.")
                  .arg(tape.folds_mm.size())
                  .arg(tape.girths_cm.size())
                  .arg(tape.measurer));
}

} // namespace fusain::desk

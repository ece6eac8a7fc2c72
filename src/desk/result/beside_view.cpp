// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/result/beside_view.h"

#include "core/density/density.h"
#include "core/time/compare.h"
#include "records/base/clock.h"
#include "work/lab/lab.h"
#include "report/sheets/sheets.h"

#include <QDateTime>
#include <QVBoxLayout>

#include <set>

namespace fusain::desk {

namespace {

const QString none = QStringLiteral("–");

QString with_doubt(const Result& r, const Quantity& what, int decimals)
{
    const Value* v = r.find(what);
    return v ? QStringLiteral("%1 ± %2 %3")
                   .arg(v->value, 0, 'f', decimals)
                   .arg(v->u, 0, 'f', decimals)
                   .arg(QString::fromUtf8(what.unit))
             : none;
}

/// Null where density is not what became fat.
const density::Conversion* conversion_of(const records::Snapshot& told)
{
    const auto chosen = told.choices.find("conversion");
    return chosen == told.choices.end() ? nullptr : density::find(chosen->second);
}

} // namespace

BesideView::BesideView() : words_(label("text")), table_(new QGridLayout)
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 8, 0, 0);
    column->addWidget(label("heading", QStringLiteral("Beside another method")));
    column->addSpacing(8);
    figure_ = new Figure([this](QPainter& p, const QRectF& area) {
        report::draw_beside(p, area, rows_, Theme::get().palette(), Theme::get().px(15));
    });
    column->addWidget(figure_);
    column->addSpacing(6);
    words_->setObjectName(QStringLiteral("beside"));
    column->addWidget(words_);
    column->addSpacing(14);
    table_->setHorizontalSpacing(28);
    table_->setVerticalSpacing(5);
    table_->setColumnStretch(0, 1);
    column->addLayout(table_);
    column->addStretch();
}

void BesideView::look(const work::Session& session)
{
    others_.clear();
    const bench::Visit& v = session.visit();
    const QTimeZone zone = session.store().zone_of(v);
    const auto moment = [&](const QString& iso) {
        return QDateTime::fromString(iso, Qt::ISODateWithMs).toTimeZone(zone);
    };
    const QDateTime now = moment(q(v.started_at));
    auto visits = session.store().visits_of(v.subject.client_id);
    // the same day only: another day's body is another body
    std::erase_if(visits, [&](const records::VisitRow& row) {
        return !row.measured() || row.id == session.visit_id() || moment(row.started_at).date() != now.date();
    });
    std::sort(visits.begin(), visits.end(), [&](const auto& a, const auto& b) {
        return std::abs(moment(a.started_at).secsTo(now)) < std::abs(moment(b.started_at).secsTo(now));
    });
    std::set<Method> seen{v.method};
    for (const records::VisitRow& row : visits) {
        const auto method = method_of(row.method.toStdString());
        if (!method || seen.count(*method) || !compare::beside(v.method, 0, *method, 0)) continue;
        const auto told = session.store().snapshot(row.id);
        if (!told || !told->result.find(quantity::fat_percent)) continue;
        others_.push_back(*told);
        seen.insert(*method);
    }
}

void BesideView::add_column(const records::Snapshot& told, bool now)
{
    const Result& r = told.result;
    const density::Conversion* conversion = conversion_of(told);
    rows_.push_back(
        {QString::fromLatin1(told.method->title), now ? QStringLiteral("this visit") : records::date_words(told.day),
            r[quantity::fat_percent].value, r[quantity::fat_percent].u_measurement(), now});
    const int column = static_cast<int>(rows_.size());
    const auto cell = [&](const char* voice, const QString& text, int row, int at) {
        auto* one = label(voice, text);
        one->setWordWrap(false);
        table_->addWidget(one, row, at, at ? Qt::AlignRight : Qt::AlignLeft);
    };
    cell("small", rows_.back().title, 0, column);
    int row = 1;
    for (const auto& [what, value] :
        {std::pair{
             "measuring error, % fat", QStringLiteral("± %1").arg(r[quantity::fat_percent].u_measurement(), 0, 'f', 1)},
            {"body mass", Units::get().text(Measure::mass, told.mass_kg, 2)},
            {"body volume", with_doubt(r, quantity::body_volume, 2)},
            {"body density", with_doubt(r, quantity::body_density, 4)},
            {"conversion", conversion ? QString::fromUtf8(conversion->title) : none}}) {
        if (now) cell("small", QString::fromLatin1(what), row, 0);
        cell("number", value, row++, column);
    }
}

void BesideView::show_result(const bench::Visit& v, const std::optional<Result>& result)
{
    rows_.clear();
    while (QLayoutItem* item = table_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    QStringList words;
    records::Snapshot here; // as it would be told now
    if (result && !others_.empty()) {
        here.method = v.method;
        here.mass_kg = v.mass_kg.value_or(0);
        here.choices = v.chosen();
        here.result = *result;
        add_column(here, true);
    }
    for (const records::Snapshot& o : others_) {
        if (!result) break;
        add_column(o, false);
        const auto beside = compare::beside(
            v.method, (*result)[quantity::fat_percent].value, o.method, o.result[quantity::fat_percent].value);
        words << (beside->usual ? QString() : QStringLiteral("◆ ")) + q(beside->sentence);
        if (conversion_of(o) && conversion_of(here) && conversion_of(o) != conversion_of(here))
            words << QStringLiteral("◆ Density became fat by two different conversions: part of the difference is "
                                    "theirs. Choose the same one to compare.");
    }
    if (!words.isEmpty()) words << QString::fromLatin1(compare::no_change);
    words_->setText(words.join('\n'));
    figure_->setFixedHeight(Theme::get().px(58) * static_cast<int>(rows_.size()));
    figure_->update();
}

} // namespace fusain::desk

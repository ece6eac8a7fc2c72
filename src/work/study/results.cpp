// SPDX-License-Identifier: GPL-3.0-or-later
// What a study's repeats say, and the files of it.
#include "work/lab/csv.h"
#include "work/study/in_force.h"
#include "work/study/study.h"

#include <QDir>
#include <QSaveFile>

#include <algorithm>

namespace fusain::work {
namespace {

const Quantity* const main_ones[] = {
    &quantity::fat_percent, &quantity::fat_mass, &quantity::fat_free_mass, &quantity::lean_soft_tissue};

/// What follows from others, or is no measurement of the instrument.
const Quantity* const left_aside[] = {&quantity::bmi, &quantity::balance_lean, &quantity::balance_fat,
    &quantity::water_density, &quantity::surface_area_artifact, &quantity::segment_scale, &quantity::bone_z};

/// Those that every repeat that counts has, the main ones first.
std::vector<const Quantity*> quantities_of(const Study& s)
{
    const auto everywhere = [&](const Quantity* q) {
        bool any = false;
        for (const Member& m : s.members) {
            if (!m.left_out.isEmpty()) continue;
            if (!m.values.count(q)) return false;
            any = true;
        }
        return any;
    };
    std::vector<const Quantity*> out;
    const auto add = [&](const Quantity* q) {
        const auto in = [q](const auto& all) { return std::find(std::begin(all), std::end(all), q) != std::end(all); };
        if (!in(out) && !in(left_aside) && everywhere(q)) out.push_back(q);
    };
    for (const Quantity* q : main_ones) add(q);
    for (const Quantity* q : quantities()) add(q);
    return out;
}

QString number(double v) { return QString::number(v, 'g', 17); }

std::optional<Message> write(const QString& path, const QStringList& rows)
{
    QSaveFile file(path);
    if (!file.open(QIODevice::WriteOnly) || file.write((rows.join('\n') + '\n').toUtf8()) < 0 || !file.commit())
        return Message{"file_unreachable", Level::error, "folder",
            "The file " + path.toStdString() + " cannot be written: " + file.errorString().toStdString() + "."};
    return std::nullopt;
}

} // namespace

Outcome<std::vector<Repeated>> repeated(const Study& s)
{
    std::vector<Repeated> out;
    for (const Quantity* of : quantities_of(s)) {
        precision::Input in{of->id, {}, s.over_days() ? std::nullopt : precision::published_limit_percent(*of)};
        std::vector<study::Repeat> by_operator;
        std::vector<int> who;
        for (int i = 0; i < static_cast<int>(s.people.size()); ++i) {
            std::vector<double> own;
            for (const Member& m : s.members)
                if (m.person == i && m.left_out.isEmpty()) {
                    own.push_back(m.values.at(of));
                    by_operator.push_back({i, m.who.toStdString(), own.back()});
                }
            if (own.size() < 2) continue;
            in.repeats.push_back(std::move(own));
            who.push_back(i);
        }
        if (in.repeats.empty()) break;
        const auto precise = precision::compute(in);
        if (!precise) return Outcome<std::vector<Repeated>>::refuse(precise.messages());
        Repeated t{
            of, *precise, precise.messages(), in.limit_percent, {}, precision::effective_degrees(in.repeats), {}};
        // what follows from height and mass alone is the same each time, and no measurement
        if (!(t.value(quantity::rms_sd) > 0) && of != &quantity::fat_percent) continue;
        if (s.design.operators.size() > 1) t.operators = study::operators(by_operator);
        for (const std::size_t place : study::far_apart(in.repeats)) t.far_apart.push_back(who[place]);
        out.push_back(std::move(t));
    }
    if (out.empty())
        return Outcome<std::vector<Repeated>>::refuse({"too_few_people", Level::error, "people",
            "Nobody has two repeats yet: how well they agree shows from the second on."});
    return out;
}

Outcome<std::vector<Compared>> compared(const Study& s, const Lab& lab)
{
    std::vector<Compared> out;
    Messages why;
    const InForce known(lab);
    for (const Quantity* of : quantities_of(s)) {
        Compared c{of, {}, {}, 0};
        double sum = 0;
        for (int i = 0; i < static_cast<int>(s.people.size()); ++i) {
            double mean[2] = {}, n[2] = {};
            for (const Member& m : s.members)
                if (m.person == i && m.left_out.isEmpty()) {
                    mean[m.side] += m.values.at(of);
                    ++n[m.side];
                }
            if (!(n[0] > 0 && n[1] > 0)) continue;
            c.pairs.push_back({mean[0] / n[0], mean[1] / n[1]});
            sum += c.pairs.back().first;
        }
        if (const auto at = s.noise_lsc.find(of); at != s.noise_lsc.end())
            c.lsc = at->second;
        else if (const auto noise =
                     s.open() && !c.pairs.empty()
                         ? known.repeatability(*of, s.design.method->word, s.design.instrument.toStdString(), lab.now(),
                               {s.mean_mass_kg, s.mean_height_cm, sum / static_cast<double>(c.pairs.size())})
                         : std::nullopt)
            c.lsc = precision::change_factor * noise->rms_sd;
        auto comparison = study::compare(c.pairs, c.lsc);
        if (!comparison) {
            why = comparison.messages();
            break;
        }
        c.comparison = *comparison;
        if (c.comparison.sd > 0 || c.comparison.shift != 0 || of == &quantity::fat_percent) out.push_back(std::move(c));
    }
    if (out.empty()) {
        if (why.empty())
            why.push_back({"too_few_pairs", Level::error, "pairs",
                "Nobody was measured on both sides yet; three people and more are needed."});
        return Outcome<std::vector<Compared>>::refuse(std::move(why));
    }
    return out;
}

Outcome<QString> save_study(const Study& s, const Lab& lab, const QString& folder)
{
    const auto all = quantities_of(s);
    QStringList rows, head{"person", "repeat", "operator", "at", "side", "left_out"};
    for (const Quantity* of : all) head << QString::fromLatin1(of->id);
    rows << head.join(',');
    int person = -1, times = 0;
    for (const Member& m : s.members) {
        times = m.person == person ? times + 1 : 1;
        person = m.person;
        QStringList row{QString::number(person + 1), QString::number(times), csv_cell(m.who),
            m.at.toString(Qt::ISODate),
            s.compares() ? (m.side ? QStringLiteral("second") : QStringLiteral("first")) : QString(),
            csv_cell(m.left_out)};
        for (const Quantity* of : all) {
            const auto at = m.values.find(of);
            row << (at == m.values.end() ? QString() : number(at->second));
        }
        rows << row.join(',');
    }
    const QString stem = QDir(folder).filePath(QStringLiteral("study-%1").arg(s.id));
    const QString first = stem + QStringLiteral("-repeats.csv");
    if (const auto wrong = write(first, rows)) return Outcome<QString>::refuse(*wrong);

    rows.clear();
    if (s.compares()) {
        rows << QStringLiteral(
            "quantity,unit,people,shift,shift_within_95,sd_of_differences,lower_limit,upper_limit,lsc_between,verdict");
        if (const auto c = compared(s, lab))
            for (const Compared& one : *c) {
                const auto& x = one.comparison;
                rows << QStringList{QString::fromLatin1(one.quantity->id), QString::fromUtf8(one.quantity->unit),
                    QString::number(x.n), number(x.shift), number(x.shift_within), number(x.sd), number(x.low),
                    number(x.high), number(x.lsc), QString::fromLatin1(study::word(x.verdict))}
                            .join(',');
            }
    } else {
        rows << QStringLiteral("quantity,unit,operator,degrees_of_freedom,rms_sd,rms_sd_upper95,rms_cv_percent,lsc,"
                               "limit_percent,offset,offset_within_95");
        if (const auto t = repeated(s))
            for (const Repeated& one : *t) {
                const Value* cv = one.precision.find(quantity::rms_cv);
                rows << QStringList{QString::fromLatin1(one.quantity->id), QString::fromUtf8(one.quantity->unit),
                    QStringLiteral("all"), number(one.value(quantity::degrees_of_freedom)),
                    number(one.value(quantity::rms_sd)), number(one.value(quantity::rms_sd_upper)),
                    cv ? number(cv->value) : QString(), number(one.value(quantity::lsc)),
                    one.limit_percent ? number(*one.limit_percent) : QString(), QString(), QString()}
                            .join(',');
                for (const study::Operator& o : one.operators)
                    rows << QStringList{QString::fromLatin1(one.quantity->id), QString::fromUtf8(one.quantity->unit),
                        csv_cell(QString::fromStdString(o.name)), QString::number(o.degrees_of_freedom),
                        o.rms_sd ? number(*o.rms_sd) : QString(), QString(),
                        o.rms_cv_percent ? number(*o.rms_cv_percent) : QString(),
                        o.rms_sd ? number(precision::change_factor * *o.rms_sd) : QString(), QString(),
                        o.offset ? number(*o.offset) : QString(), o.offset ? number(o.offset_within) : QString()}
                                .join(',');
            }
    }
    if (const auto wrong = write(stem + QStringLiteral("-results.csv"), rows)) return Outcome<QString>::refuse(*wrong);
    return first;
}

} // namespace fusain::work

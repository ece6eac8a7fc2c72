// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/words/catalogue.h"

#include "records/diary/shipped.h"
#include "report/page/look.h"
#include "report/words/method_words.h"

#include "bench/base/json.h"

#include <QFile>

#include <map>

namespace fusain::report {
namespace {

nlohmann::json shipped(const QString& name) { return nlohmann::json::parse(records::shipped_text(name)); }

std::vector<Question> questions(const nlohmann::json& rows)
{
    std::vector<Question> out;
    for (const auto& row : rows) out.push_back({row.at("id"), row.at("text")});
    return out;
}

} // namespace

const StopQuestions& hydrostatic_questions()
{
    static const StopQuestions all = [] {
        const nlohmann::json file = shipped(QStringLiteral("stops_hydrostatic.json"));
        return StopQuestions{questions(file.at("stops")), questions(file.at("notes")), file.at("version")};
    }();
    return all;
}

QString StopQuestions::text(const std::string& id) const
{
    for (const auto* list : {&stops, &notes})
        for (const Question& q : *list)
            if (q.id == id) return QString::fromStdString(q.text);
    return QString::fromStdString(id);
}

QString science_page(const std::string& symbol, const bench::Visit& visit)
{
    static const std::map<std::string, const char*> pages = {
        {"ρ_w", "water"},
        {"t_w", "water"},
        {"S", "water"},
        {"BTPS", "gas"},
        {"VC_BTPS", "gas"},
        {"T_g", "gas"},
        {"P_B", "gas"},
        {"VC", "lung"},
        {"RV", "lung"},
        {"V_TG", "lung"},
        {"D_b", "density"},
        {"BMI", "judgement"},
        {"FFMI", "judgement"},
        {"FMI", "judgement"},
    };
    static const std::map<std::string, const char*> of_density = {
        {"%F", "density"}, {"FM", "density"}, {"FFM", "density"}};
    const bool density = words_of(visit).model == std::string_view("conversion");
    const auto& where = density && of_density.count(symbol) ? of_density : pages;
    const auto at = where.find(symbol);
    const QString own = QString::fromLatin1(words_of(visit).science);
    look::reach_shipped_files();
    QFile file(QStringLiteral(":/science/%1.md").arg(at == where.end() ? own : QString::fromLatin1(at->second)));
    return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
}

} // namespace fusain::report

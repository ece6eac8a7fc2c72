// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/reading/quantities_file.h"

#include "bench/base/json.h"
#include "core/base/csv.h"
#include "version.h"

#include <QDir>
#include <QSaveFile>

#include <charconv>

namespace fusain::work {
namespace {

/// Shortest text that reads back the same double.
std::string number(double v)
{
    char text[40];
    const auto end = std::to_chars(text, text + sizeof text, v).ptr;
    return {text, end};
}

struct Row {
    const Measurement* of;
    const Quantity* quantity;
    double value, u, u_model;
};

std::vector<Row> rows_of(const History& h)
{
    std::vector<Row> out;
    for (const Measurement& m : h.all()) {
        if (m.mass_kg > 0) out.push_back({&m, &quantity::body_mass, m.mass_kg, 0, 0});
        for (const auto& [quantity, value] : m.girths) out.push_back({&m, quantity, value, 0, 0});
        for (const Value& v : m.result.values) out.push_back({&m, v.quantity, v.value, v.u, v.u_model});
    }
    return out;
}

} // namespace

QByteArray as_csv(const History& h)
{
    std::string out = "client,day,time,method,instrument,equations,reckoned_anew_from,quantity,value,unit,u,u_model\n";
    for (const Row& r : rows_of(h)) {
        const Measurement& m = *r.of;
        const std::string cells[] = {h.client().number.toStdString(), m.day.toString(Qt::ISODate).toStdString(),
            m.at.toString(QStringLiteral("HH:mm")).toStdString(), m.method, m.instrument, m.equations,
            m.recomputed_from, r.quantity->id, number(r.value), r.quantity->unit, r.u > 0 ? number(r.u) : "",
            r.u_model > 0 ? number(r.u_model) : ""};
        const char* comma = "";
        for (const std::string& cell : cells) {
            out += comma + csv::quoted(csv::without_formula(cell));
            comma = ",";
        }
        out += '\n';
    }
    return QByteArray::fromStdString(out);
}

QByteArray as_json(const History& h)
{
    nlohmann::json all = {{"kind", "fusain quantities"}, {"version", 1}, {"engine", "fusain " FUSAIN_VERSION},
        {"client", h.client().number.toStdString()}, {"sex", word(h.client().sex)},
        {"measurements", nlohmann::json::array()}};
    const Measurement* last = nullptr;
    for (const Row& r : rows_of(h)) {
        const Measurement& m = *r.of;
        if (last != &m) {
            all["measurements"].push_back({{"day", m.day.toString(Qt::ISODate).toStdString()},
                {"time", m.at.toString(QStringLiteral("HH:mm")).toStdString()}, {"method", m.method},
                {"instrument", m.instrument}, {"equations", m.equations}, {"age_y", m.age_y},
                {"height_cm", m.height_cm}, {"quantities", nlohmann::json::object()}});
            if (!m.recomputed_from.empty()) all["measurements"].back()["reckoned_anew_from"] = m.recomputed_from;
            last = &m;
        }
        nlohmann::json one = {{"value", r.value}, {"unit", r.quantity->unit}};
        if (r.u > 0) one["u"] = r.u;
        if (r.u_model > 0) one["u_model"] = r.u_model;
        all["measurements"].back()["quantities"][r.quantity->id] = one;
    }
    return QByteArray::fromStdString(all.dump(1));
}

Outcome<QString> save_quantities(const History& h, const QString& folder)
{
    const QString base = QDir(folder).filePath(QStringLiteral("client%1-quantities").arg(h.client().id));
    for (const auto& [ending, bytes] : {std::pair{".csv", as_csv(h)}, std::pair{".json", as_json(h)}}) {
        QSaveFile file(base + QString::fromLatin1(ending));
        if (!QDir().mkpath(folder) || !file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size() ||
            !file.commit())
            return Outcome<QString>::refuse({"file_unreachable", Level::error, "folder",
                "The file " + file.fileName().toStdString() +
                    " cannot be written: " + file.errorString().toStdString() + "."});
    }
    return base + QStringLiteral(".csv");
}

} // namespace fusain::work

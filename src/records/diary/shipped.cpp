// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/diary/shipped.h"

#include "bench/files/protocol_file.h"

#include <QFile>

#include <stdexcept>

static void reach_tables() { Q_INIT_RESOURCE(tables); } // a resource in a static library wants to be named

namespace fusain::records {
namespace {

template <class T>
T usable(const Outcome<T>& read)
{
    if (!read) throw std::runtime_error(read.messages().front().text);
    return *read;
}

} // namespace

std::string shipped_text(const QString& name)
{
    reach_tables();
    QFile file(QStringLiteral(":/data/") + name);
    if (!file.open(QIODevice::ReadOnly))
        throw std::runtime_error("the program was built without data/" + name.toStdString());
    return file.readAll().toStdString();
}

const protocol::Book& shipped_book()
{
    static const protocol::Book all = [] {
        protocol::Book out;
        out.questions = usable(bench::read_questions(shipped_text(QStringLiteral("questions.json")), "questions.json"));
        for (Method m : all_methods()) {
            const std::string name = std::string(m->word) + ".json";
            out.protocols.push_back(
                usable(bench::read_protocol(shipped_text(QString::fromStdString(name)), name, out.questions)));
        }
        return out;
    }();
    return all;
}

const std::vector<house::Rule>& shipped_house_rules()
{
    static const std::vector<house::Rule> all =
        usable(bench::read_house_rules(shipped_text(QStringLiteral("house_rules.json")), "house_rules.json"));
    return all;
}

} // namespace fusain::records

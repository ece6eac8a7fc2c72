// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/files/layouts.h"

#include "bench/files/layout_file.h"
#include "records/file/regular.h"

#include <QDir>
#include <QSaveFile>

#include <algorithm>

namespace fusain::work {
namespace {

constexpr qint64 most_bytes = 1 << 20;

QDir place(const QString& lab_folder) { return QDir(lab_folder + QStringLiteral("/layouts")); }

} // namespace

Layouts layouts(const Lab& lab) { return layouts(lab.folder()); }

Layouts layouts(const QString& lab_folder)
{
    Layouts out;
    const QDir dir = place(lab_folder);
    for (const QString& name : dir.entryList({QStringLiteral("*.json")}, QDir::Files, QDir::Name)) {
        const auto bytes = records::read_regular(dir.filePath(name), most_bytes);
        if (!bytes) {
            out.bad.push_back(bytes.messages().front());
            continue;
        }
        auto read = bench::read_layout(bytes->toStdString(), "layouts/" + name.toStdString());
        if (!read)
            out.bad.push_back(read.messages().front());
        else
            out.usable.push_back(std::move(read).take());
    }
    std::stable_sort(
        out.usable.begin(), out.usable.end(), [](const auto& a, const auto& b) { return a.title < b.title; });
    return out;
}

Outcome<printout::Layout> layout(const Lab& lab, const QString& id)
{
    Layouts all = layouts(lab);
    for (printout::Layout& l : all.usable)
        if (l.id == id.toStdString()) return std::move(l);
    std::string why = "There is no layout \"" + id.toStdString() + "\" in " + place(lab.folder()).path().toStdString() +
                      ". Make it again at the instrument (Instruments), or put its file back.";
    for (const Message& m : all.bad) why += ' ' + m.text;
    return Outcome<printout::Layout>::refuse({"layout_gone", Level::error, "layout", why});
}

std::optional<Message> keep(const Lab& lab, const printout::Layout& layout)
{
    if (const Messages wrong = printout::faults(layout); !wrong.empty()) return wrong.front();
    const QDir dir = place(lab.folder());
    QSaveFile file(dir.filePath(QString::fromStdString(layout.id) + QStringLiteral(".json")));
    const QByteArray text = QByteArray::fromStdString(bench::write_layout(layout));
    if (dir.mkpath(QStringLiteral(".")) && file.open(QIODevice::WriteOnly) && file.write(text) == text.size() &&
        file.commit())
        return std::nullopt;
    return Message{"lab_unreachable", Level::error, "layout",
        "The layout could not be written to " + dir.path().toStdString() + ": " + file.errorString().toStdString() +
            '.'};
}

} // namespace fusain::work

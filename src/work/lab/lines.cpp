// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/lab/lines.h"

#include "records/file/regular.h"

#include <QDir>
#include <QFileInfo>
#include <QSysInfo>

#include <algorithm>

namespace fusain::work {
namespace {

const QString setting_key = QStringLiteral("lines");
constexpr qint64 largest_decoder = 64 * 1024;

/// The computer, by a name that stays.
std::string machine()
{
    const QByteArray id = QSysInfo::machineUniqueId();
    return (id.isEmpty() ? QSysInfo::machineHostName().toUtf8() : id).toStdString();
}

/// Every computer's, as they are kept.
std::vector<std::string> stored(const records::Store& store)
{
    return bench::elements(store.setting(setting_key, QStringLiteral("[]")).toStdString());
}

/// A line of this computer's that can be read; else null.
std::optional<bench::KeptLine> mine(const std::string& stored)
{
    const auto line = bench::read<bench::KeptLine>(stored);
    return line && line->machine == machine() ? std::optional(*line) : std::nullopt;
}

std::optional<Message> put(records::Store& store, const std::vector<std::string>& all)
{
    return store.set_setting(setting_key, QString::fromStdString(bench::list_of(all)));
}

} // namespace

QString decoder_folder(const records::Store& store)
{
    return QFileInfo(store.file()).absolutePath() + QStringLiteral("/decoders");
}

Decoders decoders(const records::Store& store)
{
    Decoders out{bench::shipped_decoders(), {}};
    const QDir folder(decoder_folder(store));
    for (const QString& name : folder.entryList({QStringLiteral("*.json")}, QDir::Files | QDir::System, QDir::Name)) {
        const auto wrong = [&](const std::string& why) {
            out.wrong.push_back({"bad_file", Level::error, name.toStdString(),
                name.toStdString() + ": " + why + " The decoder is not used."});
        };
        const auto bytes = records::read_regular(folder.filePath(name), largest_decoder);
        if (!bytes) {
            wrong(bytes.messages().front().text);
            continue;
        }
        const auto read = bench::read_decoder(bytes->toStdString(), name.toStdString());
        if (!read) {
            out.wrong.push_back(read.messages().front());
            continue;
        }
        const auto same =
            std::find_if(out.all.begin(), out.all.end(), [&](const auto& d) { return d->id == read->id; });
        if (same != out.all.end()) {
            wrong("\"id\" is \"" + read->id + "\", which " +
                  ((*same)->shipped ? "a decoder that ships has" : "the file " + (*same)->file + " has") +
                  "; allowed is one of its own.");
            continue;
        }
        out.all.push_back(std::make_shared<const bench::Decoder>(*read));
    }
    return out;
}

KeptLines kept_lines(const records::Store& store)
{
    KeptLines out;
    const auto known = decoders(store).all;
    for (const std::string& each : stored(store)) {
        const auto line = mine(each);
        if (!line) continue;
        const auto read = bench::line_from(*line, known);
        if (read)
            out.lines.push_back(*read);
        else
            out.wrong.push_back(read.messages().front());
    }
    return out;
}

std::optional<Message> keep_line(records::Store& store, const bench::LineSetup& line, const std::string& instead_of)
{
    if (auto why = bench::check(line)) return why;
    const auto feeds = [](const bench::LineSetup& l) {
        return l.decoder ? l.decoder->feeds(l.feeds) : std::vector<bench::Channel>{};
    };
    const std::string replaced = instead_of.empty() ? line.place : instead_of;
    for (const bench::LineSetup& other : kept_lines(store).lines) {
        if (other.place == replaced || other.place == line.place) continue;
        for (const bench::Channel channel : feeds(line))
            if (const auto theirs = feeds(other); std::find(theirs.begin(), theirs.end(), channel) != theirs.end())
                return Message{"line_taken", Level::error, "feeds",
                    std::string("The ") + bench::row(channel).title + " is fed by " + other.title() +
                        " already. Forget that line first, or choose what else this one measures."};
    }
    std::vector<std::string> all;
    for (const std::string& each : stored(store))
        if (const auto old = mine(each); !old || (old->place != replaced && old->place != line.place))
            all.push_back(each);
    bench::KeptLine kept = bench::kept(line);
    kept.machine = machine();
    all.push_back(bench::written(kept));
    return put(store, all);
}

std::optional<Message> forget_line(records::Store& store, const std::string& place)
{
    std::vector<std::string> all;
    for (const std::string& each : stored(store))
        if (const auto old = mine(each); !old || old->place != place) all.push_back(each);
    return put(store, all);
}

} // namespace fusain::work

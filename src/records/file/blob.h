// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QByteArray>
#include <QDir>

#include <functional>
#include <optional>

/// Files beside the lab file, each named by the SHA-256 of its bytes: on the disk before anything refers to them,
/// checked whenever they are read.
namespace fusain::records::blob {

QString name_of(const QByteArray& bytes);
/// 64 hexadecimal digits and nothing else: what a lab file from elsewhere says is a name may be a path.
bool is_name(const QString& name);
/// Where the file of that name lies; empty where it is no name: no path is made of it.
QString place_of(const QDir& folder, const QString& name);
/// Its name, once it is on the disk; empty when it is not.
QString keep(const QDir& folder, const QByteArray& bytes);

enum class State { whole, missing, damaged };
struct Found {
    State state = State::missing;
    QByteArray bytes;
};
Found read(const QDir& folder, const QString& name);

/// Removes files that nobody refers to: the program died in between. Young ones stay, they may be another window's.
void sweep(const QDir& folder, const std::function<bool(const QString& name)>& is_referred_to);

} // namespace fusain::records::blob

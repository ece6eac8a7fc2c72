// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>

#include <string>

namespace fusain {

/// The core's texts (UTF-8) as Qt shows them.
inline QString q(const std::string& text) { return QString::fromStdString(text); }

} // namespace fusain

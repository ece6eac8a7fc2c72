// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <QString>

/// A caution of the core in plain words for the client: what it means for the number, nothing that frightens or shames.
namespace fusain::report {

/// Null when the code has no row (a test holds the table against the core's).
const char* client_words_of(const std::string& code);
/// The row's words; the core's own text when there is none, so that no caution is ever lost.
QString client_words(const Message& caution);

} // namespace fusain::report

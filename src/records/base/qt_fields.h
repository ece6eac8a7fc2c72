// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/fields.h"

#include <QString>

/// Qt's texts among the fields of what is logged (bench/base/fields.h).
namespace fusain::records {

/// Written always.
template <class E, class B>
typename bench::Fields<E>::Row text(const char* key, QString B::*member)
{
    return {[=](const E& e, bench::Json& j) { j[key] = (e.*member).toStdString(); },
        [=](const bench::Json& j, E& e) -> std::optional<Message> {
            e.*member = QString::fromStdString(j.value(key, std::string()));
            return std::nullopt;
        }};
}

} // namespace fusain::records

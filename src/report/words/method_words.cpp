// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/words/method_words.h"

#include "bench/brought/brought.h"
#include "bench/printed/printed.h"
#include "core/method/rooms.h"

#include <map>

namespace fusain::report {

#define ROOM(row, room) MethodWords room##_words();
FUSAIN_METHODS(ROOM)
#undef ROOM

const MethodWords& words_of(Method method)
{
#define ROOM(row, room) {Method(method::row), room##_words()},
    static const std::map<Method, MethodWords> all = {FUSAIN_METHODS(ROOM)};
#undef ROOM
    return all.at(method);
}

const MethodWords& words_of(const bench::Visit& visit)
{
    static const MethodWords elsewhere = brought_words(), printed = printed_words();
    switch (visit.row().origin) {
    case bench::Origin::elsewhere: return elsewhere;
    case bench::Origin::printed: return printed;
    case bench::Origin::measured: break;
    }
    return words_of(visit.method);
}

QString doubt_words(const bench::Visit& visit, const Value& value)
{
    const QString model = QString::fromLatin1(words_of(visit).model);
    if (visit.row().origin == bench::Origin::elsewhere)
        return QStringLiteral("± %1, %2")
            .arg(number(value.u, 1), bench::brought_of(visit).u_told ? QStringLiteral("told with it")
                                                                     : QStringLiteral("by this lab's rule"));
    if (const auto* printed = bench::printed_if(visit); printed && printed->told_by(visit) == printout::as_printed)
        return QStringLiteral("± %1, as published for the method").arg(number(value.u, 1));
    return QStringLiteral("± %1 from measuring, ± %2 from the %3")
        .arg(number(value.u_measurement(), 1), number(value.u_model, 1), model);
}

} // namespace fusain::report

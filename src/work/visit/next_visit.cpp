// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/visit/next_visit.h"

namespace fusain::work {

Outcome<records::Booking> book_next(Lab& lab, long client_id, Method method, const QDate& from, const QString& who)
{
    using Refusal = Outcome<records::Booking>;
    constexpr int days = 14;
    const auto client = lab.store->client(client_id);
    if (!client) return Refusal::refuse({"unknown_client", Level::error, "client", "There is no such client."});
    const QDate first = std::max(from, lab.today().addDays(1)), last = first.addDays(days - 1);
    const auto answer = schedule::propose(lab.planning(first, last), lab.request(*client, {method}, first, last), 1);
    if (!answer) return Refusal::refuse(answer.messages());
    if (answer->proposals.empty()) return Refusal::refuse({"no_time", Level::error, "window", answer->sentence});
    records::Booking b;
    b.client_id = client_id;
    b.made_by = who;
    b.parts = answer->proposals.front().parts;
    auto stored = lab.diary->book(b);
    if (stored) lab.say_changed();
    return stored;
}

} // namespace fusain::work

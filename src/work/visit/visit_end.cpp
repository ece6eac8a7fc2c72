// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/visit/visit_end.h"

#include "records/base/text.h"
#include "work/study/study.h"

namespace fusain::work {
namespace {

Message caution(const char* code, const QString& text) { return {code, Level::caution, "study", text.toStdString()}; }

/// Who comes next on the visit's instrument, by the day's list: a crew is measured one after the other.
std::optional<records::Booking> next_client(const Lab& lab, const bench::Visit& visit)
{
    if (visit.day() != lab.today().toString(Qt::ISODate).toStdString()) return std::nullopt;
    for (const records::Booking& b : lab.diary->day(lab.today())) // by time
        if (b.id != visit.booking_id && b.client_id != visit.subject.client_id &&
            (b.state == records::BookingState::booked || b.state == records::BookingState::arrived) &&
            b.parts.front().instrument == visit.instrument && b.visits.front() == 0)
            return b;
    return std::nullopt;
}

} // namespace

bool ends_visit(const bench::Event& e) { return e.kind == bench::event::Finished::kind || bench::ends_for_good(e); }

Outcome<Messages> end_visit(const std::shared_ptr<records::Store>& store, long visit_id, const bench::Event& e)
{
    using End = Outcome<Messages>;
    Messages said;
    if (!ends_visit(e)) return said;
    const auto visit = store->replay(visit_id);
    if (!visit) return End::refuse(visit.messages());
    Lab lab(store);
    const long booking = visit->booking_id;
    if (booking && lab.diary->booking(booking) && !next_method(lab, booking))
        if (const auto closed = lab.diary->close(booking, {}); !closed) return End::refuse(closed.messages());
    if (e.kind != bench::event::Finished::kind) return said;
    if (const auto joined = join_study(lab, visit_id)) {
        if (!*joined && joined->messages().front().field == "lab") return End::refuse(joined->messages());
        said.push_back(*joined ? caution("in_study", QStringLiteral("It is in the study now."))
                               : caution("no_repeat", QStringLiteral("It does not count as a repeat of the study: %1")
                                                          .arg(q(joined->messages().front().text))));
    }
    return said;
}

std::optional<Message> not_to_be_told(const bench::Visit& visit)
{
    const Messages open = visit.to_acknowledge();
    if (open.empty()) return std::nullopt;
    return Message{
        "asks_again", Level::repeat, "result", "This result asks to be measured again. " + open.front().text};
}

std::optional<Method> next_method(const Lab& lab, long booking_id)
{
    const auto b = booking_id ? lab.diary->booking(booking_id) : std::nullopt;
    const auto kept = b ? lab.diary->last_screening(b->client_id, booking_id) : std::nullopt;
    if (!kept) return std::nullopt;
    for (std::size_t i = 0; i < b->parts.size(); ++i) {
        const Method method = b->parts[i].method;
        if (b->visits[i]) continue;
        for (const records::VerdictKept& v : kept->kept.verdicts)
            if (v.method == method->word && v.goes()) return method;
    }
    return std::nullopt;
}

Next after_visit(const Lab& lab, const bench::Visit& visit, long visit_id)
{
    if (const auto method = next_method(lab, visit.booking_id)) return {method, 0, {}};
    if (const long study = study_of(lab, visit_id)) return {{}, study, {}};
    return {{}, 0, next_client(lab, visit)};
}

} // namespace fusain::work

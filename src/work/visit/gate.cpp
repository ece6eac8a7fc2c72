// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/visit/gate.h"

#include "bench/files/layout_file.h"
#include "work/xray/beam.h"
#include "work/files/layouts.h"
#include "work/practice/practice.h"
#include "work/study/study.h"

#include <algorithm>

namespace fusain::work {

namespace {

Message refusal(const char* code, const char* field, const QString& text)
{
    return {code, Level::error, field, text.toStdString()};
}

/// The scale is used by every method and must be known good today, where the lab has one.
std::vector<records::Instrument> needed_with(const records::Instrument& instrument, const Lab& lab)
{
    std::vector<records::Instrument> out{instrument};
    for (const records::Instrument& i : lab.diary->instruments())
        if (i.kind == &bench::scale_kind() && i.in_use) {
            out.push_back(i);
            break;
        }
    return out;
}

/// X-rays are run by who is licensed for them, by name.
std::optional<Message> licence(const Lab& lab, const QString& who)
{
    const QStringList names = licensed_people(lab);
    if (names.contains(who.trimmed())) return std::nullopt;
    return refusal("not_licensed", "technician",
        names.isEmpty()
            ? QStringLiteral(
                  "X-ray is run only by people licensed for it, and the lab's people (Instruments) name nobody "
                  "who is. Local rules decide who may.")
            : QStringLiteral("X-ray is run only by people licensed for it: %1. Whoever scans puts their own name as "
                             "technician.")
                  .arg(names.join(QStringLiteral(", "))));
}

} // namespace

Outcome<long> booking_for(Lab& lab, long client_id, Method method, const QString& who)
{
    const auto study = awaiting(lab, client_id, method);
    const QString only = study ? study->next_instrument(client_id) : QString();
    const auto fits = [&](const std::string& serial) { return only.isEmpty() || only.toStdString() == serial; };
    for (const records::Booking& b : lab.diary->day(lab.today()))
        if (b.client_id == client_id &&
            (b.state == records::BookingState::booked || b.state == records::BookingState::arrived) &&
            std::any_of(b.parts.begin(), b.parts.end(),
                [&](const schedule::Slot& s) { return s.method == method && fits(s.instrument); }))
            return b.id;
    std::optional<records::Instrument> instrument;
    const auto ready = [&](const records::Instrument& i) { return lab.checks.ready(i, lab.now()).ready; };
    for (const records::Instrument& i : lab.diary->instruments())
        if (i.kind->method == method && i.in_use && fits(i.serial.toStdString()) &&
            (!instrument || (!ready(*instrument) && ready(i))))
            instrument = i;
    if (!instrument && study)
        return Outcome<long>::refuse(refusal("instrument_gone", "instrument",
            QStringLiteral("The study is of %1, which is not in use any more.")
                .arg(lab.instrument_name(only.toStdString()))));
    if (!instrument)
        return Outcome<long>::refuse(refusal("no_instrument", "instrument",
            QStringLiteral("There is no %1 in the register. Add it here, then make it ready.")
                .arg(QString::fromLatin1(method->place))));
    records::Booking b;
    b.client_id = client_id;
    b.made_by = who;
    b.note = study ? QStringLiteral("a repeat of study %1").arg(study->id) : QStringLiteral("came without a booking");
    b.walk_in = true;
    const schedule::Minute now = records::minute_of(lab.now());
    b.parts.push_back({0, client_id, method, instrument->serial.toStdString(), {now, now + instrument->duration_min}});
    const auto stored = lab.diary->book(b, true);
    if (!stored) return Outcome<long>::refuse(stored.messages().front());
    Messages said = stored.messages();
    if (study) // repeats are meant to follow each other
        std::erase_if(said, [](const Message& m) { return m.code == "too_soon" || m.code == "never_so_soon"; });
    return {stored->id, said};
}

Gate begin_test(Lab& lab, Session& session, const Arrival& arrival, long booking_id, Method method, const QString& who)
{
    const auto booking = lab.diary->booking(booking_id);
    const auto client = booking ? lab.store->client(booking->client_id) : std::nullopt;
    const auto slot = booking ? std::find_if(booking->parts.begin(), booking->parts.end(),
                                    [&](const schedule::Slot& s) { return s.method == method; })
                              : std::vector<schedule::Slot>::const_iterator{};
    if (!client || slot == booking->parts.end())
        return {refusal("unknown_booking", "booking", QStringLiteral("There is no such visit."))};
    if (const long begun = booking->visits[static_cast<std::size_t>(slot - booking->parts.begin())])
        return {std::nullopt, 0, begun}; // not a second one
    const auto& verdicts = arrival.verdicts();
    const auto verdict =
        std::find_if(verdicts.begin(), verdicts.end(), [&](const auto& v) { return v.method == method; });
    if (!arrival.is_open() || arrival.booking().id != booking_id || !arrival.kept() || verdict == verdicts.end() ||
        !arrival.may_go(*verdict))
        return {refusal("not_screened", "screening",
            QStringLiteral("No test begins before its screening allows it. Screen %1 first.")
                .arg(client->full_name()))};
    if (auto why = practice_missing(lab, who, method)) return {std::move(why)};
    const auto instrument = lab.instrument(slot->instrument);
    if (!instrument)
        return {refusal("instrument_gone", "instrument",
            QStringLiteral(
                "The instrument of this booking is not in the register any more. Move the visit to another one."))};
    bench::event::Stops stops = arrival.stops_event(method);
    for (const records::Instrument& i : needed_with(*instrument, lab)) {
        const auto ready = lab.checks.ready(i, lab.now());
        if (!ready.ready)
            return {refusal("instrument_not_ready", "instrument",
                        QStringLiteral("%1 is not ready, so no test starts on it. %2")
                            .arg(i.name, QString::fromStdString(ready.words))),
                i.id};
        if (!ready.caution.empty()) stops.words.push_back(ready.caution);
    }
    const auto* p = arrival.book().protocol(method);
    Beginning with;
    with.started.booking = booking_id;
    with.started.instrument = instrument->serial.toStdString();
    with.started.reference = instrument->reference;
    with.started.profile = instrument->profile.toStdString();
    with.started.house = lab.rules.house();
    with.started.house_version = lab.rules.house_version();
    if (p) with.started.protocol = p->id + " " + std::to_string(p->version);
    if (!instrument->layout.isEmpty()) { // it gives finished numbers
        const auto shows = layout(lab, instrument->layout);
        if (!shows) return {shows.messages().front(), instrument->id};
        const std::string check_by = instrument->check_by.toStdString();
        with.started.layout = bench::write_layout(*shows);
        with.started.way = instrument->way.toStdString();
        with.started.check = {check_by, bench::unchecked_error(check_by)};
    }
    if (method->licence)
        if (auto why = licence(lab, who)) return {std::move(why)};
    with.of_method = begun_by_beam(lab, *client, *instrument);
    if (auto why = session.start(*client, who, method, with, stops)) return {std::move(why)};
    return {std::nullopt, 0, 0, lab.diary->set_visit(booking_id, method, session.visit_id())};
}

} // namespace fusain::work

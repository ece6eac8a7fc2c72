// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/fields.h"
#include "furnish.h"
#include "told.h"
#include "work/study/study.h"

#include <QTemporaryDir>

namespace fusain::work {

using records::BookingState;

/// A client on the analyser, booked for the tank after it, whom a study of the analyser awaits.
struct AtTheEnd : ToldLab {
    QTemporaryDir dir;
    std::unique_ptr<Lab> lab;
    long booking = 0, study = 0, visit = 0;

    explicit AtTheEnd(
        std::vector<Method> parts = {method::impedance, method::hydrostatic}, const char* operators = "M. Tanguy")
    {
        set_clock(QDateTime(QDate(2026, 11, 23), QTime(9, 0), QTimeZone("Europe/Paris")));
        store = *records::Store::open(dir.path() + "/lab.fusain");
        EXPECT_FALSE(store->set_setting("zone", "Europe/Paris"));
        lab = std::make_unique<Lab>(store);
        furnish(*lab, false);
        EXPECT_TRUE(lab->diary->save(records::StaffMember{0, "B. Le Goff", false, {}, true}));
        client.given_name = "Aliénor";
        client.family_name = "Quéméner";
        client.birth_date = "1995-05-02";
        client.height_cm = 171;
        client = *store->save(client);
        records::Booking b;
        b.client_id = client.id;
        b.made_by = "M. Tanguy";
        schedule::Minute at = records::minute_of(lab->now());
        for (const Method m : parts) {
            b.parts.push_back({0, client.id, m, std::string("PG-") + m->word, {at, at + 20}});
            at += 30;
        }
        const auto kept = lab->diary->book(b, true);
        EXPECT_TRUE(kept) << (kept ? "" : kept.messages().front().text);
        booking = kept->id;
        Design d;
        d.method = method::impedance;
        d.instrument = "PG-impedance";
        d.operators = QStringList{operators};
        study = *begin_study(*lab, d, "M. Tanguy");
        EXPECT_FALSE(await_repeat(*lab, study, client.id, true, operators));
        visit = begun(method::impedance);
    }
    long begun(Method m)
    {
        More more;
        more.booking = booking;
        more.finished = false;
        const long id = m == method::impedance ? analyser("2026-11-23", 70, 500, 55, more)
                                               : tank("2026-11-23", 70, {2.30, 2.32, 2.31}, more);
        EXPECT_FALSE(lab->diary->set_visit(booking, m, id));
        return id;
    }
    /// The screening lets these go, the others not.
    void screened(std::initializer_list<std::pair<Method, const char*>> verdicts)
    {
        records::ScreeningKept kept;
        for (const auto& [m, verdict] : verdicts) kept.verdicts.push_back({m->word, verdict});
        EXPECT_TRUE(lab->diary->keep({0, client.id, booking, "2026-11-23T07:50:00.000Z", "M. Tanguy", kept}));
    }
    BookingState state() { return lab->diary->booking(booking)->state; }
    std::size_t repeats() { return fusain::work::study(*lab, study)->members.size(); }
};

} // namespace fusain::work

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "virtual/chamber/chamber.h"
#include "work/lab/lab.h"

#include <gtest/gtest.h>

/// A lab that is ready for work.
namespace fusain::work {

/// A check as it would have been done in the last hours.
inline void pass_check(Lab& lab, const records::Instrument& i)
{
    QDateTime at = lab.now().addSecs(-6 * 3600);
    const auto iso = [&] { return at.toUTC().toString(Qt::ISODateWithMs); };
    const auto id = lab.checks.begin(i, "M. Tanguy", iso());
    ASSERT_TRUE(id);
    using Kind = bench::CheckStep::Kind;
    for (const auto& step : bench::check_steps(*i.kind, i.check_by.toStdString()))
        for (int n = 0; n < (step.kind == Kind::read ? i.kind->tolerance(i.reference).readings : 1); ++n) {
            at = at.addSecs(60 * step.minutes + 10);
            const bench::checking::Reading reading{step.id, step.kind == Kind::read ? i.reference : 34.6};
            const auto why = lab.checks.append(*id,
                bench::logged({static_cast<long>(lab.checks.events(*id).size()) + 1, iso().toStdString(), "M. Tanguy"},
                    step.kind >= Kind::read ? bench::Act(reading) : bench::Act(bench::checking::Done{step.id})));
            ASSERT_FALSE(why) << why->text;
        }
    ASSERT_TRUE(lab.checks.ready(i, lab.now()).ready) << lab.checks.ready(i, lab.now()).words;
}

/// Somebody on the staff; a scale, a tank, a chamber, an analyser and an X-ray table that were checked this morning.
inline void furnish(Lab& lab, bool checked = true)
{
    EXPECT_TRUE(lab.diary->save(records::StaffMember{0, "M. Tanguy", true, {}, true}));
    for (const bench::InstrumentKind* kind : bench::instrument_kinds()) {
        const bench::InstrumentKind& row = *kind;
        const bool chamber = row.method && *row.method == method::air_displacement;
        const double reference = chamber ? virt::chamber_cylinder_l : row.reference;
        const char* profile = row.profile ? row.profile->of_stand_in : "";
        const auto i = lab.diary->save(records::Instrument{
            0, kind, row.title, QString("PG-") + row.id, profile, "", "", true, reference, row.duration_min, {}});
        ASSERT_TRUE(i);
        if (checked) pass_check(lab, *i);
    }
}

} // namespace fusain::work

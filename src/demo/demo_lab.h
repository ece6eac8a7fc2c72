// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/store/store.h"

/// The made-up lab: invented people, each with one true body, and past visits as the virtual tank measured them.
namespace fusain::desk {

/// Fills an empty lab. Nothing when it worked, or the lab already has clients.
[[nodiscard]] std::optional<Message> fill_demo_lab(records::Store& store);

/// The lab's clock begins at this time of today, in the demo lab's zone (now, where that is no time), and goes so much
/// faster than life.
void set_demo_clock(const QString& hh_mm, double speed);

/// Instruments with weeks of checks, staff, and today's bookings with a clash among them; today's again when the demo
/// is opened on another day.
[[nodiscard]] std::optional<Message> fill_demo_day(const std::shared_ptr<records::Store>& store);

/// The true body of a demo client, in the words of the stand-in; empty for anybody else.
QString demo_body(const records::Client& client);

} // namespace fusain::desk

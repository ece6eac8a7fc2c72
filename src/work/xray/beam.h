// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/lab/lab.h"

namespace fusain::work {

/// Who of the lab's people is licensed for X-ray and works here now.
QStringList licensed_people(const Lab& lab);

/// What a visit on an X-ray table begins with, as its log has it: who may scan, what the table bears, today's phantom,
/// what beams there were before. On any other instrument nothing ("{}").
std::string begun_by_beam(Lab& lab, const records::Client& client, const records::Instrument& table);

} // namespace fusain::work

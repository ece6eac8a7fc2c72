// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/telling/telling.h"

#include "core/body/safe.h"
#include "core/quality/judgement.h"

namespace fusain::telling {

Reserved reserved(const energy::Body& body, bool expecting, const Messages& messages)
{
    if (body.age_y < safe::adult_y) return {Reserve::growing};
    if (expecting) return {Reserve::expecting};
    const auto why = std::find_if(messages.begin(), messages.end(), judgement::forbids_plan);
    if (why != messages.end()) return {Reserve::caution, &*why};
    if (body.fat_percent() < judgement::least_fat_percent(body.sex)) return {Reserve::at_minimum};
    return {};
}

Aim aim(const energy::Body& body, const std::optional<reference::Place>& place, bool no_plan)
{
    using Where = reference::Place::Where;
    if (!place) return Aim::none;
    switch (place->where) {
    case Where::middle:
    case Where::lower_edge:
    case Where::upper_edge: return Aim::keep_it;
    case Where::above: return no_plan || safe::why_no_loss(body) ? Aim::none : Aim::come_closer;
    case Where::below: return Aim::eat_enough;
    }
    return Aim::none;
}

} // namespace fusain::telling

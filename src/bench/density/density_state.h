// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/method.h"
#include "core/density/densitometry.h"

/// What the density methods share on the bench: how density becomes fat.
namespace fusain::bench {

class DensityState : public MethodState {
public:
    std::string conversion = density::default_id;

    void begin(const event::Started& started, const std::string& body) override;

protected:
    /// Who is measured, of a visit with a mass.
    densitometry::Person person(const Visit& visit) const;
};

/// Null when the visit is by no density method.
const DensityState* density_of(const Visit& visit);
ChoiceRow conversion_choice();
/// Growing bodies have another density: the children's constants, where they have some for the age.
std::string density_beginning(Sex sex, double age_y);

} // namespace fusain::bench

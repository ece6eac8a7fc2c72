// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/house.h"

#include <QString>

#include <vector>

/// Tables that ship with the program (folder data/).
namespace fusain::records {

/// Text of a table by its file name. Throws when the program was built without it.
std::string shipped_text(const QString& name);

/// The protocols and questions, and the house rules, as they come with the program.
const protocol::Book& shipped_book();
const std::vector<house::Rule>& shipped_house_rules();

} // namespace fusain::records

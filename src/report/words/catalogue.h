// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"

#include <QString>

#include <vector>

/// Tables that ship with the program as data (folder data/).
namespace fusain::report {

struct Question {
    std::string id, text;
};
struct StopQuestions {
    std::vector<Question> stops, notes;
    int version = 0;
    /// The words for an id; the id itself when it is not known.
    QString text(const std::string& id) const;
};
const StopQuestions& hydrostatic_questions();

/// The page of docs/science that explains a step of the story, as Markdown.
QString science_page(const std::string& symbol, const bench::Visit& visit);

} // namespace fusain::report

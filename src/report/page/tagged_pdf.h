// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <QByteArray>
#include <QString>

#include <vector>

/// A PDF that can be read aloud and kept for ever: PDF/A-2a, with title, language and tags. Qt writes no tags; each
/// block is drawn after a mark outside the page, and the marks become tags here.
namespace fusain::report {

struct Tag {
    enum class Kind { artifact, title, heading, paragraph, figure, row, cell, head_cell } kind = Kind::artifact;
    QString alternative; ///< figure: what it is a picture of
};

/// Where the mark of a tag is drawn, in the painter's units: far outside of any page.
inline constexpr double mark_x = -9000, mark_size = 0.5;
inline double mark_y(std::size_t tag) { return -1.0 - static_cast<double>(tag); }

/// Given:    a PDF of Qt in which the mark of tag i stands before its content, tags in their order; title; BCP 47
///           language
/// Returned: the same pages as PDF/A-2a. Refusals: `bad_pdf`
Outcome<QByteArray> tagged(
    const QByteArray& pdf, const std::vector<Tag>& tags, const QString& title, const QString& language);

} // namespace fusain::report

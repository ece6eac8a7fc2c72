// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/page.h"
#include "report/reading/talk.h"

/// Sheets as they are given out: made, kept beside the lab file, and never overwritten by another text.
namespace fusain::report {

/// What a sheet is made of: a visit as it stands, and everything that is read of the client beside it.
struct SheetOf {
    long visit_id = 0;
    const bench::Visit* visit = nullptr;
    bool for_client = true;
};
Document sheet_of(const work::Lab& lab, const SheetOf& of);

struct Given {
    QString file;
    QString replaces; ///< when the one it replaces was given, in words; empty: it is the first
    int pages = 0;
    bool again = false; ///< the same text was given before: the same file
};
/// Where it lies, and what it replaces.
QString given_words(const Given& given);
/// Writes it into sheets/ and notes it in the client's log. A sheet whose text has changed gets a file of its own and
/// says that it replaces the old one, which stays. Refusals: `asks_again` (the client's), `file_unreachable`, what the
/// lab says.
Outcome<Given> give_sheet(work::Lab& lab, const SheetOf& of, const QString& who);
/// An e-mail with the sheet into the outbox; refuses (`no_email`) without an address.
Outcome<QString> mail_sheet(const work::Lab& lab, const SheetOf& of, const Given& given, const QString& who);

} // namespace fusain::report

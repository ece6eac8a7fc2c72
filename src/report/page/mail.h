// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QByteArray>
#include <QString>

#include <vector>

namespace fusain::report {

/// An e-mail with attachments, to be written into the outbox (RFC 5322, MIME); somebody sends it by hand.
struct Mail {
    QString from_name, from, to_name, to, subject, message_id, text;
    struct Attachment {
        QByteArray type, name; ///< "application/pdf", "visit.pdf"
        QByteArray bytes;
        QByteArray more{}; ///< further parameters of the type: "; charset=utf-8"
    };
    std::vector<Attachment> attachments;
};
QByteArray to_bytes(const Mail& mail);

} // namespace fusain::report

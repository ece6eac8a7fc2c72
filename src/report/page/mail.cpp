// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/mail.h"

#include <QDateTime>

namespace fusain::report {
namespace {

/// RFC 2047: a header in any letters.
QByteArray header_words(const QString& text)
{
    const QByteArray bytes = text.toUtf8();
    for (const char c : bytes)
        if (static_cast<unsigned char>(c) > 126 || c == '\r' || c == '\n')
            return "=?UTF-8?B?" + bytes.toBase64() + "?=";
    return bytes;
}

/// A name before an address: quoted, so that a comma or an address in it names nobody else.
QByteArray header_name(const QString& name)
{
    const QByteArray words = header_words(name);
    if (words.startsWith("=?")) return words;
    return '"' + QByteArray(words).replace('\\', "\\\\").replace('"', "\\\"") + '"';
}

QByteArray base64_lines(const QByteArray& bytes)
{
    const QByteArray all = bytes.toBase64();
    QByteArray out;
    for (qsizetype i = 0; i < all.size(); i += 76) out += all.mid(i, 76) + "\r\n";
    return out;
}

} // namespace

QByteArray to_bytes(const Mail& m)
{
    const QByteArray edge = "=_fusain_" + m.message_id.toUtf8().toHex().left(24);
    QByteArray out;
    out += "From: " + header_name(m.from_name) + " <" + m.from.toUtf8() + ">\r\n";
    out += "To: " + header_name(m.to_name) + " <" + m.to.toUtf8() + ">\r\n";
    out += "Subject: " + header_words(m.subject) + "\r\n";
    out += "Date: " + QDateTime::currentDateTime().toString(Qt::RFC2822Date).toUtf8() + "\r\n";
    out += "Message-ID: <" + m.message_id.toUtf8() + "@fusain.invalid>\r\n";
    out += "MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=\"" + edge + "\"\r\n\r\n";
    out += "--" + edge + "\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: base64\r\n\r\n" +
           base64_lines(m.text.toUtf8());
    for (const Mail::Attachment& a : m.attachments)
        out += "--" + edge + "\r\nContent-Type: " + a.type + a.more + "; name=\"" + a.name +
               "\"\r\nContent-Disposition: attachment; filename=\"" + a.name +
               "\"\r\nContent-Transfer-Encoding: base64\r\n\r\n" + base64_lines(a.bytes);
    out += "--" + edge + "--\r\n";
    return out;
}

} // namespace fusain::report

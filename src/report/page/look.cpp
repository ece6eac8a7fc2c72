// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/look.h"

#include <QDir>
#include <QDirIterator>
#include <QFile>
#include <QFontDatabase>
#include <QSaveFile>
#include <QStandardPaths>

static void init_resources() { Q_INIT_RESOURCE(fusain); }

namespace fusain::look {

const Palette& day()
{
    static const Palette p = {QColor(0xF5F1EA), QColor(0xFBF9F5), QColor(0x2A2826), QColor(0x5E5953), QColor(0x7C756C),
        QColor(0xD8D0C3), QColor(0x33506D), QColor(0xA9762A), QColor(0x5F9C9B), QColor(0x8F887E), QColor(0xA62A52),
        QColor(0xC8551B)};
    return p;
}

const Palette& night()
{
    static const Palette p = {QColor(0x1F1D1C), QColor(0x282625), QColor(0xEDE7DC), QColor(0xB9B1A5), QColor(0x938B80),
        QColor(0x46423E), QColor(0x7FA3C7), QColor(0xD9A55A), QColor(0x7DBDBB), QColor(0xA79F94), QColor(0xE9779B),
        QColor(0xF08A4B)};
    return p;
}

void prepare_fonts()
{
    if (qEnvironmentVariableIsSet("FONTCONFIG_FILE")) return;
    // one file of this user's, that stays: a program that is killed would leave one of its own each time
    const QString folder =
        QStandardPaths::writableLocation(QStandardPaths::GenericCacheLocation) + QStringLiteral("/fusain");
    const QString path = folder + QStringLiteral("/fonts.conf");
    const QByteArray words = "<?xml version=\"1.0\"?><!DOCTYPE fontconfig SYSTEM \"fonts.dtd\"><fontconfig>"
                             "<include>/etc/fonts/fonts.conf</include>"
                             "<selectfont><rejectfont><glob>*/B612Mono*</glob></rejectfont></selectfont></fontconfig>";
    QFile there(path);
    if (!there.open(QIODevice::ReadOnly) || there.readAll() != words) {
        QSaveFile config(path); // whole or not at all: several programs may begin at once
        if (!QDir().mkpath(folder) || !config.open(QIODevice::WriteOnly)) return;
        config.write(words);
        if (!config.commit()) return;
    }
    qputenv("FONTCONFIG_FILE", path.toLocal8Bit());
}

void reach_shipped_files() { init_resources(); }

bool load_fonts()
{
    static const bool loaded = [] {
        init_resources();
        int n = 0;
        for (QDirIterator it(QStringLiteral(":/fonts")); it.hasNext(); ++n)
            if (QFontDatabase::addApplicationFont(it.next()) < 0) return false;
        return n >= 8;
    }();
    return loaded;
}

QFont font(Voice voice, int pixels, bool strong)
{
    QFont f(voice == Voice::speaks ? QStringLiteral("Vollkorn")
            : voice == Voice::text ? QStringLiteral("Lato")
                                   : QStringLiteral("B612"));
    f.setPixelSize(pixels);
    // with any spacing at all Qt draws no ligatures: what is drawn as one sign cannot be copied or read aloud from a
    // PDF
    f.setLetterSpacing(QFont::AbsoluteSpacing, 1.0 / 64);
    f.setWeight(strong ? (voice == Voice::speaks ? QFont::DemiBold : QFont::Bold) : QFont::Normal);
    return f;
}

} // namespace fusain::look

// SPDX-License-Identifier: GPL-3.0-or-later
// Files that somebody names: nobody waits for a pipe, nothing without an end is read, no name looks like another.
#include "../lab.h"
#include "records/file/lab_file.h"
#include "records/file/regular.h"
#include "records/visits/attached.h"

#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/un.h>

using namespace fusain::records;

TEST(Regular, OnlyFilesWithAnEndAreRead)
{
    const QTemporaryDir dir;
    const auto at = [&](const char* name) { return dir.filePath(QString::fromLatin1(name)); };
    QFile whole(at("whole.txt"));
    ASSERT_TRUE(whole.open(QIODevice::WriteOnly));
    whole.write("12345");
    whole.close();
    QFile large(at("large.txt"));
    ASSERT_TRUE(large.open(QIODevice::WriteOnly));
    ASSERT_TRUE(large.resize(5LL << 30)); // sparse
    large.close();
    ASSERT_EQ(::mkfifo(QFile::encodeName(at("pipe")).constData(), 0600), 0);
    const int socket = ::socket(AF_UNIX, SOCK_STREAM, 0);
    sockaddr_un name{};
    name.sun_family = AF_UNIX;
    const QByteArray path = QFile::encodeName(at("socket"));
    std::copy(path.begin(), path.end(), name.sun_path);
    ASSERT_EQ(::bind(socket, reinterpret_cast<const sockaddr*>(&name), sizeof name), 0);
    ASSERT_TRUE(QFile::link(at("pipe"), at("link")));
    struct Row {
        QString path;
        qint64 most;
        const char *code, *words;
    };
    for (const Row& row :
        {Row{at("whole.txt"), 5, "", ""}, {at("whole.txt"), 4, "file_too_large", "allowed is up to 1 KiB"},
            {at("large.txt"), 32 << 20, "file_too_large", "5120 MiB"}, {at("pipe"), 100, "file_irregular", "a pipe"},
            {at("link"), 100, "file_irregular", "a pipe"}, {at("socket"), 100, "file_irregular", "socket"},
            {dir.path(), 100, "file_irregular", "a folder"}, {"/dev/zero", 100, "file_irregular", "a device"},
            {at("none"), 100, "file_unreachable", "No such file"}}) {
        const auto read = read_regular(row.path, row.most);
        EXPECT_EQ(static_cast<bool>(read), *row.code == 0) << row.path.toStdString();
        if (read) {
            EXPECT_EQ(*read, "12345");
            continue;
        }
        EXPECT_EQ(read.messages().front().code, row.code) << row.path.toStdString();
        EXPECT_NE(read.messages().front().text.find(row.words), std::string::npos) << read.messages().front().text;
    }
    EXPECT_EQ(attached::bring(dir.path() + "/lab.fusain", at("pipe")).messages().front().code, "file_irregular");
    EXPECT_EQ(attached::bring(dir.path() + "/lab.fusain", "/dev/zero").messages().front().code, "file_irregular");
    const auto lab = look_at(at("pipe"));
    ASSERT_TRUE(lab) << "a lab that is a pipe";
    EXPECT_EQ(lab->code, "lab_foreign");
    ::close(socket);
}

TEST(Regular, DrivesOfOtherComputersAreTold)
{
    for (const auto& [kind, network] : {std::pair{0x6969UL, true}, {0xFF534D42UL, true}, {0xFE534D42UL, true},
             {0xFFFFFFFFFE534D42UL, true}, {0xEF53UL, false}, {0x01021994UL, false}, {0x794C7630UL, false}})
        EXPECT_EQ(is_network_drive(kind), network) << std::hex << kind;
}

TEST(Regular, ANameThatTurnsTheReadingDirectionIsSpeltOut)
{
    const QString turned = QStringLiteral("/home/lab/scan") + QChar(0x202E) + QStringLiteral("gpj.exe");
    EXPECT_EQ(plain_name(turned), QStringLiteral("scan⟨U+202E⟩gpj.exe"));
    EXPECT_EQ(plain_name(QStringLiteral("/a/b\nc.csv")), QStringLiteral("b⟨U+000A⟩c.csv"));
    EXPECT_EQ(plain_name(QStringLiteral("/a/Aliénor 1.pdf")), QStringLiteral("Aliénor 1.pdf"));
}

// SPDX-License-Identifier: GPL-3.0-or-later
// The locks by which other processes see that the lab is in use hold, whatever else of this process looks at its file.
#include "../lab.h"
#include "records/file/inspection.h"
#include "records/file/lab_file.h"
#include "records/people/also_held.h"
#include "records/store/overview.h"

#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace fusain;
using namespace fusain::records;

namespace {

/// As another process sees it: whether this one holds the lock of a reader, by which the database knows that it is in
/// use. SQLite's lock bytes lie at 1 GiB: pending, reserved, then 510 of readers.
bool in_use(const QString& file)
{
    const pid_t child = fork();
    if (child == 0) {
        const int fd = ::open(QFile::encodeName(file).constData(), O_RDWR | O_CLOEXEC);
        struct flock lock {};
        lock.l_type = F_WRLCK;
        lock.l_whence = SEEK_SET;
        lock.l_start = 0x40000000 + 2;
        lock.l_len = 510;
        _exit(fd < 0 || ::fcntl(fd, F_GETLK, &lock) != 0 ? 2 : lock.l_type != F_UNLCK);
    }
    int status = 0;
    return waitpid(child, &status, 0) == child && WIFEXITED(status) && WEXITSTATUS(status) == 1;
}

} // namespace

TEST(Locks, HoldWhateverElseOfThisProcessLooksAtTheLab)
{
    Lab lab;
    auto window = lab.open();
    ASSERT_TRUE(window);
    ASSERT_TRUE(in_use(lab.file()));
    auto recorder = lab.open(); // a connection of its own, as the thread that writes has
    EXPECT_TRUE(in_use(lab.file())) << "another process would take the journal for left behind, and remove it";
    recorder.reset();
    EXPECT_TRUE(in_use(lab.file()));
    EXPECT_FALSE(look_at(lab.file()));
    EXPECT_TRUE(in_use(lab.file()));
    EXPECT_GT(peek(lab.file()).version, 0);
    EXPECT_TRUE(in_use(lab.file()));
    const std::atomic<bool> stop = false;
    newest_results(lab.file(), stop);
    EXPECT_TRUE(in_use(lab.file()));
    Client c;
    c.number = "101";
    c.family_name = "Guillou";
    also_held(lab.file(), c, stop);
    EXPECT_TRUE(in_use(lab.file()));
    make_private(lab.file());
    EXPECT_TRUE(in_use(lab.file()));
    {
        Inspection inspection(lab.file());
        bool finished = false;
        QObject::connect(&inspection, &Inspection::finished, [&] { finished = true; });
        inspection.begin();
        while (!finished) QCoreApplication::processEvents(QEventLoop::AllEvents, 10);
    }
    EXPECT_TRUE(in_use(lab.file()));
    window.reset();
    EXPECT_FALSE(in_use(lab.file()));
}

// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual_time.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QEventLoop>

#include <cstring>
#include <string>

#include <dirent.h>
#include <fcntl.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace fusain::desk {
namespace {

/// True while another thread of this process runs, or waits for the disk: as the kernel sees it.
bool others_work()
{
    DIR* tasks = ::opendir("/proc/self/task");
    if (!tasks) return false;
    const long self = ::syscall(SYS_gettid);
    bool busy = false;
    while (const dirent* entry = ::readdir(tasks)) {
        if (entry->d_name[0] == '.' || std::atol(entry->d_name) == self) continue;
        const std::string path = std::string("/proc/self/task/") + entry->d_name + "/stat";
        const int file = ::open(path.c_str(), O_RDONLY);
        if (file < 0) continue; // it has ended
        char text[256];
        const ssize_t n = ::read(file, text, sizeof text - 1);
        ::close(file);
        if (n <= 0) continue;
        text[n] = 0;
        const char* name_end = std::strrchr(text, ')');
        busy = busy || (name_end && (name_end[2] == 'R' || name_end[2] == 'D'));
    }
    ::closedir(tasks);
    return busy;
}

} // namespace

bool VirtualClock::wait(const std::function<bool()>& condition, int ms, const std::function<bool()>& unsettled)
{
    const qint64 until = now_ns_ + ms * ns_a_ms;
    QElapsedTimer machine; // since time stood still
    machine.start();
    for (;;) {
        QCoreApplication::processEvents();
        if (condition()) return true;
        const bool over = now_ns_ >= until;
        if (over ? machine.elapsed() > last_moments_ms : machine.elapsed() > standstill_ms) return false;
        if (over || unsettled() || others_work()) {
            QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents | QEventLoop::AllEvents, 1);
            ::usleep(200);
            continue;
        }
        jump();
        machine.restart();
    }
}

} // namespace fusain::desk

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <cerrno>
#include <chrono>
#include <cstring>
#include <stdexcept>
#include <string>

#include <arpa/inet.h>
#include <fcntl.h>
#include <netinet/in.h>
#include <pty.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <termios.h>
#include <unistd.h>

/// The instrument's side of a line: a pseudo-terminal as a serial port would be, a local socket, a network socket as of
/// a serial server. Each is unplugged and plugged in again.
namespace fusain::virt {

class End {
public:
    virtual ~End() = default;
    virtual void plug_in() = 0;
    virtual void unplug() = 0;
    virtual bool plugged() const = 0;
    /// Writes what the line takes; returned is what the program said meanwhile.
    virtual std::string write(std::string bytes) = 0;
};

/// Bits at the wrong pace: every byte comes out as another.
inline void garble(std::string& bytes)
{
    for (char& c : bytes) c = static_cast<char>((static_cast<unsigned char>(c) * 181u + 97u) | 0x80u);
}

/// A pseudo-terminal reachable under a fixed name, as a serial port would be.
class SerialEnd final : public End {
public:
    explicit SerialEnd(std::string link) : link_(std::move(link)) { plug_in(); }
    ~SerialEnd() override { unplug(); }

    void plug_in() override
    {
        int slave = -1;
        char name[128];
        termios raw{};
        cfmakeraw(&raw);
        if (openpty(&master_, &slave, name, &raw, nullptr) != 0)
            throw std::runtime_error(std::string("no pseudo-terminal: ") + std::strerror(errno));
        ::fcntl(master_, F_SETFL, O_NONBLOCK);
        ::close(slave);
        ::unlink(link_.c_str());
        if (::symlink(name, link_.c_str()) != 0)
            throw std::runtime_error("cannot link " + link_ + ": " + std::strerror(errno));
    }

    void unplug() override
    {
        if (master_ >= 0) ::close(master_);
        master_ = -1;
        ::unlink(link_.c_str());
    }

    bool plugged() const override { return master_ >= 0; }

    /// An instrument that is set to another speed than its line sends what nobody can read.
    void set_speed(int baud) { baud_ = baud; }

    /// Writes what the line takes. What it does not take waits for a moment, as in an instrument's own buffer, and is
    /// lost when nobody listens for longer; faster than life, the system's buffer alone would be full in no time.
    /// Returned: what the program said meanwhile.
    std::string write(std::string bytes) override
    {
        if (baud_ && master_ >= 0 && !heard_right()) garble(bytes);
        const auto now = std::chrono::steady_clock::now();
        if (waiting_.empty())
            since_ = now;
        else if (now - since_ > longest_wait)
            waiting_.clear();
        waiting_ += bytes;
        while (master_ >= 0 && !waiting_.empty()) {
            const ssize_t n = ::write(master_, waiting_.data(), waiting_.size());
            if (n <= 0) break;
            waiting_.erase(0, static_cast<std::size_t>(n));
            since_ = now;
        }
        if (master_ < 0) waiting_.clear();
        char said[256];
        const ssize_t n = master_ >= 0 ? ::read(master_, said, sizeof said) : 0;
        return n > 0 ? std::string(said, static_cast<std::size_t>(n)) : std::string();
    }

private:
    /// The program listens at the speed that the instrument is set to.
    bool heard_right() const
    {
        static constexpr std::pair<int, speed_t> speeds[] = {{300, B300}, {600, B600}, {1200, B1200}, {2400, B2400},
            {4800, B4800}, {9600, B9600}, {19200, B19200}, {38400, B38400}, {57600, B57600}, {115200, B115200},
            {230400, B230400}};
        termios now{};
        if (::tcgetattr(master_, &now) != 0) return true;
        for (const auto& [baud, code] : speeds)
            if (baud == baud_ && code != ::cfgetospeed(&now)) return false;
        return true;
    }
    int baud_ = 0;
    static constexpr auto longest_wait = std::chrono::milliseconds(500);
    std::string waiting_;
    std::chrono::steady_clock::time_point since_;
    std::string link_;
    int master_ = -1;
};

inline int listen_at(const std::string& path)
{
    const int fd = ::socket(AF_UNIX, SOCK_STREAM | SOCK_NONBLOCK, 0);
    sockaddr_un address{};
    address.sun_family = AF_UNIX;
    if (path.size() >= sizeof address.sun_path) throw std::runtime_error("the socket path is too long: " + path);
    std::strncpy(address.sun_path, path.c_str(), sizeof address.sun_path - 1);
    ::unlink(path.c_str());
    if (::bind(fd, reinterpret_cast<sockaddr*>(&address), sizeof address) != 0 || ::listen(fd, 4) != 0)
        throw std::runtime_error("cannot listen at " + path + ": " + std::strerror(errno));
    return fd;
}

/// A local socket to which one program at a time is connected: what it says comes back from `write`.
class SocketEnd final : public End {
public:
    explicit SocketEnd(std::string path) : path_(std::move(path)) { plug_in(); }
    ~SocketEnd() override { unplug(); }

    void plug_in() override { server_ = listen_at(path_); }
    void unplug() override
    {
        hang_up();
        if (server_ >= 0) ::close(server_);
        server_ = -1;
        ::unlink(path_.c_str());
    }
    bool plugged() const override { return server_ >= 0; }

    /// What the program has said meanwhile.
    std::string write(std::string bytes) override
    {
        if (server_ >= 0)
            if (const int fd = ::accept4(server_, nullptr, nullptr, SOCK_NONBLOCK); fd >= 0) {
                hang_up(); // the newest counts
                there_ = fd;
            }
        if (there_ < 0) return {};
        waiting_ += bytes;
        while (!waiting_.empty()) {
            const ssize_t n = ::send(there_, waiting_.data(), waiting_.size(), MSG_NOSIGNAL);
            if (n < 0 && errno != EAGAIN && errno != EWOULDBLOCK) hang_up();
            if (n <= 0) break;
            waiting_.erase(0, static_cast<std::size_t>(n));
        }
        char said[256];
        const ssize_t n = there_ >= 0 ? ::read(there_, said, sizeof said) : 0;
        if (there_ >= 0 && n == 0) {
            hang_up();
            return "stop\n"; // nobody is there: a table does not go on by itself
        }
        return n > 0 ? std::string(said, static_cast<std::size_t>(n)) : std::string();
    }

private:
    void hang_up()
    {
        if (there_ >= 0) ::close(there_);
        there_ = -1;
        waiting_.clear();
    }
    std::string path_, waiting_;
    int server_ = -1, there_ = -1;
};

/// A network socket on this computer, as a box that serves a serial line has it; the newest caller counts.
class TcpEnd final : public End {
public:
    explicit TcpEnd(int port) : port_(port) { plug_in(); }
    ~TcpEnd() override { unplug(); }

    void plug_in() override
    {
        server_ = ::socket(AF_INET, SOCK_STREAM | SOCK_NONBLOCK, 0);
        const int again = 1;
        ::setsockopt(server_, SOL_SOCKET, SO_REUSEADDR, &again, sizeof again);
        sockaddr_in address{};
        address.sin_family = AF_INET;
        address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        address.sin_port = htons(static_cast<std::uint16_t>(port_));
        if (::bind(server_, reinterpret_cast<sockaddr*>(&address), sizeof address) != 0 || ::listen(server_, 4) != 0)
            throw std::runtime_error("cannot listen at port " + std::to_string(port_) + ": " + std::strerror(errno));
    }
    void unplug() override
    {
        if (there_ >= 0) ::close(there_);
        if (server_ >= 0) ::close(server_);
        there_ = server_ = -1;
    }
    bool plugged() const override { return server_ >= 0; }

    std::string write(std::string bytes) override
    {
        if (server_ >= 0)
            if (const int fd = ::accept4(server_, nullptr, nullptr, SOCK_NONBLOCK); fd >= 0) {
                if (there_ >= 0) ::close(there_);
                there_ = fd;
            }
        if (there_ < 0) return {};
        if (::send(there_, bytes.data(), bytes.size(), MSG_NOSIGNAL) < 0 && errno != EAGAIN) {
            ::close(there_);
            there_ = -1;
            return {};
        }
        char said[256];
        const ssize_t n = ::read(there_, said, sizeof said);
        return n > 0 ? std::string(said, static_cast<std::size_t>(n)) : std::string();
    }

private:
    int port_, server_ = -1, there_ = -1;
};

} // namespace fusain::virt

// SPDX-License-Identifier: GPL-3.0-or-later
// fusain-virtual-printer: a stand-in for an analyser that gives finished numbers. It puts its printout into a folder,
// as a PDF that takes a moment to be written. Stage directions come over a local socket.
#include "bench/files/layout_file.h"
#include "virtual/press/press.h"

#include <QCommandLineParser>
#include <QDir>
#include <QGuiApplication>
#include <QLocalServer>
#include <QLocalSocket>
#include <QFileInfo>
#include <QTimer>

#include <csignal>
#include <iostream>
#include <random>
#include <stdexcept>
#include <sys/prctl.h>
#include <unistd.h>

using namespace fusain;

namespace {

constexpr double measures_s = 15, writes_s = 1.5;

/// What its own equations make of a body, and its display: nobody knows what they are.
virt::Body as_it_sees(virt::Body b, std::mt19937_64& random)
{
    const double shift = -0.8 + std::normal_distribution<>(0, 0.25)(random);
    b.fat_mass_kg = std::max(2.0, b.fat_mass_kg + shift);
    b.fat_free_mass_kg -= shift + std::normal_distribution<>(0, 0.05)(random);
    return b;
}

class Printer {
public:
    Printer(const QString& folder, double speed, std::uint64_t seed) : dir_(folder), speed_(speed), random_(seed) {}

    /// `client BODY`; `print number=1089 age=27 at=2026-11-30T08:12`, what is typed at it: somebody
    /// stands on it, and a sheet follows.
    std::string direct(const QString& words)
    {
        if (words.startsWith(QStringLiteral("client "))) {
            body_ = virt::parse_body(words.mid(7).toStdString());
            return "ok client";
        }
        if (!words.startsWith(QStringLiteral("print "))) return "error unknown direction";
        std::string number, at;
        for (const QString& word : words.split(' ').mid(1)) {
            if (word.startsWith(QStringLiteral("number="))) number = word.mid(7).toStdString();
            if (word.startsWith(QStringLiteral("at="))) at = word.mid(3).toStdString();
            if (word.startsWith(QStringLiteral("age="))) body_.age_y = word.mid(4).toDouble();
        }
        if (number.empty() || at.size() < 16) return "error print wants number= and at=";
        const QByteArray sheet = virt::pdf(virt::print(as_it_sees(body_, random_), virt::hall_order(number, at)));
        const QString file = dir_.filePath(QStringLiteral("hall-%1.pdf").arg(++printed_, 4, 10, QLatin1Char('0')));
        later(measures_s, [this, sheet, file] {
            put(file, sheet.left(sheet.size() / 2), QIODevice::WriteOnly);
            later(writes_s, [this, sheet, file] { put(file, sheet.mid(sheet.size() / 2), QIODevice::Append); });
        });
        return "ok print";
    }

private:
    template <class Then>
    void later(double seconds, Then then)
    {
        QTimer::singleShot(static_cast<int>(1000 * seconds / speed_), qApp, std::move(then));
    }
    void put(const QString& path, const QByteArray& bytes, QIODevice::OpenMode how)
    {
        QFile f(path);
        if (!dir_.mkpath(QStringLiteral(".")) || !f.open(how) || f.write(bytes) != bytes.size())
            std::cerr << "fusain-virtual-printer: " << path.toStdString() << ": " << f.errorString().toStdString()
                      << "\n";
    }

    QDir dir_;
    double speed_;
    std::mt19937_64 random_;
    virt::Body body_;
    int printed_ = 0;
};

volatile std::sig_atomic_t stop_asked = 0;

} // namespace

int main(int argc, char** argv)
{
    qputenv("QT_QPA_PLATFORM", "offscreen"); // it draws on paper only
    QGuiApplication app(argc, argv);
    QCommandLineParser options;
    options.setApplicationDescription(
        QStringLiteral("A stand-in for an analyser that prints finished numbers into a folder"));
    options.addHelpOption();
    options.addOptions(
        {{QStringLiteral("folder"), QStringLiteral("Where its printouts appear."), QStringLiteral("DIR")},
            {QStringLiteral("control"), QStringLiteral("Local socket for stage directions."), QStringLiteral("NAME")},
            {QStringLiteral("speed"), QStringLiteral("How much faster than life."), QStringLiteral("N"),
                QStringLiteral("1")},
            {QStringLiteral("seed"), QStringLiteral("Of everything random."), QStringLiteral("N"), QStringLiteral("1")},
            {QStringLiteral("parent"), QStringLiteral("Process that started this one: ends with it."),
                QStringLiteral("PID")},
            {QStringLiteral("layout"), QStringLiteral("Writes the layout of its printouts, and ends.")}});
    options.process(app);
    if (options.isSet(QStringLiteral("layout"))) {
        std::cout << bench::write_layout(virt::print({}, virt::hall_order("1", "2026-01-01T08:00")).layout);
        return 0;
    }
    ::prctl(PR_SET_PDEATHSIG, SIGTERM);
    const QString parent = options.value(QStringLiteral("parent"));
    if (!parent.isEmpty() && ::getppid() != parent.toInt()) return 0;
    Printer printer(options.value(QStringLiteral("folder")), options.value(QStringLiteral("speed")).toDouble(),
        options.value(QStringLiteral("seed")).toULongLong());
    QLocalServer server;
    if (!server.listen(options.value(QStringLiteral("control")))) {
        std::cerr << "fusain-virtual-printer: " << server.errorString().toStdString() << "\n";
        return 1;
    }
    QObject::connect(&server, &QLocalServer::newConnection, &app, [&] {
        QLocalSocket* talker = server.nextPendingConnection();
        QObject::connect(talker, &QLocalSocket::readyRead, &app, [&printer, talker] {
            while (talker->canReadLine()) {
                std::string answer;
                try {
                    answer = printer.direct(QString::fromUtf8(talker->readLine()).trimmed());
                } catch (const std::invalid_argument& why) {
                    answer = std::string("error ") + why.what();
                }
                talker->write(QByteArray::fromStdString(answer + '\n'));
            }
        });
    });
    std::signal(SIGTERM, [](int) { stop_asked = 1; });
    QTimer watch;
    QObject::connect(&watch, &QTimer::timeout, &app, [&app] {
        if (stop_asked) app.quit();
    });
    watch.start(100);
    std::cout << "folder " << options.value(QStringLiteral("folder")).toStdString() << "\nready" << std::endl;
    const int code = app.exec();
    if (!parent.isEmpty()) { // of a room that nobody else can clear any more
        QDir(options.value(QStringLiteral("folder"))).removeRecursively();
        const QString room = QFileInfo(server.fullServerName()).path();
        server.close(); // its socket lies there
        QDir().rmdir(room);
    }
    return code;
}

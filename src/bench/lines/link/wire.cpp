// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/wire.h"

#include <QFileInfo>
#include <QLocalSocket>
#include <QSerialPort>
#include <QTcpSocket>
#include <QTimer>

#include <sys/socket.h>
#include <unistd.h>

#include <map>

namespace fusain::bench {
namespace {
constexpr int network_ms = 4000;
} // namespace

void DeviceWire::open(const LineSetup& line)
{
    close();
    if (line.place.starts_with("tcp:"))
        open_network(line);
    else if (line.place.starts_with("socket:"))
        open_local(line);
    else
        open_serial(line);
}

void DeviceWire::close()
{
    if (!device_) return;
    device_->disconnect(this);
    device_->close();
    device_->deleteLater();
    device_ = nullptr;
    ready_ = false;
}

void DeviceWire::write(const QByteArray& bytes)
{
    if (is_open() && device_->isWritable()) device_->write(bytes);
}

void DeviceWire::take(QIODevice* device)
{
    device_ = device;
    ready_ = true;
    connect(device, &QIODevice::readyRead, this, [this] { emit arrived(device_->readAll()); });
    emit opened();
}

/// What is told of it comes after this turn of the event loop: a port must not be deleted in its own signal.
void DeviceWire::leave()
{
    QMetaObject::invokeMethod(
        this,
        [this] {
            if (!device_) return;
            close();
            emit gone();
        },
        Qt::QueuedConnection);
}

void DeviceWire::give_up(const QString& why)
{
    close();
    emit failed(why);
}

void DeviceWire::open_serial(const LineSetup& line)
{
    static const std::map<std::string, QSerialPort::Parity> parities = {{"none", QSerialPort::NoParity},
        {"even", QSerialPort::EvenParity}, {"odd", QSerialPort::OddParity}, {"mark", QSerialPort::MarkParity},
        {"space", QSerialPort::SpaceParity}};
    static const std::map<std::string, QSerialPort::FlowControl> flows = {{"none", QSerialPort::NoFlowControl},
        {"hardware", QSerialPort::HardwareControl}, {"software", QSerialPort::SoftwareControl}};
    const QString place = q(line.place);
    auto* port = new QSerialPort(place, this);
    port->setBaudRate(line.serial.baud);
    port->setDataBits(line.serial.data_bits == 7 ? QSerialPort::Data7 : QSerialPort::Data8);
    port->setStopBits(line.serial.stop_bits == 2 ? QSerialPort::TwoStop : QSerialPort::OneStop);
    port->setParity(parities.at(line.serial.parity));
    port->setFlowControl(flows.at(line.serial.flow));
    if (!port->open(line.decoder && !line.decoder->ask.empty() ? QIODevice::ReadWrite : QIODevice::ReadOnly)) {
        const auto error = port->error();
        const QString words = port->errorString();
        delete port;
        if (!QFileInfo::exists(place))
            return give_up(
                QStringLiteral("No instrument on %1: it is not plugged in, or has another name.").arg(place));
        if (error == QSerialPort::PermissionError)
            return give_up(QStringLiteral("%1 is there and may not be opened: another program has it, or this user is "
                                          "not in the group that owns it (dialout).")
                               .arg(place));
        return give_up(QStringLiteral("%1 cannot be opened: %2.").arg(place, words));
    }
    port->clear(QSerialPort::Input); // what came before it was set to this speed
    connect(port, &QSerialPort::errorOccurred, this, [this](QSerialPort::SerialPortError e) {
        if (e != QSerialPort::NoError && e != QSerialPort::TimeoutError) leave();
    });
    take(port);
}

bool may_speak(unsigned listener, unsigned user) { return listener == user || listener == 0; }

void DeviceWire::open_local(const LineSetup& line)
{
    auto* socket = new QLocalSocket(this);
    socket->connectToServer(q(line.place).mid(7));
    if (!socket->waitForConnected(100)) { // on the same computer: at once or not at all
        delete socket;
        return give_up(QStringLiteral("No instrument on %1.").arg(q(line.place)));
    }
    // whoever may write into a shared folder could answer there
    ucred peer{};
    socklen_t size = sizeof peer;
    if (::getsockopt(static_cast<int>(socket->socketDescriptor()), SOL_SOCKET, SO_PEERCRED, &peer, &size) != 0 ||
        !may_speak(peer.uid, ::getuid())) {
        delete socket;
        return give_up(QStringLiteral("The socket %1 belongs to another user of this computer and is not listened to.")
                           .arg(q(line.place)));
    }
    connect(socket, &QLocalSocket::disconnected, this, &DeviceWire::leave);
    take(socket);
}

void DeviceWire::open_network(const LineSetup& line)
{
    const QString place = q(line.place).mid(4);
    const QString host = place.section(':', 0, -2);
    auto* socket = new QTcpSocket(this);
    device_ = socket;
    auto* patience = new QTimer(socket);
    patience->setSingleShot(true);
    connect(socket, &QTcpSocket::connected, this, [this, socket, patience] {
        patience->stop();
        take(socket);
    });
    const auto not_there = [this, place, host](const QString& why) {
        QMetaObject::invokeMethod(
            this,
            [this, place, why] {
                if (is_opening()) give_up(QStringLiteral("Nobody answers at %1: %2").arg(place, why));
            },
            Qt::QueuedConnection);
    };
    connect(patience, &QTimer::timeout, this,
        [not_there] { not_there(QStringLiteral("no answer. Is the box on, and in the same network?")); });
    connect(socket, &QTcpSocket::errorOccurred, this, [this, not_there, host](QAbstractSocket::SocketError e) {
        if (ready_) return leave();
        not_there(e == QAbstractSocket::ConnectionRefusedError
                      ? QStringLiteral("the computer is there and refuses this port. Is the port number right?")
                  : e == QAbstractSocket::HostNotFoundError
                      ? QStringLiteral("the name \"%1\" is not known in this network.").arg(host)
                      : QStringLiteral("the network does not reach it."));
    });
    patience->start(network_ms);
    socket->connectToHost(host, static_cast<quint16>(place.section(':', -1).toUInt()));
}

} // namespace fusain::bench

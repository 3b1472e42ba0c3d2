#include "instrument/transport.h"

#include <QNetworkProxy>
#include <QSerialPort>
#include <QTcpSocket>
#include <algorithm>
#include <charconv>
#include <fmt/format.h>

#include "core/error.h"
#include "core/progress.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr int kDefaultPort = 5025;  // registered for SCPI over raw sockets
constexpr int kDefaultBaud = 9600;

int milliseconds_to(Transport::Clock::time_point deadline) {
  const auto left =
      std::chrono::duration_cast<std::chrono::milliseconds>(deadline - Transport::Clock::now());
  return static_cast<int>(std::clamp<std::int64_t>(left.count(), 0, 3'600'000));
}

/// Waits in slices, so that a stop is heard. False if the deadline passed or the connection was
/// lost.
bool wait_to_read(QIODevice& device, Transport::Clock::time_point deadline,
                  const std::stop_token& stop, const std::function<bool()>& is_alive) {
  constexpr int kSliceMs = 50;
  while (device.bytesAvailable() == 0) {
    if (stop.stop_requested()) throw Cancelled();
    const int left = milliseconds_to(deadline);
    if (left <= 0 || !is_alive()) return false;
    device.waitForReadyRead(std::min(left, kSliceMs));
  }
  return true;
}

bool write_all(QIODevice& device, std::string_view bytes, Transport::Clock::time_point deadline,
               const std::function<bool()>& is_alive) {
  if (device.write(bytes.data(), static_cast<qint64>(bytes.size())) !=
      static_cast<qint64>(bytes.size()))
    return false;
  while (device.bytesToWrite() > 0) {
    const int left = milliseconds_to(deadline);
    if (left <= 0 || !is_alive()) return false;
    device.waitForBytesWritten(left);
  }
  return is_alive();
}

class TcpTransport final : public Transport {
 public:
  explicit TcpTransport(InstrumentAddress address) : address_(std::move(address)) {}

  void open(Clock::time_point deadline) override {
    socket_ = std::make_unique<QTcpSocket>();
    socket_->setProxy(QNetworkProxy::NoProxy);
    socket_->connectToHost(QString::fromStdString(address_.host_or_port),
                           static_cast<quint16>(address_.number));
    if (!socket_->waitForConnected(std::max(1, milliseconds_to(deadline)))) {
      const std::string why = socket_->errorString().toStdString();
      socket_.reset();
      throw InputError(address_.text(), "", "no answer (" + why + ")",
                       "Check that it is on, and its address and port");
    }
    socket_->setSocketOption(QAbstractSocket::LowDelayOption, 1);
  }
  void close() override { socket_.reset(); }
  bool is_open() const override {
    return socket_ && socket_->state() == QAbstractSocket::ConnectedState;
  }
  bool write(std::string_view bytes, Clock::time_point deadline) override {
    return is_open() && write_all(*socket_, bytes, deadline, [this] { return is_open(); });
  }
  std::size_t read(char* into, std::size_t size, Clock::time_point deadline,
                   const std::stop_token& stop) override {
    if (!socket_ || !wait_to_read(*socket_, deadline, stop, [this] { return is_open(); })) return 0;
    return static_cast<std::size_t>(
        std::max<qint64>(0, socket_->read(into, static_cast<qint64>(size))));
  }
  int descriptor() const override {
    return is_open() ? static_cast<int>(socket_->socketDescriptor()) : -1;
  }

 private:
  InstrumentAddress address_;
  std::unique_ptr<QTcpSocket> socket_;
};

class SerialTransport final : public Transport {
 public:
  explicit SerialTransport(InstrumentAddress address) : address_(std::move(address)) {}

  void open(Clock::time_point) override {
    port_ = std::make_unique<QSerialPort>(QString::fromStdString(address_.host_or_port));
    port_->setBaudRate(address_.number);
    if (!port_->open(QIODevice::ReadWrite)) {
      const std::string why = port_->errorString().toStdString();
      port_.reset();
      throw InputError(address_.text(), "", "it cannot be opened (" + why + ")",
                       "Check the cable, the name of the port and your right to use it");
    }
    port_->clear();
  }
  void close() override { port_.reset(); }
  bool is_open() const override {
    return port_ && port_->isOpen() && port_->error() != QSerialPort::ResourceError;
  }
  bool write(std::string_view bytes, Clock::time_point deadline) override {
    return is_open() && write_all(*port_, bytes, deadline, [this] { return is_open(); });
  }
  std::size_t read(char* into, std::size_t size, Clock::time_point deadline,
                   const std::stop_token& stop) override {
    if (!port_ || !wait_to_read(*port_, deadline, stop, [this] { return is_open(); })) return 0;
    return static_cast<std::size_t>(
        std::max<qint64>(0, port_->read(into, static_cast<qint64>(size))));
  }
  int descriptor() const override { return is_open() ? static_cast<int>(port_->handle()) : -1; }

 private:
  InstrumentAddress address_;
  std::unique_ptr<QSerialPort> port_;
};

std::optional<int> whole_number(std::string_view text) {
  int value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (text.empty() || error != std::errc() || end != text.data() + text.size()) return std::nullopt;
  return value;
}

}  // namespace

std::string InstrumentAddress::text() const {
  return is_serial ? fmt::format("{} {}", host_or_port, number)
                   : fmt::format("{}:{}", host_or_port, number);
}

InstrumentAddress parse_address(const std::string& typed) {
  const std::string text = normalised_typing(typed);
  const auto refuse = [&](const std::string& why) {
    throw InputError("address", "\u201c" + typed + "\u201d", why,
                     "Type host:port, such as 192.168.1.20:5025, or a serial port and its speed, "
                     "such as /dev/ttyUSB0 9600");
  };
  InstrumentAddress a;
  if (text.empty()) refuse("it is empty");
  if (text.front() == '/') {
    a.is_serial = true;
    const auto space = text.find(' ');
    a.host_or_port = text.substr(0, space);
    a.number = kDefaultBaud;
    if (space != std::string::npos) {
      const auto baud = whole_number(std::string_view(text).substr(text.find_last_of(' ') + 1));
      if (!baud || *baud < 50 || *baud > 4'000'000) refuse("the speed is not a number of baud");
      a.number = baud.value_or(kDefaultBaud);
    }
    return a;
  }
  if (text.find(' ') != std::string::npos) refuse("a host has no spaces");
  // An IPv6 address stands in brackets when a port follows.
  const bool is_bracketed = text.front() == '[';
  const auto host_end = is_bracketed ? text.find(']') : text.rfind(':');
  if (is_bracketed && host_end == std::string::npos) refuse("the bracket is not closed");
  a.host_or_port = is_bracketed ? text.substr(1, host_end - 1) : text.substr(0, host_end);
  a.number = kDefaultPort;
  const auto colon = is_bracketed ? text.find(':', host_end) : host_end;
  if (colon != std::string::npos) {
    const auto port = whole_number(std::string_view(text).substr(colon + 1));
    if (!port || *port < 1 || *port > 65535) refuse("the port is not a number from 1 to 65535");
    a.number = port.value_or(kDefaultPort);
  }
  if (a.host_or_port.empty()) refuse("the host is missing");
  return a;
}

std::unique_ptr<Transport> make_transport(const InstrumentAddress& address) {
  if (address.is_serial) return std::make_unique<SerialTransport>(address);
  return std::make_unique<TcpTransport>(address);
}

}  // namespace heron

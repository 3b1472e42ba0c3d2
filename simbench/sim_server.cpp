#include "simbench/sim_server.h"

#include <QHostAddress>
#include <QSemaphore>
#include <QTcpServer>
#include <QTcpSocket>
#include <QTimer>
#include <fmt/format.h>
#include <thread>

#include "core/error.h"

namespace heron::sim {
namespace {

constexpr int kLateMs = 4000;
constexpr std::size_t kMostHeard = 10000;

}  // namespace

/// One instrument's port, its lines, and what goes wrong on them.
class SimServer::Desk {
 public:
  Desk(SimWorld& bench, std::string name, int port) : bench_(bench), name_(std::move(name)) {
    worker_.moveToThread(&thread_);
    thread_.start();
    on_thread([this, port] { listen(port); });
    if (port_ != 0) return;
    end();  // nobody else does it for what was not made
    throw InputError(fmt::format("port {}", port), "", "it is taken",
                     "Choose another first port, or end what uses it");
  }
  ~Desk() { end(); }
  Desk(const Desk&) = delete;
  Desk& operator=(const Desk&) = delete;

  int port() const { return port_; }
  void pull() {
    on_thread([this] { shut(); });
  }
  void plug() {
    on_thread([this] { listen(port_); });
  }
  void set_fault(Fault fault, int after, int times) {
    const std::scoped_lock lock(mutex_);
    fault_ = fault;
    after_ = after;
    times_ = times;
  }
  void set_slow(double seconds) { slow_s_ = seconds; }
  std::vector<std::string> heard() const {
    const std::scoped_lock lock(mutex_);
    return heard_;
  }

 private:
  template <class Work>
  void on_thread(const Work& work) {
    QSemaphore done;
    QMetaObject::invokeMethod(
        &worker_,
        [&] {
          work();
          done.release();
        },
        Qt::QueuedConnection);
    done.acquire();
  }

  void end() {
    on_thread([this] { shut(); });
    thread_.quit();
    thread_.wait();
  }
  void listen(int port) {
    server_ = std::make_unique<QTcpServer>();
    QObject::connect(server_.get(), &QTcpServer::newConnection, &worker_, [this] { greet(); });
    if (server_->listen(QHostAddress::LocalHost, static_cast<quint16>(port)))
      port_ = server_->serverPort();
  }
  void shut() {
    for (QTcpSocket* s : worker_.findChildren<QTcpSocket*>()) {
      s->disconnect();
      s->abort();
      delete s;
    }
    pending_.clear();
    server_.reset();
  }
  void greet() {
    while (QTcpSocket* socket = server_->nextPendingConnection()) {
      socket->setParent(&worker_);
      socket->setSocketOption(QAbstractSocket::LowDelayOption, 1);
      QObject::connect(socket, &QTcpSocket::readyRead, &worker_, [this, socket] { read(socket); });
      QObject::connect(socket, &QTcpSocket::disconnected, &worker_, [this, socket] {
        pending_.erase(socket);
        socket->deleteLater();
      });
      if (socket->bytesAvailable() > 0) read(socket);
    }
  }
  void read(QTcpSocket* socket) {
    constexpr qsizetype kLongest = 65536;
    pending_[socket] += socket->readAll();
    while (pending_.contains(socket)) {
      QByteArray& bytes = pending_[socket];
      const auto end = bytes.indexOf('\n');
      if (end < 0) {
        if (bytes.size() > kLongest) bytes.clear();
        return;
      }
      const std::string line = bytes.left(end).trimmed().toStdString();
      bytes.remove(0, end + 1);
      if (!line.empty()) obey(socket, line);
    }
  }
  Fault due() {
    const std::scoped_lock lock(mutex_);
    if (times_ <= 0) return Fault::none;
    if (after_-- > 0) return Fault::none;
    --times_;
    return fault_;
  }
  void obey(QTcpSocket* socket, const std::string& line) {
    {
      const std::scoped_lock lock(mutex_);
      if (heard_.size() < kMostHeard) heard_.push_back(line);
    }
    if (slow_s_ > 0.0) std::this_thread::sleep_for(std::chrono::duration<double>(slow_s_));
    const auto reply = bench_.speak(name_, line);
    if (!reply) return;
    answer(socket, *reply, due());
  }
  void answer(QTcpSocket* socket, const std::string& reply, Fault fault) {
    const auto send = [socket](const std::string& bytes) {
      socket->write(bytes.data(), static_cast<qint64>(bytes.size()));
    };
    const std::string half = reply.substr(0, reply.size() / 2);
    switch (fault) {
      case Fault::none:
        send(reply);
        send("\n");
        break;
      case Fault::garbage:
        send("\x01\xff?? lost in the mud ??\n");
        break;
      case Fault::truncated_block:
        send(half);
        break;
      case Fault::wrong_length:
        send(half);
        send("\n");
        break;
      case Fault::silent:
        break;
      case Fault::late:
        QTimer::singleShot(kLateMs, socket, [this, socket, reply] {
          if (pending_.contains(socket)) answer(socket, reply, Fault::none);
        });
        break;
      case Fault::closes:
        send(half);
        socket->flush();
        socket->disconnectFromHost();
        break;
      case Fault::over_range:
        send("9.9E37\n");
        break;
    }
  }

  SimWorld& bench_;
  std::string name_;
  QThread thread_;
  QObject worker_;
  std::unique_ptr<QTcpServer> server_;
  std::map<QTcpSocket*, QByteArray> pending_;
  int port_ = 0;
  mutable std::mutex mutex_;
  std::vector<std::string> heard_;
  Fault fault_ = Fault::none;
  int after_ = 0;
  int times_ = 0;
  std::atomic<double> slow_s_ = 0.0;
};

SimServer::SimServer(SimConfig config, int first_port) : bench_(std::move(config)) {
  int port = first_port;
  for (const std::string& name : SimWorld::instruments()) {
    desks_[name] = std::make_unique<Desk>(bench_, name, port);
    if (port != 0) ++port;
  }
}

SimServer::~SimServer() = default;

int SimServer::port(const std::string& instrument) const {
  return desks_.at(instrument)->port();
}

std::string SimServer::address(const std::string& instrument) const {
  return fmt::format("127.0.0.1:{}", port(instrument));
}

void SimServer::set_fault(const std::string& instrument, Fault fault, int after, int times) {
  desks_.at(instrument)->set_fault(fault, after, times);
}

void SimServer::set_slow(const std::string& instrument, double seconds) {
  desks_.at(instrument)->set_slow(seconds);
}

std::vector<std::string> SimServer::heard(const std::string& instrument) const {
  return desks_.at(instrument)->heard();
}

void SimServer::pull(const std::string& instrument) {
  desks_.at(instrument)->pull();
}

void SimServer::plug(const std::string& instrument) {
  desks_.at(instrument)->plug();
}

}  // namespace heron::sim

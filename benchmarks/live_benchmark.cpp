// How fast samples come from an instrument, and what that costs: blocks over the loopback, the
// decoding of them, the simulated sampler, and how many allocations a steady stream makes.
#include <QCoreApplication>
#include <QSemaphore>
#include <QTcpServer>
#include <QTcpSocket>
#include <QThread>
#include <algorithm>
#include <atomic>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <ctime>
#include <fmt/format.h>
#include <new>

#include "core/scpi/reply_reader.h"
#include "core/signal/live_spectrum.h"
#include "instrument/scpi_session.h"
#include "simbench/sim_world.h"

namespace {

std::atomic<std::size_t> large_allocations{0};
std::atomic<bool> is_counting{false};
constexpr std::size_t kLarge = 65536;
thread_local bool is_client = false;

double seconds_since(std::chrono::steady_clock::time_point start) {
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

double median(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return values[values.size() / 2];
}

/// Answers every question with the same block, *IDN? with a name.
class BlockServer {
 public:
  explicit BlockServer(std::size_t bytes) {
    block_ = QByteArray::fromStdString(heron::block_header(bytes));
    block_ += QByteArray(static_cast<qsizetype>(bytes), '\0') + "\n";
    worker_.moveToThread(&thread_);
    thread_.start();
    QMetaObject::invokeMethod(&worker_, [this] {
      server_ = new QTcpServer(&worker_);
      QObject::connect(server_, &QTcpServer::newConnection, &worker_, [this] {
        QTcpSocket* s = server_->nextPendingConnection();
        QObject::connect(s, &QTcpSocket::readyRead, &worker_, [this, s] {
          while (s->canReadLine())
            s->write(s->readLine().startsWith("*IDN") ? "block server\n" : block_);
        });
      });
      server_->listen(QHostAddress::LocalHost);
      ready_.release();
    });
    ready_.acquire();
  }
  ~BlockServer() {
    thread_.quit();
    thread_.wait();
  }
  int port() const { return server_->serverPort(); }

 private:
  QByteArray block_;
  QThread thread_;
  QObject worker_;
  QTcpServer* server_ = nullptr;
  QSemaphore ready_;
};

}  // namespace

// Counts what is large enough to be samples; small strings are no sample path.
void* operator new(std::size_t size) {
  if (size >= kLarge && is_client && is_counting) ++large_allocations;
  if (void* memory = std::malloc(size)) return memory;
  throw std::bad_alloc();
}
void operator delete(void* memory) noexcept {
  std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
  std::free(memory);
}

int main(int argc, char** argv) {
  const QCoreApplication app(argc, argv);
  constexpr std::size_t kBytes = std::size_t{16} << 20U;
  constexpr int kTurns = 15;
  {
    const BlockServer server(kBytes);
    is_client = true;
    heron::ScpiSession session("sampler",
                               heron::parse_address(fmt::format("127.0.0.1:{}", server.port())),
                               heron::generic_profile());
    session.connect();
    std::vector<char> block;
    std::vector<float> samples;
    std::vector<double> times;
    for (int i = 0; i < kTurns; ++i) {
      is_counting = i >= 2;
      const auto start = std::chrono::steady_clock::now();
      session.ask_samples(heron::Role::sampler, "read", block, samples);
      times.push_back(seconds_since(start));
    }
    is_counting = false;
    fmt::print("block of 16 MiB over the loopback, decoded: median {:.3f} s, slowest {:.3f} s\n",
               median(times), *std::max_element(times.begin(), times.end()));
    fmt::print(
        "allocations of {} bytes or more by operator new on the client's thread in {} steady "
        "blocks: {}\n",
        kLarge, kTurns - 2, large_allocations.load());
  }
  {
    heron::sim::SimWorld bench({});
    bench.speak("generator", "SOUR:FUNC:DUAL 650,1850;SOUR:POW -30;OUTP ON");
    bench.speak("sampler", "SENS:RATE 1E6;SENS:COUN 1048576");
    std::vector<double> times;
    for (int i = 0; i < 7; ++i) {
      const auto start = std::chrono::steady_clock::now();
      bench.speak("sampler", "READ:IQ?");
      times.push_back(seconds_since(start));
    }
    fmt::print(
        "simulated sampler, 1 Mi samples of two tones at 1 MS/s: median {:.3f} s ({:.1f} times "
        "real time)\n",
        median(times), 1.048576 / median(times));
  }
  {
    // The live view's thread at 1 MS/s: reading, spectrum, handing over; 25 updates a second.
    constexpr double kRate = 1e6;
    constexpr std::size_t kFrames = 40000;
    const BlockServer server(kFrames * 8);
    heron::ScpiSession session("sampler",
                               heron::parse_address(fmt::format("127.0.0.1:{}", server.port())),
                               heron::generic_profile());
    session.connect();
    std::vector<char> block;
    std::vector<float> samples;
    heron::LiveSpectrum spectrum(4096);
    std::vector<float> average(4096);
    const auto update = [&] {
      session.ask_samples(heron::Role::sampler, "read", block, samples);
      spectrum.add(samples);
      std::copy(spectrum.average().begin(), spectrum.average().end(), average.begin());
    };
    for (int n = 0; n < 5; ++n) update();
    large_allocations = 0;
    is_counting = true;
    const std::clock_t cpu = std::clock();
    const auto start = std::chrono::steady_clock::now();
    constexpr int kUpdates = 250;
    for (int n = 0; n < kUpdates; ++n) update();
    is_counting = false;
    const double wall = seconds_since(start);
    const double cpu_s = static_cast<double>(std::clock() - cpu) / CLOCKS_PER_SEC;
    const double signal_s = kUpdates * static_cast<double>(kFrames) / kRate;
    fmt::print(
        "live view at 1 MS/s without its window: {:.0f} updates a second at most; {:.0f} % of a "
        "core at 25 a second (server's side included); large allocations on this thread: {}\n",
        kUpdates / wall, 100.0 * cpu_s / signal_s, large_allocations.load());
  }
  return 0;
}

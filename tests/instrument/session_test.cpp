#include <QElapsedTimer>
#include <QtTest>
#include <csignal>
#include <cstdlib>
#include <fcntl.h>
#include <poll.h>
#include <sys/wait.h>
#include <unistd.h>

#include "core/progress.h"
#include "instrument/find_instruments.h"
#include "instrument/last_words.h"
#include "instrument/rf_guard.h"
#include "instrument/scpi_session.h"
#include "simbench/sim_server.h"
#include "tests/core/said.h"
#include "tests/simbench/plain_bench.h"
#include "tests/test_program.h"

using namespace heron;

namespace session_test {

using heron::testing::plain_bench;
using sim::Fault;
using sim::SimServer;

namespace {

Profile hasty() {
  Profile p = generic_profile();
  p.timeout_s = 0.4;
  return p;
}

std::unique_ptr<ScpiSession> session(const SimServer& server, const char* name) {
  auto s = std::make_unique<ScpiSession>(name, parse_address(server.address(name)), hasty());
  s->connect();
  return s;
}

/// The fault that an action ends in; nullopt if it does not.
std::optional<InstrumentFault> fault_of(const std::function<void()>& action) {
  try {
    action();
  } catch (const InstrumentError& error) {
    if (error.advice.empty() || error.subject.empty()) return std::nullopt;
    return error.fault;
  }
  return std::nullopt;
}

bool heard(const SimServer& server, const char* instrument, const char* line) {
  const auto lines = server.heard(instrument);
  return std::find(lines.begin(), lines.end(), line) != lines.end();
}

}  // namespace

class SessionTest : public QObject {
  Q_OBJECT
 private slots:
  /// Only who answers, and nothing is asked but who it is.
  void who_is_there_is_found() {
    SimServer server(plain_bench(100.0));
    const std::vector<std::string> places{"127.0.0.1:1", server.address("generator"),
                                          server.address("counter")};
    std::vector<double> told;
    const auto found =
        find_instruments(places, [&told](double share) { told.push_back(share); }, {});
    QCOMPARE(found.size(), std::size_t{2});
    QCOMPARE(found[0].address, server.address("generator"));
    QVERIFY(found[1].identity.find("simulated counter") != std::string::npos);
    QCOMPARE(told.size(), std::size_t{3});
    QVERIFY(!server.bench().is_keyed());
    server.set_fault("counter", Fault::silent, 0, 9);
    QCOMPARE(find_instruments(places, nullptr, {}).size(), std::size_t{1});
    std::stop_source stop;
    stop.request_stop();
    QVERIFY_THROWS_EXCEPTION(Cancelled, find_instruments(places, nullptr, stop.get_token()));
    const auto local = local_addresses();
    QVERIFY(local.size() >= 20 && local.front() == "127.0.0.1:5025");
  }

  void every_role_answers_in_the_generic_profile() {
    const SimServer server(plain_bench());
    auto meter = session(server, "power_meter");
    QVERIFY(meter->identity().find("power_meter") != std::string::npos);
    QVERIFY(meter->ask_number(Role::power_meter, "read") <= -50.0);
    auto supply = session(server, "supply");
    QVERIFY(std::abs(supply->ask_number(Role::supply, "read_voltage") - 13.8) < 0.01);
    auto attenuator = session(server, "step_attenuator");
    attenuator->tell(Role::step_attenuator, "set_attenuation", {{"db", 20.0}});
    attenuator->settle();
    QCOMPARE(attenuator->ask_number(Role::step_attenuator, "read"), 20.0);
    auto analyser = session(server, "spectrum_analyser");
    analyser->tell(Role::spectrum_analyser, "set_points", {{"points", 501.0}});
    QCOMPARE(analyser->ask_numbers(Role::spectrum_analyser, "read").size(), std::size_t{501});
    auto sampler = session(server, "sampler");
    sampler->tell(Role::sampler, "set_frames", {{"frames", 1000.0}});
    std::vector<char> block;
    std::vector<float> samples;
    sampler->ask_samples(Role::sampler, "read", block, samples);
    QCOMPARE(samples.size(), std::size_t{2000});
    QVERIFY(!sampler->ask_yes_or_no(Role::sampler, "is_over_range"));
    auto thermometer = session(server, "thermometer");
    QVERIFY(std::abs(thermometer->ask_number(Role::thermometer, "read") - 22.0) < 2.0);
  }

  void the_instruments_own_complaints_are_told() {
    const SimServer server(plain_bench());
    auto generator = session(server, "generator");
    generator->send("NO:SUCH:THING 3");
    try {
      generator->settle();
      QFAIL("it did not complain");
    } catch (const InstrumentError& error) {
      QVERIFY(error.fault == InstrumentFault::refused);
      QVERIFY(QString(error.what()).contains("-113") &&
              QString(error.what()).contains("generator"));
    }
    generator->settle();  // the queue was read empty
  }

  void each_fault_is_named_and_the_next_question_answered_data() {
    QTest::addColumn<int>("fault");
    QTest::addColumn<int>("means");
    QTest::newRow("garbage") << int(Fault::garbage) << int(InstrumentFault::garbled);
    QTest::newRow("silent") << int(Fault::silent) << int(InstrumentFault::silent);
    QTest::newRow("late") << int(Fault::late) << int(InstrumentFault::silent);
    QTest::newRow("closes") << int(Fault::closes) << int(InstrumentFault::lost);
    QTest::newRow("over range") << int(Fault::over_range) << int(InstrumentFault::over_range);
  }
  void each_fault_is_named_and_the_next_question_answered() {
    QFETCH(int, fault);
    QFETCH(int, means);
    SimServer server(plain_bench());
    auto meter = session(server, "supply");
    server.set_fault("supply", static_cast<Fault>(fault));
    const auto said = fault_of([&] { meter->ask_number(Role::supply, "read_voltage"); });
    QVERIFY(said.has_value());
    QCOMPARE(int(*said), means);
    // The late reply to the first question must not answer the second.
    QVERIFY(meter->ask_number(Role::supply, "read_current") < 1.0);
    QTest::qWait(static_cast<Fault>(fault) == Fault::late ? 4300 : 0);
    QVERIFY(meter->ask_number(Role::supply, "read_current") < 1.0);
    QVERIFY(std::abs(meter->ask_number(Role::supply, "read_voltage") - 13.8) < 0.01);
  }

  void broken_blocks_are_no_samples_data() {
    QTest::addColumn<int>("fault");
    QTest::newRow("truncated") << int(Fault::truncated_block);
    QTest::newRow("wrong length") << int(Fault::wrong_length);
    QTest::newRow("garbage") << int(Fault::garbage);
    QTest::newRow("closes") << int(Fault::closes);
    QTest::newRow("over range") << int(Fault::over_range);
  }
  void broken_blocks_are_no_samples() {
    QFETCH(int, fault);
    SimServer server(plain_bench());
    auto sampler = session(server, "sampler");
    sampler->tell(Role::sampler, "set_frames", {{"frames", 20000.0}});
    sampler->settle();
    std::vector<char> block;
    std::vector<float> samples;
    server.set_fault("sampler", static_cast<Fault>(fault));
    QVERIFY(fault_of([&] { sampler->ask_samples(Role::sampler, "read", block, samples); }));
    sampler->ask_samples(Role::sampler, "read", block, samples);
    QCOMPARE(samples.size(), std::size_t{40000});
  }

  void a_pulled_instrument_is_lost_and_comes_back() {
    SimServer server(plain_bench());
    auto meter = session(server, "power_meter");
    server.pull("power_meter");
    const auto said = fault_of([&] { meter->ask_number(Role::power_meter, "read"); });
    QVERIFY(said == InstrumentFault::lost);
    QVERIFY(fault_of([&] { meter->ask_number(Role::power_meter, "read"); }) ==
            InstrumentFault::lost);
    server.plug("power_meter");
    QVERIFY(meter->ask_number(Role::power_meter, "read") < -50.0);
  }

  void another_instrument_on_the_same_port_is_noticed() {
    auto config = plain_bench();
    // Below the ports that are given out by themselves, so that no other program gets one of them
    // while the first server is gone.
    std::unique_ptr<SimServer> first;
    for (int base = 20000 + getpid() % 8000; first == nullptr; base += 20) {
      try {
        first = std::make_unique<SimServer>(config, base);
      } catch (const InputError&) {
        QVERIFY(base < 32000);
      }
    }
    auto meter = session(*first, "generator");
    const int port = first->port("generator");
    first.reset();
    config.seed = 99;
    // The second server's generator stands where the first one's stood.
    const SimServer second(config, port);
    QVERIFY(fault_of([&] { meter->ask("*OPC?"); }) == InstrumentFault::lost ||
            fault_of([&] { meter->ask("*OPC?"); }) == InstrumentFault::another_one);
    QVERIFY(fault_of([&] { meter->ask("*OPC?"); }) == InstrumentFault::another_one);
  }

  void waiting_can_be_stopped() {
    SimServer server(plain_bench());
    Profile patient = generic_profile();
    patient.timeout_s = 30.0;
    ScpiSession meter("supply", parse_address(server.address("supply")), patient);
    meter.connect();
    server.set_fault("supply", Fault::silent);
    std::stop_source stop;
    meter.set_stop(stop.get_token());
    std::jthread later([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(150));
      stop.request_stop();
    });
    QElapsedTimer timer;
    timer.start();
    QVERIFY_THROWS_EXCEPTION(Cancelled, meter.ask("MEAS:VOLT?"));
    QVERIFY(timer.elapsed() < 2000);
  }

  void nobody_there_is_said_with_the_address() {
    int port = 0;
    {
      const SimServer server(plain_bench());
      port = server.port("counter");
    }
    ScpiSession counter("counter", parse_address("127.0.0.1:" + std::to_string(port)), hasty());
    try {
      counter.connect();
      QFAIL("somebody answered");
    } catch (const InstrumentError& error) {
      QVERIFY(QString(error.what()).contains(QString::number(port)));
    }
  }

  void a_serial_line_speaks_the_same() {
    // A pseudo terminal stands for the cable; the other end answers in pieces, with CR and LF.
    const int cable = ::posix_openpt(O_RDWR | O_NOCTTY);
    QVERIFY(cable >= 0 && ::grantpt(cable) == 0 && ::unlockpt(cable) == 0);
    const std::string port = ::ptsname(cable);
    std::atomic<bool> is_silent{false};
    std::jthread instrument([&](const std::stop_token& stop) {
      std::string line;
      while (!stop.stop_requested()) {
        pollfd waiting{cable, POLLIN, 0};
        if (::poll(&waiting, 1, 20) <= 0) continue;
        char c = 0;
        if (::read(cable, &c, 1) != 1) continue;
        if (c != '\r' && c != '\n') {
          line += c;
          continue;
        }
        if (line.empty()) continue;
        std::string reply;
        if (line == "*IDN?") reply = "meter on a cable\r\n";
        if (line == "READ?") reply = "-12.50\r\n";
        line.clear();
        if (is_silent.exchange(false)) continue;
        for (const char sent : reply) {
          QVERIFY(::write(cable, &sent, 1) == 1);
          std::this_thread::sleep_for(std::chrono::microseconds(300));
        }
      }
    });
    Profile profile = hasty();
    profile.line_ending = "\r\n";
    ScpiSession meter("meter", parse_address(port + " 115200"), profile);
    meter.connect();
    QCOMPARE(meter.identity(), std::string("meter on a cable"));
    QCOMPARE(meter.ask_number(Role::power_meter, "read"), -12.5);
    is_silent = true;
    QVERIFY(fault_of([&] { meter.ask_number(Role::power_meter, "read"); }) ==
            InstrumentFault::silent);
    QCOMPARE(meter.ask_number(Role::power_meter, "read"), -12.5);
    instrument.request_stop();
    instrument.join();
    ::close(cable);
    QVERIFY(fault_of([&] { meter.ask_number(Role::power_meter, "read"); }).has_value());
    ScpiSession nowhere("meter", parse_address("/dev/no-such-port 9600"), profile);
    QVERIFY(fault_of([&] { nowhere.connect(); }) == InstrumentFault::lost);
  }

  void traffic_can_be_watched() {
    const SimServer server(plain_bench());
    auto supply = session(server, "supply");
    std::vector<Traffic> seen;
    supply->watch([&](const Traffic& t) { seen.push_back(t); });
    supply->ask_number(Role::supply, "read_voltage");
    QCOMPARE(seen.size(), std::size_t{2});
    QVERIFY(seen[0].is_sent && seen[0].text == "MEAS:VOLT?");
    QVERIFY(!seen[1].is_sent && seen[1].text == "13.800");
  }

  void the_guard_switches_off_in_every_way() {
    SimServer server(plain_bench());
    auto generator = session(server, "generator");
    const auto key = [&] {
      generator->tell(Role::generator, "set_two_tone", {{"f1_hz", 650.0}, {"f2_hz", 1850.0}});
      generator->tell(Role::generator, "output_on");
      generator->settle();
      QVERIFY(server.bench().is_keyed());
    };
    {
      RfGuard guard({generator.get()}, 10.0);
      key();
    }
    QVERIFY(!server.bench().is_keyed());
    {
      RfGuard guard({generator.get()}, 0.2);
      guard.feed();
      key();
      // Nobody feeds it: a run that hangs.
      QTRY_VERIFY(!server.bench().is_keyed());
      QVERIFY(guard.has_tripped());
      QVERIFY(fault_of([&] { guard.feed(); }).has_value());
      guard.rearm();
      guard.feed();
      key();
      std::jthread panic([&] { guard.drop_now(); });
      panic.join();
      QTRY_VERIFY(!server.bench().is_keyed());
      guard.rearm();
      key();
      server.set_fault("generator", Fault::closes);
      QVERIFY(fault_of([&] { generator->ask("OUTP?"); }).has_value());
      // The line is gone, but not the duty.
      QVERIFY(guard.off().empty());
      QVERIFY(!server.bench().is_keyed());
      key();
      server.pull("generator");
      QCOMPARE(guard.off(), std::vector<std::string>{"generator"});
      server.plug("generator");
      QVERIFY(guard.off().empty());
      QVERIFY(!server.bench().is_keyed());
    }
  }

  void a_dying_program_says_off_data() {
    QTest::addColumn<int>("how");
    QTest::newRow("SIGTERM") << SIGTERM;
    QTest::newRow("SIGSEGV") << SIGSEGV;
    QTest::newRow("an exception nobody catches") << SIGABRT;
  }
  void a_dying_program_says_off() {
    QFETCH(int, how);
#if defined(__has_feature)
#if __has_feature(thread_sanitizer)
    if (how == SIGTERM) QSKIP("the thread sanitizer keeps this signal from a forked child");
#endif
#endif
    // The child inherits an open line: what a handler may do is write to it.
    const SimServer server(plain_bench());
    const auto address = parse_address(server.address("generator"));
    const auto line = make_transport(address);
    line->open(Transport::Clock::now() + std::chrono::seconds(2));
    QVERIFY(line->write("SOUR:FUNC:TONE 1000\nOUTP ON\n",
                        Transport::Clock::now() + std::chrono::seconds(2)));
    QTRY_VERIFY(heard(server, "generator", "OUTP ON"));
    const pid_t child = ::fork();
    if (child == 0) {
      ::signal(SIGSEGV, SIG_DFL);
      ::signal(SIGABRT, SIG_DFL);
      ::signal(SIGTERM, SIG_DFL);
      install_last_words();
      const LastWord word(line->descriptor(), "OUTP OFF\n");
      if (how == SIGABRT)
        std::terminate();
      else
        ::raise(how);
      ::_exit(0);
    }
    int status = 0;
    QCOMPARE(::waitpid(child, &status, 0), child);
    QVERIFY(WIFSIGNALED(status));
    QCOMPARE(WTERMSIG(status), how);
    QTRY_VERIFY(heard(server, "generator", "OUTP OFF"));
  }
};

HERON_LOOP_TEST(SessionTest)

}  // namespace session_test

#include "session_test.moc"

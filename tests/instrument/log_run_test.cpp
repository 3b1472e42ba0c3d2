#include "instrument/log_run.h"

#include <QtTest>
#include <thread>

#include "core/error.h"
#include "core/method/live_quantity.h"
#include "simbench/sim_server.h"
#include "tests/test_program.h"

using namespace heron;

namespace log_run_test {

using sim::Fault;
using sim::SimServer;

/// Logs of instruments: at even times, with gaps where one is silent, and over attenuations.
class LogRunTest : public QObject {
  Q_OBJECT

  /// A simulated oscillator behind counter, thermometer and step attenuator.
  struct Logged {
    explicit Logged(double time_factor = 200.0) : server(config(time_factor)) {}
    static sim::SimConfig config(double time_factor) {
      sim::SimConfig c;
      c.time_factor = time_factor;
      c.oscillator = sim::OscillatorDesign{};
      c.reference_dbm = 3.0;
      return c;
    }
    LogRun::Sessions sessions(std::initializer_list<Role> roles) {
      LogRun::Sessions all;
      for (const Role role : roles) {
        const std::string name(role_kind(role).id);
        Profile profile = generic_profile();
        profile.timeout_s = 3.0;
        all[role] =
            std::make_unique<ScpiSession>(name, parse_address(server.address(name)), profile);
      }
      return all;
    }
    std::string attenuation() { return *server.bench().speak("step_attenuator", "INP:ATT?"); }
    BenchTime time() { return BenchTime(server.bench().config().time_factor); }
    SimServer server;
  };

 private slots:
  void readings_come_at_even_times() {
    Logged bench(50.0);
    LogRun run(bench.sessions({Role::counter, Role::thermometer}),
               {{kCountedFrequency, kTemperature}, 10.0, 150.0}, bench.time());
    std::vector<LogSample> all;
    double progress = 0.0;
    run.run([&](const LogSample& s) { all.push_back(s); }, [&](double p) { progress = p; }, {});
    // On a busy machine some times are missed; none is made up for.
    QVERIFY2(all.size() >= 10 && all.size() <= 16, qPrintable(QString::number(all.size())));
    double last = -1.0;
    for (const LogSample& s : all) {
      QCOMPARE(s.readings.size(), 2U);
      QVERIFY(s.missed.empty());
      QVERIFY2(s.seconds > last && s.seconds < 170.0, qPrintable(QString::number(s.seconds)));
      last = s.seconds;
    }
    // By their number, not one after the other: nothing creeps.
    QVERIFY(last >= 119.9);
    QVERIFY(progress > 0.8);
    QCOMPARE(all.front().readings[1].unit, std::string("\u00b0C"));
  }

  void a_silent_instrument_leaves_a_gap() {
    Logged bench(50.0);
    bench.server.set_fault("counter", Fault::over_range, 3, 4);
    LogRun run(bench.sessions({Role::counter}), {{kCountedFrequency}, 10.0, 150.0}, bench.time());
    int missed = 0;
    int read = 0;
    run.run(
        [&](const LogSample& s) {
          missed += s.missed.empty() ? 0 : 1;
          read += s.readings.empty() ? 0 : 1;
          QCOMPARE(s.missed.empty(), !s.readings.empty());
        },
        {}, {});
    QCOMPARE(missed, 4);
    QVERIFY(read >= 8);
  }

  void a_lost_line_is_opened_again() {
    Logged bench;
    LogRun run(bench.sessions({Role::counter}), {{kCountedFrequency}, 40.0, 1200.0}, bench.time());
    std::vector<bool> is_read;
    run.run(
        [&](const LogSample& s) {
          is_read.push_back(!s.readings.empty());
          if (is_read.size() == 3) bench.server.pull("counter");
          if (is_read.size() == 6) bench.server.plug("counter");
        },
        {}, {});
    QVERIFY(is_read.size() > 12);
    QVERIFY(is_read[0] && is_read[1] && is_read[2] && !is_read[4]);
    QVERIFY(is_read.back());
  }

  void nothing_to_read_is_refused() {
    Logged bench;
    LogRun none(bench.sessions({Role::thermometer}), {{kCountedFrequency}, 1.0, 5.0}, bench.time());
    QVERIFY_THROWS_EXCEPTION(InputError, none.run([](const LogSample&) {}, {}, {}));
    LogPlan stops{{kCountedFrequency}, 1.0, 5.0, {0.0, 1.0}};
    LogRun without(bench.sessions({Role::counter}), stops, bench.time());
    QVERIFY_THROWS_EXCEPTION(InputError, without.run([](const LogSample&) {}, {}, {}));
  }

  void attenuations_are_set_one_after_the_other_and_back() {
    Logged bench;
    LogPlan plan{{kCountedFrequency}, 1.0, 5.0, {0.0, 6.0, 12.0}, 3, 2.0};
    LogRun run(bench.sessions({Role::counter, Role::step_attenuator}), plan, bench.time());
    std::vector<std::pair<std::size_t, std::string>> seen;
    std::vector<double> hz;
    run.run(
        [&](const LogSample& s) {
          seen.emplace_back(s.stop, bench.attenuation());
          hz.push_back(s.readings.front().value);
          QCOMPARE(s.is_last, seen.size() % 3 == 0);
        },
        {}, {});
    QCOMPARE(seen.size(), 9U);
    const char* const set[] = {"0", "6", "12"};
    for (std::size_t i = 0; i < seen.size(); ++i) {
      QCOMPARE(seen[i].first, i / 3);
      QCOMPARE(seen[i].second, std::string(set[i / 3]));
    }
    // Held at +3 and -3 dBm, free at -9 dBm, still warm from the start: 1.7 ppm high.
    QVERIFY(std::abs(hz[0] - 10e6) < 0.6 && std::abs(hz[8] - 10e6) > 5.0);
    QCOMPARE(bench.attenuation(), std::string("0"));
  }

  void a_stop_sets_the_attenuator_back() {
    Logged bench;
    LogPlan plan{{kCountedFrequency}, 1.0, 5.0, {0.0, 6.0, 12.0, 18.0}, 3, 2.0};
    std::atomic<bool> is_cancelled = false;
    std::stop_source stopped;
    std::jthread thread([&] {
      LogRun run(bench.sessions({Role::counter, Role::step_attenuator}), plan, bench.time());
      try {
        run.run(
            [&](const LogSample& s) {
              if (s.stop == 1) stopped.request_stop();
            },
            {}, stopped.get_token());
      } catch (const Cancelled&) {
        is_cancelled = true;
      }
    });
    thread.join();
    QVERIFY(is_cancelled);
    QCOMPARE(bench.attenuation(), std::string("0"));
  }
};

HERON_LOOP_TEST(LogRunTest)

}  // namespace log_run_test

#include "log_run_test.moc"

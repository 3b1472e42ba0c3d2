#include "instrument/live_look.h"

#include <QElapsedTimer>
#include <QtTest>
#include <thread>

#include "simbench/sim_server.h"
#include "tests/core/made_chain.h"
#include "tests/test_program.h"

/// On a busy machine, too.
#define SOON(what) QTRY_VERIFY_WITH_TIMEOUT(what, 20000)

using namespace heron;

namespace live_look_test {

using sim::Fault;
using sim::SimServer;

namespace {

Chain look_chain(double rating_w) {
  Chain chain = heron::testing::pad_and_sampler(50.0);
  chain.parts[0].max_input_w = rating_w;
  chain.parts[0].time_constant_s = 20.0;
  return chain;
}

/// The simulated bench, looked at in a thread of its own.
struct Looking {
  explicit Looking(double rating_w = 50.0, double time_factor = 1.0)
      : server(config(rating_w, time_factor)) {
    plan.chain = look_chain(rating_w);
    plan.drive = Drive{45.0, true, 14.2e6, 5.0};
    plan.rate_hz = 250e3;
    plan.frames = 10000;
    plan.bins = 1024;
  }
  static sim::SimConfig config(double rating_w, double time_factor) {
    sim::SimConfig c;
    c.time_factor = time_factor;
    c.chain = look_chain(rating_w);
    return c;
  }
  void start() {
    thread = std::jthread([this](const std::stop_token& stop) {
      Profile profile = generic_profile();
      profile.timeout_s = 3.0;  // a busy machine computes the samples slowly
      ScpiSession generator("generator", parse_address(server.address("generator")), profile);
      ScpiSession sampler("sampler", parse_address(server.address("sampler")), profile);
      generator.connect();
      sampler.connect();
      LiveLook look(
          plan, sampler, &generator, [this] { ++updates; },
          BenchTime(server.bench().config().time_factor));
      running = &look;
      look.run(stop);
      running = nullptr;
      is_over = true;
    });
    SOON(running.load() != nullptr && updates > 2);
  }
  ~Looking() {
    thread.request_stop();
    if (thread.joinable()) thread.join();
  }
  const LookFrame& now() {
    if (LiveLook* look = running.load()) look->latest(frame);
    return frame;
  }
  SimServer server;
  LookPlan plan;
  LookFrame frame;
  std::atomic<int> updates{0};
  std::atomic<LiveLook*> running{nullptr};
  std::atomic<bool> is_over{false};
  std::jthread thread;
};

}  // namespace

class LiveLookTest : public QObject {
  Q_OBJECT
 private slots:
  void it_looks_without_keying_and_keys_when_told() {
    Looking l;
    l.start();
    QVERIFY(!l.server.bench().is_keyed());
    QVERIFY(l.now().pep_dbm < 0.0);
    l.running.load()->set_level(-30.0);
    l.running.load()->key(true);
    SOON(l.server.bench().is_keyed());
    SOON(l.now().rf == RfState::on && l.frame.pep_dbm > 30.0);
    // Two tones of 650 and 1850 Hz stand over everything else.
    SOON(l.now().segments > 20);
    const auto top =
        std::max_element(l.frame.average.begin(), l.frame.average.end()) - l.frame.average.begin();
    const double hz = (static_cast<double>(top) - 512.0) * 250e3 / 1024.0;
    QVERIFY(hz > 400.0 && hz < 2100.0);
    // The level follows, downwards too.
    const double before = l.frame.pep_dbm;
    l.running.load()->set_level(-36.0);
    SOON(l.now().pep_dbm < before - 5.0);
    l.running.load()->key(false);
    SOON(!l.server.bench().is_keyed());
    SOON(l.now().rf == RfState::confirmed_off && l.frame.what.empty());
  }

  void a_drop_and_a_stop_take_rf_away_at_once() {
    Looking l;
    l.start();
    l.running.load()->key(true);
    SOON(l.server.bench().is_keyed());
    QElapsedTimer timer;
    timer.start();
    l.running.load()->drop_rf();
    QTRY_VERIFY_WITH_TIMEOUT(!l.server.bench().is_keyed(), 2000);
    QVERIFY2(timer.elapsed() < 500, qPrintable(QString::number(timer.elapsed())));
    l.running.load()->key(true);
    SOON(l.server.bench().is_keyed());
    l.thread.request_stop();
    SOON(l.is_over);
    QVERIFY(!l.server.bench().is_keyed());
  }

  void more_than_allowed_is_not_let_through() {
    Looking l;
    l.plan.most_output_dbm = 35.0;
    l.start();
    l.running.load()->set_level(-24.0);
    l.running.load()->key(true);
    SOON(QString::fromStdString(l.now().what).contains("more than the 35.0 dBm"));
    QVERIFY(!l.server.bench().is_keyed());
    QVERIFY(l.frame.rf == RfState::confirmed_off);
    // Never harder than the plan says, whatever is asked for.
    l.running.load()->set_level(10.0);
    l.running.load()->key(true);
    SOON(l.now().generator_dbm == l.plan.most_generator_dbm);
  }

  void the_pads_key_down_ends_it_and_it_rests() {
    Looking l(4.0, 60.0);
    l.start();
    l.running.load()->set_level(-26.0);
    l.running.load()->key(true);
    QTRY_VERIFY_WITH_TIMEOUT(
        QString::fromStdString(l.now().what).contains("has reached its key-down time"), 15000);
    QVERIFY(!l.server.bench().is_keyed());
    l.running.load()->key(true);
    SOON(QString::fromStdString(l.now().what).contains("cool down"));
    QVERIFY(!l.server.bench().is_keyed());
  }

  void faults_take_rf_away_and_say_why_data() {
    QTest::addColumn<QString>("instrument");
    QTest::addColumn<int>("fault");
    for (const char* who : {"sampler", "generator"}) {
      for (const auto& [name, fault] : std::initializer_list<std::pair<const char*, Fault>>{
               {"garbage", Fault::garbage},
               {"silent", Fault::silent},
               {"wrong length", Fault::wrong_length},
               {"closes", Fault::closes}})
        QTest::newRow(qPrintable(QString("%1 %2").arg(who, name))) << who << int(fault);
    }
  }
  void faults_take_rf_away_and_say_why() {
    QFETCH(QString, instrument);
    QFETCH(int, fault);
    Looking l;
    l.start();
    l.running.load()->set_level(-34.0);
    l.running.load()->key(true);
    SOON(l.server.bench().is_keyed());
    l.server.set_fault(instrument.toStdString(), static_cast<Fault>(fault), 0, 1);
    if (instrument == "generator") l.running.load()->set_level(-33.0);
    SOON(!l.server.bench().is_keyed());
    SOON(!l.now().what.empty());
    // It goes on looking, and keys again when told.
    const int before = l.updates;
    SOON(l.updates > before + 3);
    QVERIFY(!l.server.bench().is_keyed());
    l.running.load()->key(true);
    SOON(l.server.bench().is_keyed());
  }
};

HERON_LOOP_TEST(LiveLookTest)

}  // namespace live_look_test

#include "live_look_test.moc"

#include <QtTest>
#include <set>
#include <thread>

#include "core/scpi/reply_reader.h"
#include "core/scpi/reply_value.h"
#include "core/signal/memory_capture.h"
#include "core/signal/welch.h"
#include "tests/simbench/made_bench.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::sim;
using namespace heron::testing;

namespace instruments_test {

namespace {

double ask(SimWorld& bench, const char* instrument, const char* query) {
  return number_reply(*bench.speak(instrument, query), instrument);
}

void play(SimWorld& bench, const std::string& stimulus, double level_dbm) {
  tell(bench, "generator", stimulus + ";SOUR:POW " + std::to_string(level_dbm));
  tell(bench, "generator", "OUTP ON");
}

/// Mean power of what lies between two offsets from the dial, dBFS.
double power_between(SimWorld& bench, double from_hz, double to_hz) {
  WelchSettings welch;
  welch.segment = 4096;
  welch.threads = 1;
  const Spectrum s =
      welch_spectrum(memory_capture(take(bench, kDial, 48000.0, 1U << 17U), 48000.0), welch);
  double sum = 0.0;
  for (std::size_t k = 0; k < s.power.size(); ++k) {
    if (s.frequency_hz(k) >= from_hz && s.frequency_hz(k) < to_hz)
      sum += static_cast<double>(s.power[k]);
  }
  return db_from_power_ratio(std::max(sum, 1e-30));
}

}  // namespace

/// The instruments of the simulated bench, each against what it stands before.
class SimInstrumentsTest : public QObject {
  Q_OBJECT
 private slots:
  /// Each instrument has a thread of its own while somebody else changes what stands there.
  void any_thread_may_speak_to_any_instrument() {
    SimConfig config = bench_config(5);
    config.time_factor = 50.0;
    SimWorld world(config);
    const std::pair<const char*, const char*> talk[] = {
        {"generator", "SOUR:FUNC:DUAL 650,1850;SOUR:POW -30;OUTP ON"},
        {"sampler", "SENS:COUN 2048;READ:IQ?;STAT:OVER?;SENS:RANG?"},
        {"spectrum_analyser", "SENS:SWE:POIN 201;READ:TRAC?;STAT:OVER?"},
        {"power_meter", "READ?"},
        {"counter", "READ?"},
        {"voltmeter", "READ?;NO:SUCH"},
        {"supply", "MEAS:VOLT?;MEAS:CURR?;SYST:ERR?"},
        {"step_attenuator", "INP:ATT 10;INP:ATT?"},
        {"device", "POW 20;KEYED?"}};
    {
      std::vector<std::jthread> threads;
      for (const auto& [name, line] : talk)
        threads.emplace_back([&world, instrument = name, words = line] {
          for (int i = 0; i < 12; ++i) world.speak(instrument, words);
        });
      for (int i = 0; i < 40; ++i) {
        Chain chain = config.chain;
        chain.parts[0].name = i % 2 == 0 ? "power pad" : "another pad";
        chain.parts.back().full_scale_dbm = static_cast<double>(i % 5);
        world.set_chain(chain);
        world.set_amplifier(i % 3 == 0 ? std::optional(AmplifierDesign{}) : std::nullopt);
        QCOMPARE(world.config().chain.parts[0].name, chain.parts[0].name);
        QVERIFY(world.truth().part_error_db.contains(chain.parts[0].name));
        world.set_time_factor(20.0 + i);
      }
    }
    tell(world, "generator", "OUTP OFF");
    QVERIFY(!world.is_keyed());
  }

  void every_instrument_says_who_it_is_and_what_it_did_not_understand() {
    SimWorld bench(bench_config(3));
    std::set<std::string> names;
    for (const std::string& name : SimWorld::instruments()) {
      names.insert(*bench.speak(name, "*IDN?"));
      QCOMPARE(*bench.speak(name, "*OPC?"), std::string("1"));
      QVERIFY(!bench.speak(name, "NO:SUCH:THING 1"));
      QVERIFY(bench.speak(name, "SYST:ERR?")->starts_with("-113"));
      QCOMPARE(*bench.speak(name, "SYST:ERR?"), std::string("0,\"No error\""));
      // A queue that is full forgets no more than the newest.
      for (int i = 0; i < 100; ++i) bench.speak(name, "NO:SUCH");
      bench.speak(name, "*CLS");
      QCOMPARE(*bench.speak(name, "SYST:ERR?"), std::string("0,\"No error\""));
    }
    QCOMPARE(names.size(), SimWorld::instruments().size());
    QVERIFY(!bench.speak("nothing", "*IDN?"));
  }

  void values_out_of_range_are_refused_and_change_nothing_data() {
    QTest::addColumn<QString>("instrument");
    QTest::addColumn<QString>("line");
    QTest::newRow("drive") << "generator" << "SOUR:POW 99";
    QTest::newRow("no number") << "generator" << "SOUR:POW loud";
    QTest::newRow("missing") << "generator" << "SOUR:FUNC:NOTC 300,2700,1250";
    QTest::newRow("no switch") << "generator" << "OUTP MAYBE";
    QTest::newRow("rate") << "sampler" << "SENS:RATE 1e9";
    QTest::newRow("frames") << "sampler" << "SENS:COUN 1e12";
    QTest::newRow("points") << "spectrum_analyser" << "SENS:SWE:POIN 3";
    QTest::newRow("attenuation") << "step_attenuator" << "INP:ATT -3";
    QTest::newRow("infinite") << "supply" << "SOUR:VOLT inf";
    QTest::newRow("power") << "device" << "POW 5000";
  }
  void values_out_of_range_are_refused_and_change_nothing() {
    QFETCH(QString, instrument);
    QFETCH(QString, line);
    SimWorld bench(bench_config(1));
    const double before = 30.0 + db_from_power_ratio(std::max(bench.device().pep_w(), 1e-9));
    QVERIFY(!bench.speak(instrument.toStdString(), line.toStdString()));
    QVERIFY(!bench.speak(instrument.toStdString(), "SYST:ERR?")->starts_with("0,"));
    QVERIFY(!bench.is_keyed());
    QCOMPARE(30.0 + db_from_power_ratio(std::max(bench.device().pep_w(), 1e-9)), before);
  }

  void the_power_meter_reads_the_mean_behind_its_coupler_and_says_over_range() {
    for (std::uint64_t seed = 1; seed <= 20; ++seed) {
      SimWorld bench(bench_config(seed));
      QVERIFY(ask(bench, "power_meter", "READ?") < -50.0);  // its own noise
      play(bench, "SOUR:FUNC:TONE 1000", -30.0);
      const double truth = 30.0 + db_from_power_ratio(bench.device().mean_power_w()) - 40.0;
      const double u = std::hypot(0.1, 0.15);
      QVERIFY(std::abs(ask(bench, "power_meter", "READ?") - truth) < 3.0 * u + 0.02);
    }
    SimConfig close = bench_config(1);
    close.coupler_db = -10.0;
    SimWorld bench(close);
    play(bench, "SOUR:FUNC:TONE 1000", -20.0);
    QCOMPARE(*bench.speak("power_meter", "READ?"), std::string("9.9E37"));
  }

  void the_counter_counts_whole_cycles_with_its_own_timebase() {
    for (std::uint64_t seed = 1; seed <= 20; ++seed) {
      SimWorld bench(bench_config(seed));
      play(bench, "SOUR:FUNC:TONE 1000", -30.0);
      const double truth = bench.device().carrier_hz() + 1000.0;
      for (const double gate : {0.1, 1.0, 10.0}) {
        tell(bench, "counter", "SENS:FREQ:APER " + std::to_string(gate));
        // 0.05 ppm of timebase at most, and one count.
        QVERIFY(std::abs(ask(bench, "counter", "READ?") - truth) <= 0.05e-6 * truth + 1.0 / gate);
      }
    }
  }

  void the_step_attenuator_takes_off_what_it_says_within_its_error() {
    SimWorld bench(bench_config(4));
    play(bench, "SOUR:FUNC:TONE 1000", -30.0);
    const double none = power_between(bench, 900.0, 1100.0);
    for (const double db : {10.0, 20.0, 30.0}) {
      tell(bench, "step_attenuator", "INP:ATT " + std::to_string(db));
      QCOMPARE(ask(bench, "step_attenuator", "INP:ATT?"), db);
      const double error = none - power_between(bench, 900.0, 1100.0) - db;
      QVERIFY2(std::abs(error) < 3.0 * 0.1 * db / 30.0 + 0.03, qPrintable(QString::number(error)));
    }
  }

  void the_audio_filter_and_the_compressor_shape_what_is_sent() {
    SimWorld bench(bench_config(1));
    play(bench, "SOUR:FUNC:SPE 100,5000", -26.0);
    const double wide = power_between(bench, 2400.0, 2900.0);
    tell(bench, "device", "FILT 300,1800");
    QVERIFY(power_between(bench, 2400.0, 2900.0) < wide - 20.0);
    tell(bench, "device", "FILT 300,2700");
    const double plain = bench.device().mean_power_w();
    const double peak = bench.device().pep_w();
    tell(bench, "device", "COMP ON");
    // Denser: more mean power from the same peak, and more beside the channel.
    QVERIFY(bench.device().mean_power_w() > 1.5 * plain);
    QVERIFY(bench.device().pep_w() < 1.3 * peak);
    const double beside = power_between(bench, 4000.0, 6000.0);
    tell(bench, "device", "COMP OFF");
    QVERIFY(power_between(bench, 4000.0, 6000.0) < beside - 3.0);
  }

  void an_amplifier_stands_behind_the_transmitter_and_can_be_taken_away() {
    SimConfig c = bench_config(2);
    c.chain.parts[1].gain = Gain(-40.0);
    SimWorld bench(c);
    play(bench, "SOUR:FUNC:TONE 1000", -44.0);
    const double alone = power_between(bench, 900.0, 1100.0);
    bench.set_amplifier(AmplifierDesign{});
    const double gain = power_between(bench, 900.0, 1100.0) - alone;
    QVERIFY2(std::abs(gain - bench.amplifier()->gain_db(kDial)) < 0.2,
             qPrintable(QString::number(gain)));
    // Its heat is its own, and stays with it while the same one stands there.
    for (int i = 0; i < 20; ++i) take(bench, kDial, 8000.0, 80000);
    const double warm = bench.amplifier()->temperature_c();
    QVERIFY(warm > 22.5);
    QVERIFY(std::abs(ask(bench, "thermometer", "READ?") - warm) < 0.1);
    bench.set_amplifier(AmplifierDesign{});
    QVERIFY(bench.amplifier()->temperature_c() > warm - 0.1);
    bench.set_amplifier(std::nullopt);
    QVERIFY(!bench.amplifier());
    QVERIFY(std::abs(power_between(bench, 900.0, 1100.0) - alone) < 0.2);
    // Far above the tenth harmonic there is nothing, and nothing breaks.
    bench.set_amplifier(AmplifierDesign{});
    double most = 0.0;
    for (const auto& v : take(bench, 40.0 * kDial, 48000.0, 4800))
      most = std::max(most, static_cast<double>(std::norm(v)));
    QVERIFY(db_from_power_ratio(most) < -55.0);
  }

  void harmonics_of_the_amplifier_follow_its_own_law() {
    SimConfig c = bench_config(2);
    c.amplifier.emplace();
    c.chain.parts[1].gain = Gain(-40.0);
    SimWorld bench(c);
    const auto levels = [&](double drive) {
      play(bench, "SOUR:FUNC:TONE 1000", drive);
      return std::pair{Truth(bench, 1).dbm(1000.0), Truth(bench, 2).dbm(2000.0)};
    };
    const auto [low1, low2] = levels(-44.0);
    const auto [high1, high2] = levels(-41.0);
    // The second harmonic grows two for one while the carrier is still linear.
    QVERIFY(std::abs((high2 - low2) - 2.0 * (high1 - low1)) < 0.1);
    QVERIFY(high2 < high1 - 30.0);
  }

  void the_analyser_shows_carrier_and_harmonics_at_their_places() {
    SimWorld bench(bench_config(5));
    play(bench, "SOUR:FUNC:TONE 1000", -26.0);
    tell(bench, "spectrum_analyser",
         "SENS:FREQ:CENT 29.4e6;SENS:FREQ:SPAN 50e6;SENS:BAND 10000;SENS:SWE:POIN 10001");
    const double before = bench.now_s();
    const std::vector<double> levels =
        numbers_reply(*bench.speak("spectrum_analyser", "READ:TRAC?"), "analyser");
    QCOMPARE(levels.size(), std::size_t{10001});
    // A swept filter takes its time.
    QVERIFY(bench.now_s() - before > 1.0);
    const auto most_near = [&](double hz) {
      double most = -400.0;
      for (std::size_t i = 0; i < levels.size(); ++i) {
        if (std::abs(4.4e6 + 5e3 * static_cast<double>(i) - hz) < 50e3)
          most = std::max(most, levels[i]);
      }
      return most;
    };
    const double carrier = Truth(bench).dbm(1000.0) - 60.0;
    QVERIFY(std::abs(most_near(kDial) - carrier) < 2.5);
    for (const int n : {2, 3}) {
      const double truth = Truth(bench, n).dbm(1000.0 * n) - 60.0;
      QVERIFY2(std::abs(most_near(n * kDial) - truth) < 2.5, qPrintable(QString::number(n)));
    }
    QVERIFY(most_near(20e6) < carrier - 60.0);
    // Nothing keyed, nothing seen.
    tell(bench, "generator", "OUTP OFF");
    for (const double v :
         numbers_reply(*bench.speak("spectrum_analyser", "READ:TRAC?"), "analyser"))
      QVERIFY(v < -85.0);
  }

  void the_sampler_says_over_range_and_clips() {
    SimConfig c = bench_config(1);
    c.chain.parts[1].gain = Gain(0.0);
    SimWorld bench(c);
    play(bench, "SOUR:FUNC:TONE 1000", -40.0);
    take(bench, kDial, 48000.0, 4800);
    QCOMPARE(ask(bench, "sampler", "STAT:OVER?"), 0.0);
    play(bench, "SOUR:FUNC:TONE 1000", -20.0);
    for (const auto& v : take(bench, kDial, 48000.0, 4800))
      QVERIFY(std::abs(v.real()) <= 1.0F && std::abs(v.imag()) <= 1.0F);
    QCOMPARE(ask(bench, "sampler", "STAT:OVER?"), 1.0);
    // The hook-up says how it is set.
    Chain stated = c.chain;
    stated.parts[2].full_scale_dbm = 13.0;
    bench.set_chain(stated);
    QCOMPARE(ask(bench, "sampler", "SENS:RANG?"), 13.0);
  }

  void what_is_in_front_of_the_dial_is_heard_where_it_stands() {
    SimWorld bench(bench_config(1));
    play(bench, "SOUR:FUNC:TONE 1000", -30.0);
    bench.set_dial(7.1e6);
    QVERIFY(power_between(bench, -24000.0, 24000.0) < -60.0);
    const auto x = take(bench, 7.1e6, 48000.0, 48000);
    double power = 0.0;
    for (const auto& v : x) power += static_cast<double>(std::norm(v)) / 48000.0;
    QVERIFY(db_from_power_ratio(power) > -30.0);
  }
};

HERON_TEST(SimInstrumentsTest)

}  // namespace instruments_test

#include "instruments_test.moc"

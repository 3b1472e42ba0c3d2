#include <QtTest>
#include <cstring>
#include <numbers>
#include <set>

#include "core/method/bandwidth.h"
#include "core/method/noise_test.h"
#include "core/method/purity.h"
#include "core/method/refer_two_tone.h"
#include "core/method/ssb_suppression.h"
#include "core/method/two_tone.h"
#include "core/quantity/levels.h"
#include "core/scpi/reply_value.h"
#include "core/signal/memory_capture.h"
#include "simbench/sim_bench.h"

using namespace heron;
using namespace heron::sim;

namespace {

using Samples = std::vector<std::complex<float>>;

constexpr double kDial = 14.2e6;

Part part(const char* name, const char* kind, double gain_db, double u_db) {
  Part p;
  p.name = name;
  p.kind = kind;
  p.gain = Gain(gain_db);
  p.u_db = u_db;
  return p;
}

SimConfig config(std::uint64_t seed) {
  SimConfig c;
  c.seed = seed;
  c.time_factor = 1e-6;  // only takes let time pass
  c.chain.parts = {part("power pad", "attenuator", -40.0, 0.15),
                   part("pad", "attenuator", -20.0, 0.1), part("sampler", "instrument", 0.0, 0.5)};
  c.chain.parts[2].full_scale_dbm = 0.0;
  c.chain.parts[2].linearity_u_db = 0.1;
  c.sampler_u_db = 0.5;
  return c;
}

void tell(SimBench& bench, const char* instrument, const std::string& line) {
  if (bench.speak(instrument, line)) qFatal("an answer to %s", line.c_str());
  if (*bench.speak(instrument, "SYST:ERR?") != "0,\"No error\"") qFatal("%s", line.c_str());
}

Samples take(SimBench& bench, double center_hz, double rate_hz, std::size_t frames) {
  tell(bench, "sampler",
       "SENS:FREQ:CENT " + std::to_string(center_hz) + ";SENS:RATE " + std::to_string(rate_hz) +
           ";SENS:COUN " + std::to_string(frames));
  const std::string reply = *bench.speak("sampler", "READ:IQ?");
  Samples x(frames);
  std::memcpy(x.data(), reply.data() + reply.size() - frames * sizeof x[0], frames * sizeof x[0]);
  return x;
}

/// Power of a line in what the device puts out, W, without noise or spurs: a plain sum over whole
/// periods.
class Truth {
 public:
  explicit Truth(SimBench& bench, int zone = 1) {
    TransmitterDesign clean = bench.config().transmitter;
    clean.noise_dbc_hz = -300.0;
    clean.spurs.clear();
    Transmitter device(clean);
    const Transmitter now = bench.device();
    device.settings = now.settings;
    device.audio = now.audio;
    device.surroundings = now.surroundings;
    std::mt19937_64 random(1);
    x_.resize(48000);
    device.output(zone * device.carrier_hz(), 48000.0, 0.0, x_, random);
  }
  double dbm(double hz) const {
    std::complex<double> sum = 0.0;
    for (std::size_t i = 0; i < x_.size(); ++i)
      sum += std::complex<double>(x_[i]) *
             std::polar(1.0, -2.0 * std::numbers::pi *
                                 std::fmod(hz * static_cast<double>(i) / 48000.0, 1.0));
    return 30.0 + db_from_power_ratio(std::norm(sum / static_cast<double>(x_.size())));
  }

 private:
  Samples x_;
};

double higher(const Truth& truth, double lower_hz, double upper_hz) {
  return std::max(truth.dbm(lower_hz), truth.dbm(upper_hz));
}

struct Coverage {
  int inside = 0;
  int all = 0;
  void count(double error, double u) {
    ++all;
    inside += std::abs(error) <= 2.0 * u ? 1 : 0;
  }
  double share() const { return static_cast<double>(inside) / std::max(1, all); }
};

TwoToneAnalysis analysed(SimBench& bench, std::size_t frames = 96000) {
  TwoToneSettings settings;
  settings.threads = 1;
  settings.full_scale_dbm = 0.0;
  settings.linearity_u_db = 0.1;
  settings.carrier_hz = bench.device().carrier_hz() - kDial;
  return analyse_two_tone(memory_capture(take(bench, kDial, 48000.0, frames), 48000.0), settings);
}

}  // namespace

class BenchPhysicsTest : public QObject {
  Q_OBJECT
 private slots:
  void the_level_control_holds_the_peak() {
    SimBench bench(config(1));
    tell(bench, "generator", "SOUR:FUNC:TONE 1000");
    tell(bench, "generator", "OUTP ON");
    double previous = 0.0;
    std::vector<double> rise;
    for (double level = -40.0; level <= -14.0; level += 1.0) {
      tell(bench, "generator", "SOUR:POW " + std::to_string(level));
      const double dbm = 30.0 + db_from_power_ratio(bench.device().pep_w());
      if (level > -40.0) rise.push_back(dbm - previous);
      previous = dbm;
    }
    QVERIFY(std::abs(rise.front() - 1.0) < 0.05);
    QVERIFY(std::abs(rise.back()) < 0.02);
    QVERIFY(std::abs(previous - 44.77) < 0.5);
  }

  void orders_take_turns_over_drive() {
    SimBench bench(config(1));
    tell(bench, "generator", "SOUR:FUNC:DUAL 650,1850");
    tell(bench, "generator", "OUTP ON");
    std::vector<int> strongest;
    for (double level = -38.0; level <= -22.0; level += 0.5) {
      tell(bench, "generator", "SOUR:POW " + std::to_string(level));
      const Truth truth(bench);
      const double third = higher(truth, -550.0, 3050.0);
      const double fifth = higher(truth, -1750.0, 4250.0);
      const double seventh = higher(truth, -2950.0, 5450.0);
      strongest.push_back(third >= std::max(fifth, seventh) ? 3 : fifth >= seventh ? 5 : 7);
      // Far below full power the third order follows its law.
      if (level < -35.0) QCOMPARE(strongest.back(), 3);
    }
    QVERIFY(strongest.front() == 3 && std::set<int>(strongest.begin(), strongest.end()).size() > 1);
  }

  void no_audio_no_power() {
    SimBench bench(config(1));
    QVERIFY(!bench.is_keyed());
    const Samples x = take(bench, kDial, 48000.0, 4800);
    double power = 0.0;
    for (const auto& v : x) power += static_cast<double>(std::norm(v)) / 4800.0;
    QVERIFY(db_from_power_ratio(power) < -65.0);
    QCOMPARE(*bench.speak("counter", "READ?"), std::string("9.91E37"));
    QCOMPARE(*bench.speak("device", "KEYED?"), std::string("0"));
    tell(bench, "generator", "OUTP ON");
    tell(bench, "supply", "OUTP OFF");
    QVERIFY(!bench.is_keyed());
  }

  void it_heats_and_loses_gain() {
    SimBench bench(config(1));
    tell(bench, "generator", "SOUR:FUNC:TONE 1000;SOUR:POW -30");
    tell(bench, "generator", "OUTP ON");
    const double cold = bench.device().pep_w();
    for (int i = 0; i < 30; ++i) take(bench, kDial, 8000.0, 160000);  // ten minutes
    QVERIFY(bench.device().temperature_c() > 25.0);
    QVERIFY(bench.device().pep_w() < cold);
    tell(bench, "generator", "OUTP OFF");
    const double warm = bench.device().temperature_c();
    for (int i = 0; i < 60; ++i) take(bench, kDial, 8000.0, 160000);
    QVERIFY(bench.device().temperature_c() < warm - 1.0);
  }

  void a_limited_supply_bends_the_signal() {
    const auto worst = [](const char* limit) {
      SimBench bench(config(1));
      tell(bench, "supply", std::string("SOUR:CURR ") + limit);
      tell(bench, "generator", "SOUR:FUNC:DUAL 650,1850;SOUR:POW -24");
      tell(bench, "generator", "OUTP ON");
      const Truth truth(bench);
      return std::max(truth.dbm(-550.0), truth.dbm(3050.0)) - truth.dbm(650.0);
    };
    QVERIFY(worst("5") > worst("10") + 3.0);
  }

  void an_amplifier_compresses_and_makes_harmonics() {
    const Amplifier amplifier;
    const double small = 10.0 * std::log10(amplifier.power_out_w(0.01, 14.2e6) / 0.01);
    QVERIFY(std::abs(small - amplifier.gain_db(14.2e6)) < 0.05);
    QVERIFY(amplifier.power_out_w(1e3, 14.2e6) <= amplifier.design().saturated_w);
    QVERIFY(amplifier.gain_db(50e6) < amplifier.gain_db(12e6) - 1.0);
    // 2 W in a block of one tone: the block and the closed form agree.
    Samples x(100, std::complex<float>(std::sqrt(2.0F), 0.0F));
    amplifier.apply(x, 14.2e6, 1);
    QVERIFY(std::abs(static_cast<double>(std::norm(x[7])) - amplifier.power_out_w(2.0, 14.2e6)) <
            1e-3);
  }

  void the_same_seed_gives_the_same_bench() {
    const SimBench a(config(5));
    const SimBench b(config(5));
    const SimBench c(config(6));
    QCOMPARE(a.truth().part_error_db.at("power pad"), b.truth().part_error_db.at("power pad"));
    QVERIFY(a.truth().sampler_error_db != c.truth().sampler_error_db);
  }

  /// What the program reports covers what is true on the bench, with the errors that the
  /// instruments' stated uncertainties allow.
  void two_tone_figures_cover_the_truth() {
    Coverage products;
    Coverage level;
    for (std::uint64_t seed = 1; seed <= 80; ++seed) {
      SimBench bench(config(seed));
      tell(bench, "generator",
           "SOUR:FUNC:DUAL 650,1850;SOUR:POW " +
               std::to_string(-34.0 + 0.12 * static_cast<double>(seed)));
      tell(bench, "generator", "OUTP ON");
      const Truth truth(bench);
      const TwoToneAnalysis a = refer_to_device(analysed(bench), bench.config().chain, kDial);
      const double one_tone = db_from_power_ratio(
          (power_ratio_from_db(truth.dbm(650.0)) + power_ratio_from_db(truth.dbm(1850.0))) / 2.0);
      for (const auto& [order, side, hz] : {std::tuple{3, Side::lower, -550.0},
                                            {3, Side::upper, 3050.0},
                                            {5, Side::upper, 4250.0}}) {
        const TwoToneProduct* p = a.find(order, side);
        QVERIFY(p != nullptr);
        if (p->is_bound) continue;
        products.count(p->level_dbc - (truth.dbm(hz) - one_tone),
                       product_figure(a, *p, kReOneTone).u());
      }
      double u = 0.0;
      for (const Contribution& c : level_contributions(bench.config().chain, kDial))
        u = std::hypot(u, c.u);
      const double pep =
          truth.dbm(650.0) +
          20.0 * std::log10(1.0 + voltage_ratio_from_db(truth.dbm(1850.0) - truth.dbm(650.0)));
      level.count(a.pep_dbfs + *a.full_scale_dbm - pep, u);
    }
    QVERIFY(products.all > 150);
    QVERIFY2(products.share() > 0.92, qPrintable(QString::number(products.share())));
    QVERIFY2(level.share() > 0.88, qPrintable(QString::number(level.share())));
  }

  void purity_covers_the_truth() {
    Coverage lines;
    for (std::uint64_t seed = 1; seed <= 40; ++seed) {
      SimConfig c = config(seed);
      // Each harmonic passes the hook-up with an error of its own: as stated, at each frequency.
      SimBench bench(c);
      tell(bench, "generator", "SOUR:FUNC:TONE 1000;SOUR:POW -26");
      tell(bench, "generator", "OUTP ON");
      const double carrier = bench.device().carrier_hz() + 1000.0;
      std::vector<PuritySource> sources;
      for (const int n : {1, 2, 3}) {
        PurityReadingSettings settings;
        settings.carrier_hz = kDial + 1000.0;
        settings.center_hz = n * kDial + 21e3;
        settings.full_scale_dbm = 0.0;
        settings.threads = 1;
        sources.push_back(read_purity(
            memory_capture(take(bench, settings.center_hz, 250e3, 1U << 17U), 250e3), settings));
      }
      PuritySettings settings;
      settings.carrier_hz = kDial + 1000.0;
      settings.chain = c.chain;
      const PurityAnalysis a = assess_purity(sources, settings);
      QVERIFY(std::abs(a.carrier_hz - carrier) < 3.0);
      const double reference = Truth(bench).dbm(1000.0);
      for (const PurityLine& line : a.lines) {
        if (line.kind != LineKind::harmonic || line.is_bound) continue;
        const double truth = Truth(bench, line.harmonic).dbm(1000.0 * line.harmonic) - reference;
        lines.count(line.level_dbc - truth, line_figure(line).u());
      }
    }
    QVERIFY(lines.all >= 70);
    QVERIFY2(lines.share() > 0.92, qPrintable(QString::number(lines.share())));
  }

  void suppression_covers_the_truth() {
    Coverage lines;
    for (std::uint64_t seed = 1; seed <= 30; ++seed) {
      SimBench bench(config(seed));
      tell(bench, "generator", "SOUR:FUNC:DUAL 650,1850;SOUR:POW -31");
      tell(bench, "generator", "OUTP ON");
      const double center = kDial - 7e3;
      SsbSettings settings;
      settings.carrier_hz = bench.device().carrier_hz() - center;
      settings.threads = 1;
      const Truth truth(bench);
      const SsbSuppression a = measure_ssb_suppression(
          memory_capture(take(bench, center, 48000.0, 192000), 48000.0), settings);
      QVERIFY(a.sideband == Sideband::upper);
      const double one_tone = db_from_power_ratio(
          (power_ratio_from_db(truth.dbm(650.0)) + power_ratio_from_db(truth.dbm(1850.0))) / 2.0);
      for (const SsbSuppression::Unwanted& u : a.unwanted) {
        if (u.is_bound) continue;
        const double offset = u.frequency_hz - settings.carrier_hz;
        // A whole number of Hz from the carrier, as the tones are.
        lines.count(u.level_dbc - (truth.dbm(std::round(offset)) - one_tone),
                    std::hypot(u.u_db, 0.1));
      }
    }
    QVERIFY(lines.all > 60);
    QVERIFY2(lines.share() > 0.92, qPrintable(QString::number(lines.share())));
  }

  void noise_figures_cover_a_long_look() {
    // The truth of noise is what a very long look at a quiet recorder shows.
    const auto look = [](std::uint64_t seed, std::size_t frames, const char* stimulus) {
      SimConfig c = config(seed);
      SimBench bench(c);
      tell(bench, "generator", std::string(stimulus) + ";SOUR:POW -24");
      tell(bench, "generator", "OUTP ON");
      for (std::uint64_t i = 0; i < seed % 13; ++i) take(bench, kDial, 8000.0, 8000);
      return take(bench, kDial, 48000.0, frames);
    };
    const char* notched = "SOUR:FUNC:NOTC 300,2700,1250,1750";
    NoiseTestSettings settings;
    settings.carrier_hz = kDial * -0.83e-6;
    settings.threads = 1;
    const NoiseTestAnalysis truth =
        analyse_notched_noise(memory_capture(look(1, 48000 * 16, notched), 48000.0), settings);
    QVERIFY(truth.ratio_db.has_value() && !truth.is_bound);
    BandwidthSettings width;
    width.threads = 1;
    const BandwidthAnalysis wide =
        analyse_bandwidth(memory_capture(look(1, 48000 * 16, notched), 48000.0), width);
    Coverage ratio;
    Coverage occupied;
    for (std::uint64_t seed = 2; seed <= 31; ++seed) {
      const CaptureOpener open = memory_capture(look(seed, 48000 * 4, notched), 48000.0);
      const NoiseTestAnalysis a = analyse_notched_noise(open, settings);
      QVERIFY(a.ratio_db.has_value());
      ratio.count(*a.ratio_db - *truth.ratio_db, std::hypot(a.u_db, truth.u_db));
      const BandwidthAnalysis b = analyse_bandwidth(open, width);
      QVERIFY(b.occupied.has_value());
      occupied.count(b.occupied->width_hz() - wide.occupied->width_hz(),
                     std::hypot(b.occupied->u_hz, wide.occupied->u_hz));
    }
    QVERIFY2(ratio.share() >= 0.86, qPrintable(QString::number(ratio.share())));
    QVERIFY2(occupied.share() >= 0.86, qPrintable(QString::number(occupied.share())));
  }
};

QTEST_APPLESS_MAIN(BenchPhysicsTest)
#include "bench_physics_test.moc"

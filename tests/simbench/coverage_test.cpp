#include <QtTest>
#include <map>
#include <set>

#include "core/method/bandwidth.h"
#include "core/method/ladder_between.h"
#include "core/method/noise_test.h"
#include "core/method/purity.h"
#include "core/method/refer_two_tone.h"
#include "core/method/reference_level.h"
#include "core/method/ssb_suppression.h"
#include "core/method/two_tone.h"
#include "core/scpi/reply_value.h"
#include "core/signal/memory_capture.h"
#include "tests/simbench/made_bench.h"

using namespace heron;
using namespace heron::testing;

namespace {

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

/// A bench on which noise is played, another one for each seed.
struct NoiseLook {
  const char* stimulus;
  std::size_t seconds = 4;
  CaptureOpener operator()(std::uint64_t seed) const {
    SimBench bench(bench_config(seed));
    tell(bench, "generator", std::string(stimulus) + ";SOUR:POW -24");
    tell(bench, "generator", "OUTP ON");
    return memory_capture(take(bench, kDial, 48000.0, 48000 * seconds), 48000.0);
  }
};

constexpr const char* kNotched = "SOUR:FUNC:NOTC 300,2700,1250,1750";
constexpr const char* kSpeech = "SOUR:FUNC:SPE 300,2700";

}  // namespace

/// Monte Carlo over simulated benches: what the program reports covers what is true on the bench,
/// with the errors that the instruments' stated uncertainties allow.
class CoverageTest : public QObject {
  Q_OBJECT
 private slots:
  void two_tone_figures_cover_the_truth() {
    Coverage products;
    Coverage level;
    for (std::uint64_t seed = 1; seed <= 80; ++seed) {
      SimConfig made = bench_config(seed);
      // Every second one drives an amplifier, with 10 dB more of hook-up behind it.
      const bool has_amplifier = seed % 2 == 0;
      if (has_amplifier) {
        made.amplifier.emplace();
        made.chain.parts[1].gain = Gain(-30.0);
      }
      SimBench bench(made);
      tell(bench, "generator",
           "SOUR:FUNC:DUAL 650,1850;SOUR:POW " +
               std::to_string((has_amplifier ? -40.0 : -34.0) + 0.12 * static_cast<double>(seed)));
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
      SimConfig c = bench_config(seed);
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
      SimBench bench(bench_config(seed));
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

  void full_output_covers_the_truth() {
    Coverage output;
    Coverage drive;
    for (std::uint64_t seed = 1; seed <= 60; ++seed) {
      SimBench bench(bench_config(seed));
      tell(bench, "device", "POW " + std::to_string(5.0 + 0.4 * static_cast<double>(seed)));
      tell(bench, "generator", "SOUR:FUNC:TONE 1000");
      tell(bench, "generator", "OUTP ON");
      const auto true_dbm = [&](double level) {
        tell(bench, "generator", "SOUR:POW " + std::to_string(level));
        return 30.0 + db_from_power_ratio(bench.device().pep_w());
      };
      const double loss = -total_gain_db(bench.config().chain, kDial);
      std::vector<DrivePoint> points;
      std::optional<double> next = -50.0 + 0.05 * static_cast<double>(seed);
      while (next) {
        tell(bench, "generator", "SOUR:POW " + std::to_string(*next));
        float most = 0.0F;
        for (const auto& v : take(bench, kDial, 48000.0, 16384))
          most = std::max(most, std::norm(v));
        points.push_back({*next, db_from_power_ratio(static_cast<double>(most)) + loss, 0.02});
        next = next_drive_dbm(points, 0.0);
      }
      const auto full = find_full_output(points);
      QVERIFY(full.has_value());
      const Result r = to_result(*full, level_contributions(bench.config().chain, kDial));
      // The truth, in steps of 0.01 dB down from there: where it begins to follow.
      double level = points.back().drive_dbm;
      const double most = true_dbm(level);
      while (true_dbm(level) - true_dbm(level - 0.05) < kFullOutputSlope * 0.05) level -= 0.05;
      output.count(r.headline()->value - most, r.headline()->u());
      drive.count(r.figures[1].value - level, r.figures[1].u());
      QCOMPARE(r.figures[2].u(), r.figures[1].u());
    }
    QVERIFY2(output.share() > 0.92, qPrintable(QString::number(output.share())));
    QVERIFY2(drive.share() > 0.92, qPrintable(QString::number(drive.share())));
  }

  /// The truth of noise is what looks as long as this one show on average: max-hold grows with
  /// time.
  void noise_and_speech_cover_the_truth_data() {
    QTest::addColumn<QString>("stimulus");
    QTest::addColumn<bool>("is_max");
    QTest::newRow("notched noise, average") << kNotched << false;
    QTest::newRow("notched noise, max-hold") << kNotched << true;
    QTest::newRow("speech noise, average") << kSpeech << false;
    QTest::newRow("speech noise, max-hold") << kSpeech << true;
  }
  void noise_and_speech_cover_the_truth() {
    QFETCH(QString, stimulus);
    QFETCH(bool, is_max);
    const std::string line = stimulus.toStdString();
    const NoiseLook look{line.c_str()};
    BandwidthSettings width;
    width.threads = 1;
    width.hold = is_max ? Hold::max : Hold::average;
    // As the sheet for noise and speech does it, and with the middle left to be found.
    BandwidthSettings found = width;
    width.channel_hz = 3000.0;
    // No edge of a window that follows the band on the line of the suppressed carrier.
    found.channel_hz = 2800.0;
    width.middle_hz = kDial * -0.83e-6 + 1500.0;
    NoiseTestSettings notch;
    notch.carrier_hz = kDial * -0.83e-6;
    notch.threads = 1;
    std::map<std::string, std::vector<std::pair<double, double>>> seen;
    for (std::uint64_t seed = 2; seed <= 101; ++seed) {
      const CaptureOpener open = look(seed);
      std::vector<Figure> figures = to_result(analyse_bandwidth(open, width)).figures;
      for (Figure& f : to_result(analyse_bandwidth(open, found)).figures) {
        f.id = "found " + f.id;
        figures.push_back(f);
      }
      if (stimulus == kNotched && !is_max) {
        const Result noise = to_result(analyse_notched_noise(open, notch));
        figures.insert(figures.end(), noise.figures.begin(), noise.figures.end());
      }
      for (const Figure& f : figures) {
        if (f.bound == Bound::none) seen[f.id].emplace_back(f.value, f.u());
      }
    }
    QVERIFY(seen.count("occupied_bandwidth") && seen.count("x26") && seen.count("acpr_+3000"));
    std::string failed;
    for (const auto& [id, readings] : seen) {
      double mean = 0.0;
      for (const auto& [value, u] : readings) mean += value / static_cast<double>(readings.size());
      double scatter = 0.0;
      double stated = 0.0;
      Coverage covered;
      for (const auto& [value, u] : readings) {
        covered.count(value - mean, u);
        scatter += std::pow(value - mean, 2) / static_cast<double>(readings.size());
        stated += u * u / static_cast<double>(readings.size());
      }
      const double ratio = std::sqrt(stated / scatter);
      if (covered.share() < 0.86 || ratio > 2.5)
        failed += id + QString(" %1 of %2, stated %3 times the scatter; ")
                           .arg(covered.inside)
                           .arg(covered.all)
                           .arg(ratio)
                           .toStdString();
    }
    QVERIFY2(failed.empty(), failed.c_str());
  }
};

QTEST_APPLESS_MAIN(CoverageTest)
#include "coverage_test.moc"

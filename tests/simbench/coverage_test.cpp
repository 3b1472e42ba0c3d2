#include <QtTest>
#include <map>
#include <set>

#include "core/method/measure/path_level.h"
#include "core/method/measure/ssb_suppression.h"
#include "core/method/purity/purity.h"
#include "core/method/reference_level.h"
#include "core/method/spread/bandwidth.h"
#include "core/method/spread/noise_ratio.h"
#include "core/method/two_tone/ladder_between.h"
#include "core/method/two_tone/refer_two_tone.h"
#include "core/method/two_tone/two_tone.h"
#include "core/method/two_tone/two_tone_ladder.h"
#include "core/quantity/format.h"
#include "core/scpi/reply_value.h"
#include "core/signal/memory_capture.h"
#include "tests/draws.h"
#include "tests/simbench/made_bench.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace coverage_test {

namespace {

/// Whether what is stated is as large as the errors are. 92 to 98 % of normal errors lie within two
/// standard uncertainties where these are 1.14 to 0.86 times as large as the errors on average;
/// of some tens of looks the errors' size tells more than the share.
struct Coverage {
  int inside = 0;
  int all = 0;
  double squares = 0.0;
  void count(double error, double u) {
    ++all;
    inside += std::abs(error) <= 2.0 * u ? 1 : 0;
    squares += error * error / (u * u);
  }
  /// In standard uncertainties.
  double size() const { return std::sqrt(squares / all); }
  /// Neither too small nor too large, as far as so many looks can tell; `independent` of them.
  bool is_right(int independent = 0, double sigmas = 2.0) const {
    const double chance =
        sigmas / std::sqrt(2.0 * (independent > 0 ? independent : all)) * (kFewDraws ? 1.5 : 1.0);
    return all > 0 && size() > 0.86 - chance && size() < 1.14 + chance;
  }
  QString text() const {
    return QString("%1 of %2, errors of %3 u").arg(inside).arg(all).arg(size(), 0, 'f', 2);
  }
};

/// As good as stated, and no better: scales bend, and parts are off by something else on each
/// harmonic.
SimConfig stated_bench(std::uint64_t seed) {
  SimConfig c = bench_config(seed);
  c.bend_u_db = 0.1;
  c.has_part_errors_by_octave = true;
  return c;
}

TwoToneAnalysis analysed(SimWorld& bench, std::size_t frames = 96000) {
  TwoToneSettings settings;
  settings.threads = 1;
  settings.full_scale_dbm = 0.0;
  settings.linearity_u_db = 0.1;
  settings.carrier_hz = bench.device().carrier_hz() - kDial;
  return analyse_two_tone(memory_capture(take(bench, kDial, 48000.0, frames), 48000.0), settings);
}

double figure_u(const std::vector<Contribution>& contributions) {
  return Figure{"", "", 0.0, "", "", contributions, Bound::none}.u();
}

struct TrueStep {
  double pep_dbm;
  double third_dbc;
  double fifth_dbc;
};

TrueStep true_step(const Truth& t) {
  const double a = voltage_ratio_from_db(t.dbm(650.0));
  const double b = voltage_ratio_from_db(t.dbm(1850.0));
  const double one_tone = db_from_power_ratio((a * a + b * b) / 2.0);
  return {2.0 * db_from_power_ratio(a + b), std::max(t.dbm(-550.0), t.dbm(3050.0)) - one_tone,
          std::max(t.dbm(-1750.0), t.dbm(4250.0)) - one_tone};
}

/// 300 kHz round a frequency, as the analyser sees it.
SpectrumTrace swept(SimWorld& bench, double center_hz) {
  constexpr std::size_t kPoints = 1501;
  tell(bench, "spectrum_analyser",
       "SENS:FREQ:CENT " + std::to_string(center_hz) +
           ";SENS:FREQ:SPAN 300000;SENS:BAND 1000;SENS:SWE:POIN " + std::to_string(kPoints));
  SpectrumTrace trace;
  trace.name = "sweep";
  trace.rbw_hz = 1000.0;
  trace.level_dbm = numbers_reply(*bench.speak("spectrum_analyser", "READ:TRAC?"), "analyser");
  for (std::size_t i = 0; i < kPoints; ++i)
    trace.frequency_hz.push_back(center_hz - 150e3 + 200.0 * static_cast<double>(i));
  return trace;
}

/// A bench on which noise is played, another one for each seed.
struct NoiseLook {
  const char* stimulus;
  std::size_t seconds = 4;
  CaptureOpener operator()(std::uint64_t seed) const {
    SimWorld bench(bench_config(seed));
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
    for (std::uint64_t seed = 1; seed <= draws(80); ++seed) {
      SimConfig made = stated_bench(seed);
      // Every second one drives an amplifier, with 10 dB more of hook-up behind it.
      const bool has_amplifier = seed % 2 == 0;
      if (has_amplifier) {
        made.amplifier.emplace();
        made.chain.parts[1].gain = Gain(-30.0);
      }
      SimWorld bench(made);
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
    QVERIFY(products.all > draws(150));
    QVERIFY2(products.is_right(level.all), qPrintable(products.text()));
    QVERIFY2(level.is_right(), qPrintable(level.text()));
  }

  /// What is read between the steps of a ladder: where another order becomes the strongest, the
  /// intercept, the level at an output, the output at a limit.
  void ladders_cover_the_truth() {
    Coverage crossing;
    Coverage intercept;
    Coverage between;
    Coverage at_limit;
    // The truth over drive, finely; it is the same on all benches.
    std::vector<TrueStep> truth;
    {
      SimWorld bench(stated_bench(1));
      tell(bench, "generator", "SOUR:FUNC:DUAL 650,1850");
      tell(bench, "generator", "OUTP ON");
      for (double dbm = -40.0; dbm <= -22.0; dbm += 0.1) {
        tell(bench, "generator", "SOUR:POW " + std::to_string(dbm));
        truth.push_back(true_step(Truth(bench)));
      }
    }
    const double far_below = truth.front().pep_dbm - 6.02 - truth.front().third_dbc / 2.0;
    for (std::uint64_t seed = 1; seed <= draws(50); ++seed) {
      SimWorld bench(stated_bench(seed));
      tell(bench, "generator", "SOUR:FUNC:DUAL 650,1850");
      tell(bench, "generator", "OUTP ON");
      const auto drive = [&](double dbm) {
        tell(bench, "generator", "SOUR:POW " + std::to_string(dbm));
      };
      const std::vector<Contribution> path = level_contributions(bench.config().chain, kDial);
      std::vector<TwoToneAnalysis> analyses;
      for (int i = 0; i < 8; ++i) {
        drive(-39.0 + 2.0 * i + 0.03 * static_cast<double>(seed));
        analyses.push_back(refer_to_device(analysed(bench), bench.config().chain, kDial));
      }
      std::vector<LadderStep> steps;
      for (const TwoToneAnalysis& a : analyses) {
        Figure output{"output", "Output",   a.pep_dbfs + *a.full_scale_dbm, "dBm", "PEP",
                      path,     Bound::none};
        steps.push_back({number_text(output.value, 1), output, &a});
      }
      const TwoToneLadder ladder = evaluate_ladder(steps, std::nullopt);
      if (ladder.oip3) intercept.count(ladder.oip3->value - far_below, ladder.oip3->u());
      for (const DominanceChange& c : ladder.dominance_changes) {
        if (c.from_order != 3 || c.to_order != 5) continue;
        const auto there = std::find_if(truth.begin(), truth.end(), [&](const TrueStep& t) {
          return t.pep_dbm > c.lower_dbm - 1.0 && t.fifth_dbc > t.third_dbc;
        });
        QVERIFY(there != truth.end());
        crossing.count(c.crossing_dbm - there->pep_dbm, std::hypot(c.u_db, figure_u(path)));
      }
      const auto traces = ladder_traces(steps, kReOneTone);
      const double middle = (*ladder.rows[2].output_dbm + *ladder.rows[3].output_dbm) / 2.0;
      const auto at = std::find_if(truth.begin(), truth.end(),
                                   [&](const TrueStep& t) { return t.pep_dbm > middle; });
      QVERIFY(at != truth.end());
      if (const auto worst = worst_at(traces, middle, kReOneTone);
          worst->figure.bound == Bound::none)
        between.count(worst->figure.value - std::max(at->third_dbc, at->fifth_dbc),
                      worst->figure.u());
      constexpr double kLimitDbc = -43.0;
      const auto highest = std::find_if(truth.rbegin(), truth.rend(), [&](const TrueStep& t) {
        return t.pep_dbm <= *ladder.rows.back().output_dbm &&
               std::max(t.third_dbc, t.fifth_dbc) <= kLimitDbc;
      });
      if (const auto found = output_at_limit(traces, kLimitDbc); found && !found->is_at_least)
        at_limit.count(found->output_dbm - highest->pep_dbm,
                       std::hypot(found->u_db, figure_u(path)));
    }
    for (const auto& [name, c] : {std::pair{"crossing", crossing},
                                  {"intercept", intercept},
                                  {"between", between},
                                  {"at limit", at_limit}})
      QVERIFY2(c.all >= (kFewDraws ? 1 : 12) && c.is_right(),
               qPrintable(QString(name) + ": " + c.text()));
  }

  /// Recordings round carrier and harmonics, and traces of the analyser, in turn.
  void purity_covers_the_truth_data() {
    QTest::addColumn<bool>("is_trace");
    QTest::newRow("recordings") << false;
    QTest::newRow("traces") << true;
  }
  void purity_covers_the_truth() {
    QFETCH(bool, is_trace);
    Coverage harmonics;
    Coverage spurs;
    Coverage carrier;
    for (std::uint64_t seed = 1; seed <= draws(40); ++seed) {
      SimConfig c = stated_bench(seed);
      c.analyser_u_db = 0.5;
      SimWorld bench(c);
      tell(bench, "generator", "SOUR:FUNC:TONE 1000;SOUR:POW -26");
      tell(bench, "generator", "OUTP ON");
      const double suppressed = bench.device().carrier_hz();
      std::vector<PuritySource> sources;
      for (const int n : {1, 2, 3}) {
        PurityReadingSettings settings;
        settings.carrier_hz = kDial + 1000.0;
        settings.center_hz = n * kDial + 21e3;
        settings.full_scale_dbm = 0.0;
        settings.threads = 1;
        sources.push_back(
            is_trace ? read_purity(swept(bench, n * kDial), settings)
                     : read_purity(
                           memory_capture(take(bench, settings.center_hz, 250e3, 1U << 17U), 250e3),
                           settings));
      }
      PuritySettings settings;
      settings.carrier_hz = kDial + 1000.0;
      settings.chain = c.chain;
      const PurityAnalysis a = assess_purity(sources, settings);
      QVERIFY(std::abs(a.carrier_hz - suppressed - 1000.0) < (is_trace ? 200.0 : 3.0));
      const double reference = Truth(bench).dbm(1000.0);
      QVERIFY(a.carrier_dbm.has_value());
      carrier.count(*a.carrier_dbm - reference, figure_u(a.carrier_contributions));
      for (const PurityLine& line : a.lines) {
        if (line.is_bound) continue;
        if (line.kind == LineKind::harmonic) {
          const double truth = Truth(bench, line.harmonic).dbm(1000.0 * line.harmonic) - reference;
          harmonics.count(line.level_dbc - truth, line_figure(line).u());
        }
        for (const auto designed = bench.config().transmitter.spurs; const auto& spur : designed) {
          if (line.kind == LineKind::spurious &&
              std::abs(line.frequency_hz - suppressed - spur.offset_hz) < 500.0)
            spurs.count(line.level_dbc - spur.dbc, line_figure(line).u());
        }
      }
    }
    QVERIFY(harmonics.all >= draws(70) && carrier.all == draws(40) && spurs.all >= draws(40));
    for (const auto& [name, covered] : {std::pair{"harmonics", harmonics}, {"carrier", carrier}})
      QVERIFY2(covered.is_right(carrier.all), qPrintable(QString(name) + ": " + covered.text()));
    QVERIFY2(spurs.is_right(carrier.all), qPrintable("spurs: " + spurs.text()));
  }

  void suppression_covers_the_truth() {
    Coverage lines;
    for (std::uint64_t seed = 1; seed <= draws(30); ++seed) {
      SimWorld bench(stated_bench(seed));
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
    QVERIFY(lines.all > draws(60));
    QVERIFY2(lines.is_right(draws(30)), qPrintable(lines.text()));
  }

  void full_output_covers_the_truth() {
    Coverage output;
    Coverage drive;
    for (std::uint64_t seed = 1; seed <= draws(60); ++seed) {
      SimWorld bench(stated_bench(seed));
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
      double level = full->enough_dbm + 2.0;
      const double most = true_dbm(level);
      while (true_dbm(level) - true_dbm(level - 0.05) < kFullOutputSlope * 0.05) level -= 0.05;
      output.count(r.headline()->value - most, r.headline()->u());
      drive.count(r.figures[1].value - level, r.figures[1].u());
      QCOMPARE(r.figures[2].u(), r.figures[1].u());
    }
    QVERIFY2(output.is_right(), qPrintable(output.text()));
    QVERIFY2(drive.is_right(), qPrintable(drive.text()));
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
    NoiseRatioSettings notch;
    notch.carrier_hz = kDial * -0.83e-6;
    notch.threads = 1;
    std::map<std::string, std::vector<std::pair<double, double>>> seen;
    std::set<std::string> by_resolution;
    for (std::uint64_t seed = 2; seed <= 1 + draws(100); ++seed) {
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
        if (f.bound != Bound::none) continue;
        seen[f.id].emplace_back(f.value, f.u());
        // The mean of many looks has the same resolution, and shows nothing of what it hides.
        if (f.unit == "Hz" && f.contributions.back().u > f.contributions.front().u)
          by_resolution.insert(f.id);
      }
    }
    QVERIFY(!by_resolution.count("occupied_bandwidth"));
    QVERIFY(seen.count("occupied_bandwidth") && seen.count("x26") && seen.count("acpr_+3000"));
    std::string failed;
    for (const auto& [id, readings] : seen) {
      double mean = 0.0;
      for (const auto& [value, u] : readings) mean += value / static_cast<double>(readings.size());
      Coverage covered;
      for (const auto& [value, u] : readings) covered.count(value - mean, u);
      // Of a few looks neither the mean nor the scatter is known; of some forty figures one is
      // beyond twice what chance allows.
      if (kFewDraws) continue;
      if (by_resolution.count(id) ? !is_share(covered.inside, covered.all, 0.92)
                                  : !covered.is_right(0, 3.0))
        failed += id + ": " + covered.text().toStdString() + "; ";
    }
    QVERIFY2(failed.empty(), failed.c_str());
  }
};

HERON_TEST(CoverageTest)

}  // namespace coverage_test

#include "coverage_test.moc"

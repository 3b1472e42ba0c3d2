// How often the reported interval holds the truth, and how often a device that misses its limit by
// a little is passed. Prints the table that docs/methods.md shows; takes some minutes. Arguments:
// draws of a situation, and a word that a situation's name has to hold (all of them without one).
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <functional>
#include <numbers>
#include <random>
#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/verdict.h"
#include "core/method/purity/purity_reading.h"
#include "core/method/reference_level.h"
#include "core/method/spread/bandwidth.h"
#include "core/method/two_tone/ladder_between.h"
#include "core/method/two_tone/two_tone.h"
#include "core/quantity/levels.h"
#include "core/signal/fft.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/trace_csv.h"
#include "tests/core/made_analysis.h"
#include "tests/core/made_limiter.h"

using namespace heron;

namespace {

constexpr double kPi = std::numbers::pi;
using Random = std::mt19937_64;
using Samples = std::vector<std::complex<float>>;

double uniform(Random& random, double low, double high) {
  return std::uniform_real_distribution<double>(low, high)(random);
}

/// One line of the table.
struct Row {
  std::string method;
  std::string situation;
  int figures = 0;
  int inside = 0;
  int bounds = 0;
  int hold = 0;
  int failing = 0;  ///< devices that miss their limit
  int passed = 0;   ///< and were passed all the same

  void figure(double value, double u, double truth) {
    ++figures;
    inside += std::abs(value - truth) <= 2.0 * u ? 1 : 0;
  }
  void bound(double value, double truth) {
    ++bounds;
    hold += value >= truth ? 1 : 0;
  }
  /// A limit that the truth breaks.
  void judged(const Figure* figure, double limit) {
    if (figure == nullptr) return;
    ++failing;
    const Limit at{"", Sense::at_most, limit, figure->unit, figure->convention, 20.0};
    passed += judge(*figure, at).verdict == Verdict::pass ? 1 : 0;
  }
  void print() const {
    const auto share = [](int part, int all) {
      return all == 0 ? std::string("\u2013")
                      : fmt::format("{:.0f} % of {}", 100.0 * part / all, all);
    };
    fmt::print("| {} | {} | {} | {} | {} |\n", method, situation, share(inside, figures),
               share(hold, bounds), share(passed, failing));
    std::fflush(stdout);
  }
};

/// Complex Gaussian noise with the given density (re 1 per Hz).
Samples shaped_noise(double rate, std::size_t frames, Random& random,
                     const std::function<double(double)>& density) {
  std::normal_distribution<double> gauss(0.0, std::sqrt(0.5));
  Fft fft(frames, true, PlanEffort::quick);
  const auto in = fft.input();
  const double bin = rate / static_cast<double>(frames);
  for (std::size_t k = 0; k < frames; ++k) {
    const double at = k < frames / 2 ? static_cast<double>(k)
                                     : static_cast<double>(k) - static_cast<double>(frames);
    const double a = std::sqrt(density(-at * bin) * bin);
    in[2 * k] = static_cast<float>(a * gauss(random));
    in[2 * k + 1] = static_cast<float>(a * gauss(random));
  }
  fft.run();
  return {fft.output().begin(), fft.output().end()};
}

// ---- two tones ----

enum class Around { white, step, rounded, image, carriers };

void two_tones(const char* situation, Around around, int runs) {
  Row row{"two-tone", situation};
  Random random(1);
  for (int run = 0; run < runs; ++run) {
    const double f1 =
        around == Around::image ? 600.0 + uniform(random, 0, 20) : 650.0 + uniform(random, -10, 10);
    const double f2 = around == Around::image ? 3.0 * f1 + uniform(random, 0.0, 0.2)
                                              : 1850.0 + uniform(random, -10, 10);
    const double tone_dbfs = around == Around::rounded ? -66.0 : -20.0;
    const double im3 = uniform(random, -60.0, -30.0);
    const double im5 = im3 - (around == Around::image ? 25.0 : 10.0);
    std::vector<Sinusoid> lines;
    const auto add = [&](double hz, double dbc) {
      lines.push_back({hz, std::polar(std::pow(10.0, (tone_dbfs + dbc) / 20.0),
                                      uniform(random, 0, 2.0 * kPi))});
    };
    add(f1, 0.0);
    add(f2, 0.0);
    add(2 * f1 - f2, im3);
    add(2 * f2 - f1, im3);
    add(3 * f1 - 2 * f2, im5);
    add(3 * f2 - 2 * f1, im5);
    const double image = im3 - uniform(random, 12.0, 28.0);
    if (around == Around::image) {
      add(-f1, image);
      add(-f2, image);
    }
    if (around == Around::carriers) {
      for (int k = 0; k < 3; ++k) add(uniform(random, 6000.0, 20000.0), uniform(random, 0.0, 10.0));
    }
    const double noise_dbfs = around == Around::rounded ? -300.0 : uniform(random, -75.0, -45.0);
    Samples x = generate_sinusoids(lines, 48000.0, 192000, noise_dbfs, random());
    if (around == Around::step) {
      // Interference from the upper IM3 upwards.
      const double level = power_ratio_from_db(tone_dbfs + im3 - 5.0) / 100.0;
      const double edge = 2 * f2 - f1 + uniform(random, -30, 30);
      const Samples more = shaped_noise(48000.0, x.size(), random, [&](double f) {
        return f > edge && f < edge + 1500.0 ? level : 0.0;
      });
      for (std::size_t i = 0; i < x.size(); ++i) x[i] += more[i];
    }
    CaptureInfo about;
    about.is_float = true;
    about.bits = 32;
    if (around == Around::rounded) {
      about.is_float = false;
      about.bits = 16;
      const double step = std::ldexp(1.0, -15);
      for (auto& v : x)
        v = {static_cast<float>(std::round(v.real() / step) * step),
             static_cast<float>(std::round(v.imag() / step) * step)};
    }
    TwoToneSettings settings;
    settings.highest_order = 5;
    const TwoToneAnalysis a = analyse_two_tone(memory_capture(x, 48000.0, about), settings);
    const bool is_pair = a.tones.size() == 2 && std::abs(a.tones[0].frequency_hz - f1) < 1.0 &&
                         std::abs(a.tones[1].frequency_hz - f2) < 1.0;
    // No pair said is no wrong figure; a wrong pair is.
    if (a.products.empty()) continue;
    for (const TwoToneProduct& p : a.products) {
      const double truth = p.order == 3 ? im3 : im5;
      if (!is_pair)
        row.figure(0.0, 0.0, 1.0);
      else if (p.is_bound)
        row.bound(p.level_dbc, truth);
      else
        row.figure(p.level_dbc, p.u_db, truth);
    }
    const Result result = to_result(a, kReOneTone);
    if (const Figure* f = result.headline()) {
      const double worst = f->convention == kRePep ? im3 - db_from_power_ratio(4.0) : im3;
      row.judged(f, worst - 0.3);
    }
  }
  row.print();
}

// ---- widths ----

void widths(const char* shape_name, int shape, Hold hold, int runs) {
  Row at_26{"\u221226 dB width", fmt::format("{}, {}", shape_name, hold_name(hold))};
  Random random(2);
  for (int run = 0; run < runs; ++run) {
    const double half = 1500.0 + uniform(random, -20, 20);
    const double sigma = 500.0 + uniform(random, -20, 20);
    const auto density = [&](double f) {
      const double floor = 1e-12;
      if (shape == 0) return std::abs(f) < half ? 1e-6 : floor;
      if (shape == 1) return std::max(floor, 1e-6 * std::exp(-f * f / (2.0 * sigma * sigma)));
      if (f < half - 1200.0 || f > half + 1200.0) return floor;
      return 1e-6 * std::pow(10.0, -1.2 * std::max(0.0, f - (half - 1000.0)) / 1000.0);
    };
    const double truth = shape == 0   ? 2.0 * half
                         : shape == 1 ? 2.0 * sigma * std::sqrt(2.0 * std::log(398.107))
                                      : 200.0 + 2600.0 / 1.2;
    BandwidthSettings settings;
    settings.hold = hold;
    settings.channel_hz = 3000.0;
    settings.middle_hz = shape == 2 ? half : 0.0;
    const BandwidthAnalysis a = analyse_bandwidth(
        memory_capture(shaped_noise(24000.0, 1U << 18U, random, density), 24000.0), settings);
    if (!a.x26) continue;
    at_26.figure(a.x26->width_hz(), a.x26->u_hz, truth);
    const Result result = to_result(a);
    for (const Figure& f : result.figures)
      if (f.id == "x26") at_26.judged(&f, 0.998 * truth);
  }
  at_26.print();
}

// ---- full output ----

void full_output(double order, bool falls_back, int runs) {
  const std::string situation =
      fmt::format("limiter of order {:g}{}", order, falls_back ? ", falling back" : "");
  Row drive{"full output, drive", situation};
  Row level{"full output, level", situation};
  Random random(3);
  for (int run = 0; run < runs; ++run) {
    const double noise = uniform(random, 0.005, 0.045);
    std::normal_distribution<double> gauss(0.0, noise);
    const double back = falls_back ? uniform(random, 0.02, 0.12) : 0.0;
    const double corner = -25.0 + uniform(random, 0, 1);
    const auto output = [&](double x) {
      const double u = std::pow(10.0, order * (x - corner) / 10.0);
      const double beyond = x - corner - 8.0 / order;
      return 45.0 - 10.0 / order * std::log10(1.0 + 1.0 / u) -
             back * std::log1p(std::exp(1.5 * beyond)) / 1.5;
    };
    std::vector<DrivePoint> points;
    std::optional<double> next = uniform(random, -45.0, -42.0);
    while (next && points.size() < 80) {
      points.push_back({*next, output(*next) + gauss(random), noise});
      next = next_drive_dbm(points, 5.0);
    }
    if (points.size() < 3) continue;
    const auto full = find_full_output(points);
    if (!full) continue;
    double truth = -45.0;
    while (output(truth + 1.0) - output(truth) >= 0.1) truth += 0.002;
    drive.figure(full->drive_dbm, full->u_drive_db, truth);
    level.figure(full->output_dbm, full->u_output_db, output(truth) + 0.05);
  }
  drive.print();
  level.print();
}

// ---- lines in traces ----

void harmonics(const char* situation, int sweeps, bool is_present, int runs) {
  Row row{"harmonics in a trace", situation};
  Random random(4);
  std::normal_distribution<double> gauss(0.0, std::sqrt(0.5));
  for (int run = 0; run < runs; ++run) {
    constexpr double kCarrier = 2e6;
    constexpr double kRbw = 30e3;
    SpectrumTrace t;
    t.name = "made";
    t.rbw_hz = kRbw;
    t.detector = TraceDetector::sample;
    std::vector<double> levels(11, -400.0);
    levels[1] = 0.0;
    for (int n = 2; n <= 6; ++n)
      levels[n] = is_present ? uniform(random, -75.0, -40.0) : uniform(random, -110.0, -92.0);
    const double step = 12e6 / 800.0;
    for (int i = 0; i <= 800; ++i) {
      const double hz = 1e6 + step * i;
      double sum = 0.0;
      for (int k = 0; k < sweeps; ++k) {
        const double noise = std::sqrt(1e-9);
        std::complex<double> v(noise * gauss(random), noise * gauss(random));
        for (int n = 1; n <= 6; ++n) {
          const double away = (hz - n * kCarrier) / kRbw;
          v += std::polar(std::pow(10.0, (levels[n] - 12.04 * away * away) / 20.0),
                          6.28 * gauss(random));
        }
        sum += std::norm(v);
      }
      t.frequency_hz.push_back(hz);
      t.level_dbm.push_back(db_from_power_ratio(sum / sweeps));
    }
    PurityReadingSettings how;
    how.carrier_hz = kCarrier;
    const PuritySource s = read_purity(t, how);
    for (const PurityReading& r : s.readings) {
      const int n = static_cast<int>(std::lround(r.frequency_hz / kCarrier));
      if (n < 2 || n > 6 || std::abs(r.frequency_hz - n * kCarrier) > kRbw) continue;
      if (r.is_bound)
        row.bound(r.level_dbm, levels[n]);
      else
        row.figure(r.level_dbm, r.u_db, levels[n]);
      Figure f;
      f.value = r.level_dbm;
      f.unit = "dBm";
      f.bound = r.is_bound ? Bound::upper : Bound::none;
      f.contributions = {{"reading", r.u_db, Scope::independent}};
      row.judged(&f, levels[n] - 0.3);
    }
  }
  row.print();
}

// ---- a ladder between its steps ----

void between_steps(double step_db, int runs) {
  Row row{"output at the limit", fmt::format("steps of {:g} dB", step_db)};
  Random random(5);
  std::normal_distribution<double> noise(0.0, 1.0);
  for (int run = 0; run < runs; ++run) {
    const double order = uniform(random, 1.0, 4.0);
    const double limit = uniform(random, -38.0, -26.0);
    const double u = uniform(random, 0.05, 0.3);
    const auto levels = [order](double a) { return testing::limiter_levels(order, a); };
    const auto found = testing::limiter_amplitude_at(order, limit);
    if (!found) continue;
    const double low = *found;
    const double truth = 45.0 + levels(low)[0];
    const double first = uniform(random, -0.9, -0.1) * step_db - 2.0 * step_db;
    std::vector<TwoToneAnalysis> analyses;
    std::vector<double> outputs;
    for (int k = 0; k < 6; ++k) {
      const auto db = levels(low * std::pow(10.0, (first + k * step_db) / 20.0));
      const double im3 = db[1] - db[0] + u * noise(random);
      const double im5 = db[2] - db[0] + u * noise(random);
      const double im7 = db[3] - db[0] + u * noise(random);
      analyses.push_back(testing::made_analysis({im3, im3 - 1, im5, im5 - 1, im7, im7 - 1}, u));
      outputs.push_back(45.0 + db[0]);
    }
    std::vector<LadderStep> steps;
    for (std::size_t k = 0; k < analyses.size(); ++k) {
      Figure output;
      output.value = outputs[k];
      output.unit = "dBm";
      steps.push_back({"step", output, &analyses[k]});
    }
    const auto at = output_at_limit(ladder_traces(steps, kReOneTone), limit);
    if (!at || at->is_at_least) continue;
    row.figure(at->output_dbm, at->u_db, truth);
    if (!at->sure_dbm) continue;
    ++row.failing;
    row.passed += *at->sure_dbm > truth ? 1 : 0;
  }
  row.print();
}

}  // namespace

int main(int argc, char** argv) {
  const int runs = argc > 1 ? std::atoi(argv[1]) : 200;
  const std::string wanted = argc > 2 ? argv[2] : "";
  const auto is_wanted = [&](const std::string& name) {
    return name.find(wanted) != std::string::npos;
  };
  const auto tones = [&](const char* name, Around around) {
    if (is_wanted(name)) two_tones(name, around, runs);
  };
  fmt::print("| Method | Situation | Inside \u00b1 2u | Bounds hold | Wrong pass |\n");
  fmt::print("|---|---|---|---|---|\n");
  tones("white noise", Around::white);
  tones("a step of interference at IM3", Around::step);
  tones("16 bit, tones at \u221266 dBFS", Around::rounded);
  tones("images on IM3 and IM5", Around::image);
  tones("carriers up to 10 dB stronger", Around::carriers);
  if (is_wanted("width")) {
    for (const Hold hold : {Hold::average, Hold::max}) {
      widths("wall", 0, hold, runs / 2);
      widths("Gaussian", 1, hold, runs / 2);
      widths("speech", 2, hold, runs / 2);
    }
  }
  if (is_wanted("maximum output")) {
    for (const double order : {1.0, 2.0, 5.0}) {
      full_output(order, false, runs);
      full_output(order, true, runs);
    }
  }
  if (is_wanted("harmonics")) {
    harmonics("absent, one sweep", 1, false, runs);
    harmonics("present, one sweep", 1, true, runs);
    harmonics("present, ten sweeps", 10, true, runs);
  }
  if (is_wanted("between steps")) {
    for (const double step : {1.0, 3.0, 6.0}) between_steps(step, runs);
  }
}

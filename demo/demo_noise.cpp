#include "demo/demo_noise.h"

#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <random>

#include "core/csv_table.h"
#include "core/method/measure/loop_noise.h"
#include "core/method/method_table.h"
#include "core/method/phase_noise/loop_text.h"
#include "core/quantity/levels.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/shaped_noise.h"
#include "core/signal/trace_csv.h"
#include "demo/typed_step.h"
#include "store/capture_files.h"
#include "store/loaded.h"
#include "store/result_record.h"

namespace heron::demo {
namespace {

constexpr double kBeaconHz = 5760e6;
constexpr double kMultiplication = 4.0;
constexpr double kMultiplierFloor = -134.0;
constexpr double kNoiseRateHz = 96e3;
constexpr std::size_t kNoiseFrames = std::size_t{1} << 20U;
constexpr double kToneHz = 2345.0;  // where the recorder has the carrier
constexpr double kNoiseAmplitude = 0.45;

LoopDesign bittern_loop() {
  LoopDesign l;
  l.r3_ohm = 1000.0;
  l.c3_f = 100e-12;
  l.reference_hz = 10e6;
  return l;
}

/// After the multiplier, as power in 1/Hz.
double device(double hz, bool is_filtered, double current_a = 1e-3) {
  LoopNoiseDesign n;
  if (!is_filtered) n.series_ohm = 0.0;
  LoopDesign loop = bittern_loop();
  loop.charge_pump_a = current_a;
  return loop_noise(loop, n, hz).total() * kMultiplication * kMultiplication +
         power_ratio_from_db(kMultiplierFloor);
}

double recorder_noise(double hz) {
  return power_ratio_from_db(-129.0) + power_ratio_from_db(-88.0) / hz +
         power_ratio_from_db(-65.0) / (hz * hz);
}

struct MadeLine {
  double hz;
  double dbc;
};

CaptureOpener record_carrier(const std::function<double(double)>& l,
                             const std::vector<MadeLine>& lines, const std::string& name,
                             const std::string& at, std::uint64_t seed) {
  const std::vector<float> phase =
      shaped_noise(kNoiseFrames, kNoiseRateHz, [&](double hz) { return 2.0 * l(hz); }, seed);
  std::vector<std::complex<float>> x(kNoiseFrames);
  std::mt19937_64 random(seed + 1);
  NormalNumbers<double> normal(0.0, 4e-6);
  for (std::size_t i = 0; i < kNoiseFrames; ++i) {
    const double t = static_cast<double>(i) / kNoiseRateHz;
    double turn = phase[i] + 2.0 * std::numbers::pi * kToneHz * t;
    for (const MadeLine& line : lines)
      turn +=
          2.0 * std::pow(10.0, line.dbc / 20.0) * std::sin(2.0 * std::numbers::pi * line.hz * t);
    x[i] =
        std::complex<float>(kNoiseAmplitude * std::polar(1.0, turn)) +
        std::complex<float>(static_cast<float>(normal(random)), static_cast<float>(normal(random)));
  }
  CaptureInfo info;
  info.name = name;
  info.center_hz = kBeaconHz - kToneHz;
  info.recorded_at = at;
  return memory_capture(std::move(x), kNoiseRateHz, info);
}

/// One span of an analyser that averages power.
SpectrumTrace swept(bool is_filtered, double span_hz, double rbw_hz,
                    const std::vector<MadeLine>& lines, const std::string& name,
                    std::uint64_t seed) {
  constexpr int kPoints = 2001;
  constexpr int kAverages = 60;
  constexpr double kNoisePerWidth = 1.0645;
  std::mt19937_64 random(seed);
  std::gamma_distribution<double> mean(kAverages, 1.0 / kAverages);
  SpectrumTrace t;
  t.name = name;
  t.rbw_hz = rbw_hz;
  t.has_rbw_kind = true;
  t.detector = TraceDetector::power_average;
  t.averages = kAverages;
  for (int i = 0; i < kPoints; ++i) {
    const double hz = span_hz * (static_cast<double>(i) / (kPoints - 1) - 0.5);
    double power = device(std::max(std::abs(hz), rbw_hz), is_filtered) * kNoisePerWidth * rbw_hz *
                   mean(random);
    const auto add = [&](double at, double dbc) {
      const double x = (hz - at) / rbw_hz;
      power += power_ratio_from_db(dbc) * std::exp2(-4.0 * x * x);
    };
    add(0.0, 0.0);
    for (const MadeLine& line : lines) {
      add(line.hz, line.dbc);
      add(-line.hz, line.dbc);
    }
    t.frequency_hz.push_back(kBeaconHz + hz);
    t.level_dbm.push_back(-18.0 + db_from_power_ratio(power));
  }
  return t;
}

/// What was taken at a step, with what the method read from it.
void keep_record(Shack& shack, Id step, const StoredCapture& stored, const std::string& at,
                 const Method& method, const nlohmann::json& record) {
  save_result(shack, attach_capture(shack, step, stored, {at, 0, std::nullopt}),
              std::string(method.record), record);
}

}  // namespace

void add_phase_noise(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("phase_noise");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Phase noise";
  t.conditions = "1440 MHz times 4, 1 mA, 12.0 V";
  t.limit = Limit{"own wish", Sense::at_most, 1.0, "\u00b0", "", 1.0};
  t.settings["phase_noise"] = {{"low_hz", 100.0}, {"high_hz", 100e3}, {"fm_limit_hz", 10.0}};
  const Id test = add_test(shack, t);
  const std::vector<MadeLine> mains{{100.0, -54.0}, {200.0, -63.0}, {300.0, -71.0}};
  const TakeContext context{nlohmann::json::object(), {}, std::nullopt, std::nullopt, std::nullopt};
  const auto keep = [&](const std::string& label, const CaptureOpener& open) {
    const Id step = add_step(shack, test, label);
    const StoredCapture stored = store_capture(shack.captures_folder(), open);
    keep_record(shack, step, stored, at, method,
                method.analyse(capture_opener(capture_path(shack, stored.hash)), context, {}, {}));
  };
  const auto keep_trace = [&](const std::string& label, const SpectrumTrace& trace) {
    const Id step = add_step(shack, test, label);
    const StoredCapture stored =
        store_trace(shack.captures_folder(), trace_csv(trace), trace.name, trace.level_dbm.size());
    keep_record(shack, step, stored, at, method, method.analyse_trace(trace, context));
  };
  std::uint64_t seed = 5760;
  for (const bool is_filtered : {false, true}) {
    const std::string state = is_filtered ? "after" : "before";
    keep(state,
         record_carrier([&](double hz) { return device(hz, is_filtered) + recorder_noise(hz); },
                        mains, state + ".wav", at, seed));
    // The ripple of the switching supply, which the filter takes away.
    const std::vector<MadeLine> ripple = is_filtered
                                             ? std::vector<MadeLine>{{48e3, -83.4}}
                                             : std::vector<MadeLine>{{48e3, -52.5}, {96e3, -61.1}};
    keep_trace(state + ", 240 kHz span",
               swept(is_filtered, 240e3, 200.0, ripple, state + " 240 kHz.csv", seed + 2));
    keep_trace(state + ", 2.4 MHz span",
               swept(is_filtered, 2.4e6, 10e3, ripple, state + " 2.4 MHz.csv", seed + 3));
    seed += 10;
  }
  keep("floor, a crystal oscillator", record_carrier(recorder_noise, {}, "floor.wav", at, seed));
  refresh_headline(shack, test);
}

void add_noise_family(Shack& shack, Id evaluation, const std::string& at) {
  constexpr double kScatterDb = 0.12;
  constexpr int kPerDecade = 20;
  const Method& method = *find_method("noise_setting");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Charge-pump current";
  t.conditions = "1440 MHz times 4, after the supply filter";
  t.limit = Limit{"own wish", Sense::at_most, -90.0, "dBc/Hz", "", 20.0};
  t.settings["noise_setting"] = {{"weighting", "neighbour"}, {"in_use", "1 mA"}};
  const Id test = add_test(shack, t);
  struct Step {
    const char* label;
    const char* word;
    double current_a;
    bool is_filtered;
  };
  std::mt19937_64 random(440);
  NormalNumbers<double> normal(0.0, kScatterDb);
  for (const Step& s : {Step{"0.25 mA", "0", 0.25e-3, true}, Step{"0.5 mA", "1", 0.5e-3, true},
                        Step{"1 mA", "3", 1e-3, true}, Step{"2 mA", "7", 2e-3, true},
                        Step{"4 mA", "15", 4e-3, true}, Step{"1 mA, before", "3", 1e-3, false}}) {
    std::string text = "offset_hz,l_dbc_hz,u_db\n";
    for (int k = 2 * kPerDecade; k <= 6 * kPerDecade; ++k) {
      const double hz = std::pow(10.0, static_cast<double>(k) / kPerDecade);
      text += fmt::format(
          "{:.3f},{:.2f},{}\n", hz,
          db_from_power_ratio(device(hz, s.is_filtered, s.current_a)) + normal(random), kScatterDb);
    }
    const Id step = type_step(shack, test, method, s.label, {{"Word", s.word}}, at);
    const CsvTable table = parse_csv(text, std::string(s.label) + ".csv");
    const StoredCapture stored =
        store_trace(shack.captures_folder(), text, table.name, table.rows.size());
    keep_record(shack, step, stored, at, method, method.analyse_table(table, {}));
  }
  refresh_headline(shack, test);
}

void add_loop(Shack& shack, Id evaluation) {
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "loop";
  t.title = "Loop";
  t.conditions = "1440 MHz, passive filter";
  t.limit = Limit{"own wish", Sense::at_least, 45.0, "\u00b0", "", 20.0};
  t.settings["loop"] = {
      {"built", parse_loop_text("charge pump 0.25, 0.5, 1, 2, 4 mA\nVCO gain 30 MHz/V\nN 144\n"
                                "R2 560\nC1 1 nF\nC2 22 nF\nR3 1k\nC3 100 pF\n"
                                "reference 10 MHz\nmultiplied by 4")},
      {"tried", parse_loop_text("charge pump 3 mA\nR2 470")}};
  refresh_headline(shack, add_test(shack, t));
}

void add_reciprocal(Shack& shack, Id evaluation) {
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "reciprocal";
  t.title = "Reciprocal mixing";
  t.conditions = "The beacon beside a strong neighbour, CW";
  t.limit = Limit{"own wish", Sense::at_most, 6.0, "dB", "", 20.0};
  t.settings["reciprocal"] = {{"interferer_dbm", -73.0}, {"mds_dbm", -142.0}, {"offset_hz", 40e3}};
  refresh_headline(shack, add_test(shack, t));
}

}  // namespace heron::demo

#include "core/method/receiver/if_level.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <vector>

#include "core/error.h"
#include "core/method/measure/tone_finder.h"
#include "core/method/result_json.h"
#include "core/quantity/levels.h"
#include "core/signal/level_steps.h"
#include "core/signal/two_pi.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kCellS = 0.1;
constexpr double kLeastLengthS = 1.0;
constexpr std::size_t kFewestCells = 4;  ///< of a level: shorter ones are how it was moved
constexpr double kSteadyDb = 1.0;        ///< standard, from cell to cell: noise alone has 5.6
constexpr double kLeastDropDb = 3.0;
constexpr double kMostDropDb = 40.0;
constexpr std::size_t kCarrierSegment = 16384;

/// Five-term flat top: within 0.01 dB over the half bin that the carrier may stand beside.
double flat_top(double turn) {
  const double a = kTwoPi * turn;
  return 0.21557895 - 0.41663158 * std::cos(a) + 0.277263158 * std::cos(2.0 * a) -
         0.083578947 * std::cos(3.0 * a) + 0.006947368 * std::cos(4.0 * a);
}

double carrier_hz(const CaptureOpener& open, const CaptureInfo& info, const std::stop_token& stop) {
  WelchSettings how;
  how.segment = kCarrierSegment;
  while (how.segment > 256 && static_cast<std::int64_t>(4 * how.segment) > info.frames)
    how.segment /= 2;
  const auto lines = find_lines(welch_spectrum(open, how, {}, stop), 1);
  if (lines.empty())
    throw InputError(info.name, "", "no carrier stands out of the noise",
                     "Record the IF with the generator on, at least 20 dB over the noise");
  return lines.front().frequency_hz;
}

/// The carrier's power in each cell.
std::vector<double> cells_of(const CaptureOpener& open, double tone_hz, const Progress& progress,
                             const std::stop_token& stop) {
  const auto reader = open();
  const CaptureInfo info = reader->info();
  const auto frames = static_cast<std::size_t>(kCellS * info.sample_rate_hz);
  std::vector<std::complex<double>> bin(frames);
  double gain = 0.0;
  for (std::size_t i = 0; i < frames; ++i) {
    const double w = flat_top(static_cast<double>(i) / static_cast<double>(frames));
    gain += w;
    const double turns = tone_hz * static_cast<double>(i) / info.sample_rate_hz;
    bin[i] = std::polar(w, -kTwoPi * std::fmod(turns, 1.0));
  }
  // Of a real one, half of the amplitude stands at the negative frequency.
  const double scale = (info.is_complex ? 1.0 : 2.0) / gain;
  const std::size_t each = reader->floats_per_frame();
  std::vector<float> block(frames * each);
  std::vector<double> cells;
  const double total =
      std::max(1.0, static_cast<double>(info.frames) / static_cast<double>(frames));
  for (std::size_t got = reader->read(block); got > 0; got = reader->read(block)) {
    if (stop.stop_requested()) throw Cancelled();
    if (got < frames) break;
    std::complex<double> sum = 0.0;
    for (std::size_t i = 0; i < frames; ++i)
      sum += bin[i] * (each == 2 ? std::complex<double>(block[2 * i], block[2 * i + 1])
                                 : std::complex<double>(block[i], 0.0));
    cells.push_back(std::norm(scale * sum));
    if (progress) progress(static_cast<double>(cells.size()) / total);
  }
  return cells;
}

/// A level that was held; what is there without the carrier is none.
bool is_steady(const LevelStretch& s) {
  return s.count >= kFewestCells && s.scatter_db < kSteadyDb;
}

}  // namespace

IfLevel if_level(const CaptureOpener& open, const Progress& progress, const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  IfLevel level;
  level.name = info.name;
  level.length_s = info.duration_s();
  if (level.length_s < kLeastLengthS)
    throw InputError(info.name, "", "it is shorter than a second",
                     "Record a few seconds of each level");
  level.tone_hz = carrier_hz(open, info, stop);
  const std::vector<double> cells = cells_of(open, level.tone_hz, progress, stop);
  const RecorderLoad load = recorder_load(open, stop);
  level.peak_dbfs = load.peak_dbfs;
  level.clipped = load.clipped_samples;
  const std::vector<LevelStretch> stretches = level_stretches(cells);
  const LevelStretch* high = nullptr;
  for (const LevelStretch& s : stretches)
    if (is_steady(s) && (high == nullptr || s.power > high->power)) high = &s;
  if (high == nullptr)
    throw InputError(info.name, "", "its level never stands still",
                     "Hold each level for a second, with the AGC off");
  level.dbfs = db_from_power_ratio(std::max(1e-20, high->power));
  level.u_db = high->scatter_db / std::sqrt(static_cast<double>(high->count));
  const LevelStretch* low = nullptr;
  for (const LevelStretch& s : stretches) {
    const double drop = level.dbfs - db_from_power_ratio(std::max(1e-20, s.power));
    if (is_steady(s) && drop >= kLeastDropDb && drop <= kMostDropDb &&
        (low == nullptr || s.count > low->count))
      low = &s;
  }
  if (low != nullptr) level.lower_dbfs = db_from_power_ratio(low->power);
  return level;
}

json to_json(const IfLevel& level) {
  json out = {{"format", kIfLevelFormat}, {"version", 1},
              {"name", level.name},       {"length_s", level.length_s},
              {"tone_hz", level.tone_hz}, {"dbfs", level.dbfs},
              {"u_db", level.u_db},       {"peak_dbfs", level.peak_dbfs},
              {"clipped", level.clipped}};
  if (level.lower_dbfs) out["lower_dbfs"] = *level.lower_dbfs;
  return out;
}

AnalysisPtr read_if_level(const json& from) {
  auto level = std::make_shared<IfLevel>();
  try {
    if (from.at("format") != kIfLevelFormat) refuse_damaged("it is another record");
    level->name = from.at("name");
    level->length_s = from.at("length_s");
    level->tone_hz = from.at("tone_hz");
    level->dbfs = from.at("dbfs");
    level->u_db = from.at("u_db");
    level->peak_dbfs = from.at("peak_dbfs");
    level->clipped = whole_from(from, "clipped", 0, 1e15);
    level->lower_dbfs = number_from(from, "lower_dbfs");
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (!std::isfinite(level->dbfs) || !(level->u_db >= 0.0))
    refuse_damaged("it holds no level of a carrier");
  return level;
}

}  // namespace heron

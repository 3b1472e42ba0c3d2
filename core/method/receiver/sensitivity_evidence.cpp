#include "core/method/receiver/sensitivity_evidence.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/method/receiver/audio_typed.h"
#include "core/method/receiver/sensitivity_settings.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr double kHalfVoltDb = 6.0206;

/// Each reading as it was typed or heard, dB re 1 V or as the meter shows it.
std::vector<double> single_readings(const EvidenceStep& step, const char* quantity) {
  const Reading* r = find_reading(step.readings, quantity);
  if (r == nullptr || r->bound != Bound::none) return {};
  std::vector<double> db;
  try {
    const TypedAudio audio = parse_audio(r->typed, false);
    for (const double v : audio.readings)
      db.push_back(audio.in_db ? v : db_from_voltage_ratio(std::max(v, 1e-9)));
  } catch (const InputError&) {
    db = {r->value};  // only its mean was kept
  }
  return db;
}

}  // namespace

std::optional<PlotPanel> readings_panel(const EvidenceStep& step, const SensitivityReading& in,
                                        const SensitivityRow& row) {
  if (!in.off) return std::nullopt;
  struct State {
    const char* quantity;
    const char* name;
    int trace;
    std::optional<double> mean_db;
  };
  const double noise = in.off->db;
  const auto over = [&](const std::optional<AudioLevel>& level) {
    return level ? std::optional(level->db - noise) : std::nullopt;
  };
  const State states[] = {{kAudioOff, "noise only", 6, 0.0},
                          {kAudioOn, "tone and noise", 1, over(in.on)},
                          {kAudioHalf, "half the input", 3, over(in.half)}};
  PlotPanel panel{{"audio over its noise, dB", ""}, {}};
  double last = 0.0;
  double low = 0.0;
  double high = 1.0;
  for (const State& s : states) {
    const auto readings = single_readings(step, s.quantity);
    if (readings.empty() || !s.mean_db) continue;
    PlotLayer dots{PlotLayer::Kind::trace, s.name, s.trace, false, {}};
    PlotLayer mean{PlotLayer::Kind::guide, "", s.trace, true, {}};
    mean.ends_at_points = true;
    const double from = last + 0.6;
    for (const double db : readings) {
      last += 1.0;
      dots.points.push_back({last, db - noise});
      low = std::min(low, db - noise);
      high = std::max(high, db - noise);
    }
    mean.points = {{from, *s.mean_db}, {last + 0.4, *s.mean_db}};
    panel.layers.push_back(std::move(mean));
    // What half the voltage shows where nothing regulates.
    if (s.quantity == std::string(kAudioHalf) && row.sn_db && row.half_costs_db) {
      const double expected = sn_n_of_sn(*row.sn_db - kHalfVoltDb);
      PlotLayer linear{PlotLayer::Kind::limit, "if linear", 1, true, {}};
      linear.ends_at_points = true;
      linear.points = {{from, expected}, {last + 0.4, expected}};
      panel.layers.push_back(std::move(linear));
      low = std::min(low, expected);
    }
    panel.layers.push_back(std::move(dots));
    last += 1.0;
  }
  if (last == 0.0) return std::nullopt;
  panel.own_x = PlotAxis{"reading", "", false, std::pair(0.0, last)};
  panel.y.range = std::pair(std::floor(low - 1.0), std::ceil(high + 2.0));
  return panel;
}

PlotPanel audio_panel(const ReceiverAudio& noise, const ReceiverAudio& signal) {
  PlotPanel panel{{"audio, dB over the middle of the noise", ""}, {}};
  std::vector<float> levels(noise.power_db);
  const double middle = static_cast<double>(median_of(levels));
  double high = 0.0;
  const auto curve = [&](const ReceiverAudio& of, const char* name, int trace) {
    PlotLayer layer{PlotLayer::Kind::trace, name, trace, true, {}};
    layer.has_marks = false;
    for (std::size_t k = 0; k < of.power_db.size(); ++k) {
      const double db = static_cast<double>(of.power_db[k]) - middle;
      layer.points.push_back({of.bin_hz * static_cast<double>(k), db});
      high = std::max(high, db);
    }
    return layer;
  };
  panel.layers.push_back(curve(noise, "noise only", 6));
  panel.layers.push_back(curve(signal, "tone and noise", 1));
  const double last =
      noise.bin_hz * static_cast<double>(std::min<std::size_t>(
                         noise.power_db.size(), static_cast<std::size_t>(4000.0 / noise.bin_hz)));
  panel.own_x = PlotAxis{"Audio", "Hz", false, std::pair(0.0, last)};
  panel.y.range = std::pair(-40.0, std::ceil(high / 10.0) * 10.0 + 5.0);
  return panel;
}

}  // namespace heron

#include "core/method/spread/spread_analysis.h"

#include <algorithm>
#include <cmath>

#include "core/method/result_json.h"
#include "core/method/spread/bandwidth_json.h"

namespace heron {

using nlohmann::json;

SpreadAnalysis analyse_spread(const CaptureOpener& open, const SpreadSettings& s,
                              const std::optional<TimeSpan>& chosen, const Progress& progress,
                              const std::stop_token& stop) {
  BandwidthSettings how;
  how.channel_hz = s.channel_hz;
  how.adjacent_hz = s.channel_hz;
  // The same windows for all settings: round the band as it was played.
  const double middle = (s.band_hz.first + s.band_hz.second) / 2.0;
  how.middle_hz = s.carrier_hz + (s.sideband == Sideband::upper ? middle : -middle);
  const auto quarter = [&](int i) { return progress_between(progress, 0.25 * i, 0.25 * (i + 1)); };
  MeasuredPart part = measured_part(open, chosen, 0, quarter(0), stop);
  SpreadAnalysis a;
  a.average = analyse_bandwidth(part, how, quarter(1), stop);
  how.hold = Hold::max;
  a.max_hold = analyse_bandwidth(part, how, quarter(2), stop);
  if (s.stimulus == SpreadStimulus::notched_noise) {
    NoiseRatioSettings noise;
    noise.carrier_hz = s.carrier_hz;
    noise.sideband = s.sideband;
    noise.band_hz = s.band_hz;
    noise.notch_hz = s.notch_hz;
    part.remarks.clear();  // said once, with the widths
    a.noise = analyse_notched_noise(part, noise, quarter(3), stop);
  }
  return a;
}

json to_json(const SpreadAnalysis& a) {
  return {{"format", "even-heron-spread"},
          {"version", 1},
          {"average", to_json(a.average)},
          {"max_hold", to_json(a.max_hold)},
          {"noise", a.noise ? to_json(*a.noise) : json(nullptr)}};
}

SpreadAnalysis spread_from_json(const json& r) {
  try {
    SpreadAnalysis a;
    a.average = bandwidth_from_json(r.at("average"));
    a.max_hold = bandwidth_from_json(r.at("max_hold"));
    if (!r.at("noise").is_null()) a.noise = noise_ratio_from_json(r.at("noise"));
    return a;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

const AdjacentPower* nearest_adjacent(const BandwidthAnalysis& a, bool is_upper) {
  const AdjacentPower* nearest = nullptr;
  for (const AdjacentPower& p : a.adjacent) {
    if ((p.offset_hz > 0.0) != is_upper) continue;
    if (nearest == nullptr || std::abs(p.offset_hz) < std::abs(nearest->offset_hz)) nearest = &p;
  }
  return nearest;
}

const AdjacentPower* worst_adjacent(const BandwidthAnalysis& a) {
  const AdjacentPower* worst = nullptr;
  double nearest = 1e300;
  for (const AdjacentPower& p : a.adjacent) nearest = std::min(nearest, std::abs(p.offset_hz));
  for (const AdjacentPower& p : a.adjacent) {
    if (std::abs(p.offset_hz) > nearest * 1.01) continue;
    if (worst == nullptr || p.ratio_db > worst->ratio_db) worst = &p;
  }
  return worst;
}

}  // namespace heron

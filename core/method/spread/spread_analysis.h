#pragma once

#include <nlohmann/json.hpp>
#include <optional>

#include "core/method/analysis.h"
#include "core/method/spread/bandwidth.h"
#include "core/method/spread/noise_ratio.h"
#include "core/method/spread/spread_settings.h"

namespace heron {

/// One recording of noise or speech as an average and as max-hold, and the notch where there is
/// one.
class SpreadAnalysis : public Analysis {
 public:
  BandwidthAnalysis average;
  BandwidthAnalysis max_hold;
  std::optional<NoiseRatioAnalysis> noise;

  const BandwidthAnalysis& of(Hold hold) const {
    return hold == Hold::average ? average : max_hold;
  }
  const KeyedParts* parts() const override { return average.parts ? &*average.parts : nullptr; }
};

/// InputError as of both analyses in it.
SpreadAnalysis analyse_spread(const CaptureOpener& open, const SpreadSettings& settings,
                              const std::optional<TimeSpan>& chosen = std::nullopt,
                              const Progress& progress = {}, const std::stop_token& stop = {});
nlohmann::json to_json(const SpreadAnalysis& analysis);
/// InputError if damaged.
SpreadAnalysis spread_from_json(const nlohmann::json& record);

/// The stronger adjacent channel; nullptr if none was measured.
const AdjacentPower* worst_adjacent(const BandwidthAnalysis& analysis);
/// The nearest one on a side; nullptr if none was measured.
const AdjacentPower* nearest_adjacent(const BandwidthAnalysis& analysis, bool is_upper);

}  // namespace heron

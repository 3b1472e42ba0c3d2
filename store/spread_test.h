#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/bandwidth.h"
#include "core/method/noise_test.h"
#include "store/planned_test.h"

namespace heron {

/// What a transmitter is driven with in a test of how far it spreads.
enum class SpreadStimulus { notched_noise, speech_noise, own_recording };

/// Kept among the test's settings; the same for all of its steps.
struct SpreadSettings {
  SpreadStimulus stimulus = SpreadStimulus::notched_noise;
  std::string own_name;     ///< of the user's recording
  std::string own_hash;     ///< of it in the captures folder
  double carrier_hz = 0.0;  ///< suppressed carrier in the recordings
  Sideband sideband = Sideband::upper;
  std::pair<double, double> band_hz{300.0, 2700.0};
  std::pair<double, double> notch_hz{1250.0, 1750.0};
  double channel_hz = 3000.0;  ///< the channel, and each window beside it
};
SpreadSettings spread_settings_from_json(const nlohmann::json& settings);
nlohmann::json with_spread_settings(nlohmann::json settings, const SpreadSettings& spread);
std::string spread_stimulus_words(const SpreadSettings& settings);

/// One step: the same recording as an average and as a max-hold, and the notch where there is one.
struct SpreadAnalysis {
  BandwidthAnalysis average;
  BandwidthAnalysis max_hold;
  std::optional<NoiseTestAnalysis> noise;

  const BandwidthAnalysis& of(Hold hold) const {
    return hold == Hold::average ? average : max_hold;
  }
};
SpreadAnalysis analyse_spread(const CaptureOpener& open, const SpreadSettings& settings,
                              const std::optional<TimeSpan>& chosen = std::nullopt,
                              const Progress& progress = {}, const std::stop_token& stop = {});
nlohmann::json to_json(const SpreadAnalysis& analysis);
SpreadAnalysis spread_from_json(const nlohmann::json& record);

/// The figure that a test of this characteristic is about: "noise" = the noise power ratio, or the
/// power beside the channel where no notch was played; "bandwidth" = the occupied bandwidth.
std::optional<Figure> spread_figure(const std::string& characteristic, const SpreadAnalysis& a,
                                    Hold hold = Hold::average);
/// The stronger side next to the channel; nullptr if it was not measured.
const AdjacentPower* worst_adjacent(const BandwidthAnalysis& analysis);

/// Steps over drive or over settings, each with noise or speech.
struct SpreadTest : PlannedTest {
  SpreadSettings settings;
  std::vector<std::optional<SpreadAnalysis>> analyses;  ///< one a step
  std::vector<std::optional<Judgement>> judgements;     ///< one a step
  std::vector<std::optional<Figure>> two_tone;  ///< the worst product at a step of the same name
  /// The step with the least margin; without a limit the last taken.
  std::optional<std::size_t> headline_step() const;
};
SpreadTest load_spread_test(const Shack& shack, Id test);
std::optional<Headline> headline_of(const SpreadTest& test);

}  // namespace heron

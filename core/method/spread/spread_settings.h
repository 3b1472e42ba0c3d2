#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <utility>

#include "core/method/spread/noise_ratio.h"

namespace heron {

/// What a transmitter is driven with in a test of how far it spreads.
enum class SpreadStimulus { notched_noise, speech_noise, own_recording };

/// The same for all steps of a test; frequencies of band and notch in Hz of audio.
struct SpreadSettings {
  SpreadStimulus stimulus = SpreadStimulus::notched_noise;
  std::string own_name;     ///< of the user's recording
  std::string own_hash;     ///< of it in the captures folder
  double carrier_hz = 0.0;  ///< suppressed carrier in the recordings
  Sideband sideband = Sideband::upper;
  std::pair<double, double> band_hz{300.0, 2700.0};
  std::pair<double, double> notch_hz{1250.0, 1750.0};
  double channel_hz = 3000.0;  ///< the channel, and each adjacent channel
};

/// From the settings of a test; InputError if damaged.
SpreadSettings spread_settings_from_json(const nlohmann::json& settings);
nlohmann::json with_spread_settings(nlohmann::json settings, const SpreadSettings& spread);
std::string spread_stimulus_words(const SpreadSettings& settings);

}  // namespace heron

#include "core/method/spread/spread_settings.h"

#include "core/error.h"
#include "core/method/kept_file.h"
#include "core/method/result_json.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr std::pair<SpreadStimulus, const char*> kStimulusIds[] = {
    {SpreadStimulus::notched_noise, "notched_noise"},
    {SpreadStimulus::speech_noise, "speech_noise"},
    {SpreadStimulus::own_recording, "own_recording"}};

std::pair<double, double> pair_at(const json& r, const char* key, std::pair<double, double> usual) {
  const auto found = r.find(key);
  if (found == r.end()) return usual;
  return {found->at(0).get<double>(), found->at(1).get<double>()};
}

}  // namespace

SpreadSettings spread_settings_from_json(const json& settings) {
  SpreadSettings out;
  const auto found = settings.find("spread");
  if (found == settings.end()) return out;
  try {
    const json& r = *found;
    for (const auto& [stimulus, id] : kStimulusIds) {
      if (r.value("stimulus", "") == id) out.stimulus = stimulus;
    }
    out.own_name = r.value("own_name", "");
    out.own_hash = kept_file_hash(r, "own");
    out.carrier_hz = r.value("carrier_hz", 0.0);
    if (r.value("sideband", "upper") == "lower") out.sideband = Sideband::lower;
    out.band_hz = pair_at(r, "band_hz", out.band_hz);
    out.notch_hz = pair_at(r, "notch_hz", out.notch_hz);
    out.channel_hz = r.value("channel_hz", out.channel_hz);
    return out;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

json with_spread_settings(json settings, const SpreadSettings& s) {
  json r = {{"own_name", s.own_name},
            {"own_hash", s.own_hash},
            {"carrier_hz", s.carrier_hz},
            {"sideband", s.sideband == Sideband::upper ? "upper" : "lower"},
            {"band_hz", {s.band_hz.first, s.band_hz.second}},
            {"notch_hz", {s.notch_hz.first, s.notch_hz.second}},
            {"channel_hz", s.channel_hz}};
  for (const auto& [stimulus, id] : kStimulusIds) {
    if (stimulus == s.stimulus) r["stimulus"] = id;
  }
  settings["spread"] = r;
  return settings;
}

std::string spread_stimulus_words(const SpreadSettings& s) {
  switch (s.stimulus) {
    case SpreadStimulus::notched_noise:
      return "notched noise";
    case SpreadStimulus::speech_noise:
      return "speech-shaped noise";
    case SpreadStimulus::own_recording:
      return s.own_name;
  }
  return {};
}

}  // namespace heron

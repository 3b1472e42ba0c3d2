#include "core/method/frequency/tone_log.h"

#include <algorithm>
#include <cmath>

#include "core/method/measure/heard_tone.h"
#include "core/method/result_json.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kPartS = 1.0;
constexpr double kMostParts = 20000.0;

}  // namespace

json analyse_tone_log(const CaptureOpener& open, std::optional<double> near_hz,
                      const Progress& progress, const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  const double length_s = info.duration_s();
  ToneWish wish;
  wish.near_hz = near_hz;
  // Whole parts, so that a short recording is not half thrown away.
  const double parts = std::clamp(std::floor(length_s / kPartS), 1.0, kMostParts);
  wish.segment_s = length_s / parts;
  if (progress) progress(0.0);
  const HeardTones heard = hear_tone(open, wish, stop);
  if (progress) progress(0.9);
  json out = {{"format", kToneLogFormat},
              {"version", 1},
              {"started_at", info.recorded_at},
              {"remarks", remarks_to_json(heard.remarks)}};
  json seconds = json::array();
  json hz = json::array();
  json u = json::array();
  for (const HeardTone& t : heard.tones) {
    seconds.push_back(t.start_s + wish.segment_s / 2.0);
    hz.push_back(t.frequency_hz);
    u.push_back(t.u_hz);
  }
  // Where the tone runs through many bins there is nothing to be seen beside it.
  if (!hz.empty())
    if (const auto side = strongest_sideband(open, hz[hz.size() / 2].get<double>(), stop))
      out["sideband"] = {{"level_dbc", side->level_dbc}, {"offset_hz", side->offset_hz}};
  out["seconds"] = std::move(seconds);
  out["tone_hz"] = std::move(hz);
  out["u_hz"] = std::move(u);
  return out;
}

AnalysisPtr read_tone_log(const json& record) {
  auto log = std::make_shared<ToneLog>();
  try {
    if (record.at("format") != kToneLogFormat) refuse_damaged("it is another record");
    log->started_at = record.at("started_at");
    log->remarks = remarks_from_json(record.at("remarks"));
    log->seconds = record.at("seconds").get<std::vector<double>>();
    log->tone_hz = record.at("tone_hz").get<std::vector<double>>();
    if (const auto side = record.find("sideband"); side != record.end())
      log->sideband =
          ToneSideband{side->at("level_dbc").get<double>(), side->at("offset_hz").get<double>()};
    log->u_hz = record.at("u_hz").get<std::vector<double>>();
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  const auto is_wrong = [](double v) { return !std::isfinite(v) || std::abs(v) > 1e12; };
  if (log->tone_hz.size() != log->seconds.size() || log->u_hz.size() != log->seconds.size() ||
      std::any_of(log->seconds.begin(), log->seconds.end(), is_wrong) ||
      std::any_of(log->tone_hz.begin(), log->tone_hz.end(), is_wrong))
    refuse_damaged("its tones are not numbers");
  return log;
}

}  // namespace heron

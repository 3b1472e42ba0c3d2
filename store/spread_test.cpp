#include "store/spread_test.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/method/bandwidth_json.h"
#include "core/method/result_json.h"
#include "store/capture_files.h"
#include "store/clock.h"
#include "store/result_record.h"
#include "store/rows.h"
#include "store/two_tone_test.h"

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

/// Figures of the first two-tone test of the same evaluation, by the name of their step.
void add_two_tone(const Shack& shack, SpreadTest& t) {
  t.two_tone.assign(t.steps.size(), std::nullopt);
  if (t.test.characteristic != "noise") return;
  for (const Test& other : tests(shack, t.test.evaluation_id)) {
    if (other.characteristic != "two_tone" || !other.headline) continue;
    std::string damage;
    const auto loaded =
        read_or_damage(damage, "test", [&] { return load_two_tone_test(shack, other.id); });
    if (!loaded) continue;
    const TwoToneTest& tones = *loaded;
    for (std::size_t i = 0; i < t.steps.size(); ++i) {
      for (std::size_t k = 0; k < tones.steps.size(); ++k) {
        const auto& a = tones.analyses[k];
        if (!a || a->worst() == nullptr || tones.steps[k].label != t.steps[i].label) continue;
        t.two_tone[i] = product_figure(*a, *a->worst(), kRePep);
      }
    }
    return;
  }
}

/// Ratios carry how far the recorder's scale may bend, as its hook-up says or as is assumed.
void set_linearity(SpreadAnalysis& a, const std::optional<HookupVersion>& on) {
  const RecorderLinearity linearity = recorder_linearity(std::nullopt, on ? &on->chain : nullptr);
  for (BandwidthAnalysis* one : {&a.average, &a.max_hold}) {
    one->linearity = linearity;
    add_linearity_remark(one->remarks, linearity, on.has_value());
    sort_remarks(one->remarks);
  }
  if (a.noise) a.noise->linearity = linearity;
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
    // It becomes part of a file's name: from elsewhere it may be anything.
    if (const std::string hash = r.value("own_hash", ""); is_capture_hash(hash))
      out.own_hash = hash;
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
    NoiseTestSettings noise;
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
    if (!r.at("noise").is_null()) a.noise = noise_test_from_json(r.at("noise"));
    return a;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
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

std::optional<Figure> spread_figure(const std::string& characteristic, const SpreadAnalysis& a,
                                    Hold hold) {
  const BandwidthAnalysis& b = a.of(hold);
  const Result result = to_result(b);
  if (characteristic == "bandwidth") {
    const Figure* f = result.headline();
    return f != nullptr ? std::optional(*f) : std::nullopt;
  }
  if (a.noise) {
    const Result noise = to_result(*a.noise);
    const Figure* f = noise.headline();
    return f != nullptr ? std::optional(*f) : std::nullopt;
  }
  const AdjacentPower* worst = worst_adjacent(b);
  if (worst == nullptr) return std::nullopt;
  return adjacent_figure(*worst, hold, a.of(hold).linearity);
}

SpreadTest load_spread_test(const Shack& shack, Id id) {
  SpreadTest t;
  t.test = test(shack, id);
  t.settings = read_or_damage(t.test.damage, "settings", [&] {
                 return spread_settings_from_json(t.test.settings);
               }).value_or(SpreadSettings{});
  t.steps = steps(shack, id);
  load_plan(shack, t);
  for (Step& step : t.steps) {
    std::optional<SpreadAnalysis> analysis;
    if (step.capture)
      analysis = read_or_damage(step.damage, "result", [&] {
        const auto record = load_result(shack, step.capture->id);
        return record ? std::optional(spread_from_json(*record)) : std::nullopt;
      });
    auto on = taken_on(shack, step);
    if (analysis) set_linearity(*analysis, on);
    std::optional<Judgement> judgement;
    if (analysis && t.test.limit) {
      const auto figure = spread_figure(t.test.characteristic, *analysis);
      // A limit for another stimulus says nothing about this one.
      if (figure && figure->convention == t.test.limit->convention)
        judgement = judge(*figure, *t.test.limit);
    }
    t.taken_on.push_back(std::move(on));
    t.analyses.push_back(std::move(analysis));
    t.judgements.push_back(judgement);
  }
  add_two_tone(shack, t);
  return t;
}

std::optional<std::size_t> SpreadTest::headline_step() const {
  std::optional<std::size_t> best;
  for (std::size_t i = 0; i < steps.size(); ++i) {
    if (!analyses[i] || !spread_figure(test.characteristic, *analyses[i])) continue;
    if (!best || !judgements[i] || !judgements[*best] ||
        judgements[i]->margin < judgements[*best]->margin)
      best = i;
  }
  return best;
}

std::optional<Headline> headline_of(const SpreadTest& t) {
  const auto step = t.headline_step();
  if (!step) return std::nullopt;
  const auto& capture = t.steps[*step].capture;
  return Headline{*spread_figure(t.test.characteristic, *t.analyses[*step]), t.steps[*step].label,
                  capture ? capture->taken_at : utc_now(),
                  t.judgements[*step].value_or(Judgement{})};
}

}  // namespace heron

#include "core/method/touch/touch_record.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/method/result_json.h"

namespace heron {
namespace {

using nlohmann::json;

// Two characters a level, 64 x 64 steps; the first of all means that nothing is known.
constexpr std::string_view kDigits =
    "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz+-";
constexpr double kStepDb = 0.05;
constexpr double kLowestDb = -200.0;
constexpr int kSteps = 64 * 64;
constexpr int kMostSide = 4000;

std::string packed(const std::vector<float>& levels) {
  std::string text;
  text.reserve(2 * levels.size());
  for (const float level : levels) {
    int code = 0;
    if (std::isfinite(level))
      code = std::clamp(
          static_cast<int>(std::lround((static_cast<double>(level) - kLowestDb) / kStepDb)), 1,
          kSteps - 1);
    text += kDigits[static_cast<std::size_t>(code / 64)];
    text += kDigits[static_cast<std::size_t>(code % 64)];
  }
  return text;
}

std::vector<float> unpacked(const std::string& text, std::size_t count) {
  if (text.size() != 2 * count) refuse_damaged("its levels are cut short");
  std::vector<float> levels(count);
  for (std::size_t i = 0; i < count; ++i) {
    const auto high = kDigits.find(text[2 * i]);
    const auto low = kDigits.find(text[2 * i + 1]);
    if (high == std::string_view::npos || low == std::string_view::npos)
      refuse_damaged("its levels cannot be read");
    const auto code = static_cast<int>(64 * high + low);
    levels[i] = code == 0 ? std::numeric_limits<float>::quiet_NaN()
                          : static_cast<float>(kLowestDb + kStepDb * code);
  }
  return levels;
}

json to_json(const TouchBand& band) {
  return {{"bin_hz", band.bin_hz},
          {"rbw_hz", band.rbw_hz},
          {"side", band.side},
          {"levels", packed(band.dbc)}};
}

TouchBand band_from_json(const json& from, std::size_t frames) {
  TouchBand band;
  band.bin_hz = from.at("bin_hz");
  band.rbw_hz = from.at("rbw_hz");
  band.side = static_cast<int>(whole_from(from, "side", 0, kMostSide));
  const bool has_width = band.bin_hz >= 1e-3 && band.bin_hz <= 1e6 && band.rbw_hz >= band.bin_hz &&
                         band.rbw_hz <= 10.0 * band.bin_hz;
  if (band.side > 0 && !has_width) refuse_damaged("its bins have no width");
  band.dbc = unpacked(from.at("levels").get_ref<const std::string&>(),
                      band.side > 0 ? frames * band.width() : 0);
  return band;
}

}  // namespace

std::pair<std::size_t, std::size_t> TouchRecord::frames_in(double from_s, double to_s) const {
  const auto place = [&](double s) {
    const double i = std::ceil((s - first_s) / frame_s - 1e-9);
    return static_cast<std::size_t>(std::clamp(i, 0.0, static_cast<double>(frames)));
  };
  const std::size_t from = place(from_s);
  return {from, std::max(from, place(to_s))};
}

const TouchBand& TouchRecord::band_for(double span_hz) const {
  return far.side > 0 && span_hz > near.reach_hz() * 1.001 ? far : near;
}

json to_json(const TouchRecord& r) {
  return {{"format", kTouchFormat},
          {"version", 1},
          {"name", r.name},
          {"length_s", r.length_s},
          {"frame_s", r.frame_s},
          {"first_s", r.first_s},
          {"frames", r.frames},
          {"spectra", r.spectra},
          {"near", to_json(r.near)},
          {"far", to_json(r.far)},
          {"rf_hz", number_or_null(r.rf_hz)},
          {"level_dbfs", number_or_null(r.level_dbfs)},
          {"remarks", remarks_to_json(r.remarks)}};
}

AnalysisPtr read_touch_record(const json& from) {
  constexpr double kMostFrames = 1e5;
  auto r = std::make_shared<TouchRecord>();
  try {
    if (from.at("format") != kTouchFormat) refuse_damaged("it is another record");
    r->name = from.at("name");
    r->length_s = from.at("length_s");
    r->frame_s = from.at("frame_s");
    r->first_s = from.at("first_s");
    r->frames = static_cast<std::size_t>(whole_from(from, "frames", 1, kMostFrames));
    r->spectra = from.at("spectra");
    r->near = band_from_json(from.at("near"), r->frames);
    r->far = band_from_json(from.at("far"), r->frames);
    r->rf_hz = number_from(from, "rf_hz");
    r->level_dbfs = number_from(from, "level_dbfs");
    r->remarks = remarks_from_json(from.at("remarks"));
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (!(r->frame_s > 0.0) || !(r->length_s > 0.0) || !(r->first_s >= 0.0) || !(r->spectra >= 1.0) ||
      r->near.side < 1)
    refuse_damaged("it holds no spectrogram");
  return r;
}

}  // namespace heron

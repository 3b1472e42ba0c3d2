#include "core/method/phase_noise/noise_record.h"

#include <array>
#include <cmath>

#include "core/method/result_json.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr std::array<const char*, 3> kDetectors{"unknown", "power-average", "log-average"};

json points_to_json(const std::vector<CurvePoint>& points) {
  json all = json::array();
  for (const CurvePoint& p : points)
    all.push_back({p.offset_hz, p.l_dbc_hz, p.u_db, p.bound == Bound::upper ? 1 : 0, p.line_hz,
                   p.u_common_db});
  return all;
}

std::vector<CurvePoint> points_from_json(const json& from) {
  constexpr double kMost = 1e15;
  std::vector<CurvePoint> all;
  for (const json& one : from) {
    CurvePoint p{one.at(0), one.at(1), one.at(2),
                 one.at(3).get<int>() != 0 ? Bound::upper : Bound::none};
    // The first records did not keep them.
    constexpr std::size_t kLine = 4;
    if (one.size() > kLine + 1) {
      p.line_hz = one.at(kLine);
      p.u_common_db = one.at(kLine + 1);
    }
    const bool is_wrong = !(p.offset_hz > 0.0) || p.offset_hz > kMost ||
                          !(std::abs(p.l_dbc_hz) < 1000.0) || !(p.u_db >= 0.0) ||
                          !(p.line_hz >= 0.0) || !(p.u_common_db >= 0.0) ||
                          (!all.empty() && p.offset_hz <= all.back().offset_hz);
    if (is_wrong) refuse_damaged("its offsets are not those of a curve");
    all.push_back(p);
  }
  return all;
}

}  // namespace

json to_json(const NoiseRecord& record) {
  const NoiseCurve& c = record.curve;
  json spurs = json::array();
  for (const NoiseSpur& s : c.spurs)
    spurs.push_back({s.offset_hz, s.level_dbc, s.u_db, s.is_one_sided ? 1 : 0});
  return {{"format", kNoiseFormat},
          {"version", 1},
          {"name", c.name},
          {"points", points_to_json(c.points)},
          {"am", points_to_json(c.am)},
          {"spurs", std::move(spurs)},
          {"per_decade", c.per_decade},
          {"detector", kDetectors[static_cast<std::size_t>(c.detector)]},
          {"length_s", c.length_s},
          {"carrier_hz", number_or_null(c.carrier_hz)},
          {"rf_hz", number_or_null(c.rf_hz)},
          {"level_dbfs", number_or_null(c.level_dbfs)},
          {"level_dbm", number_or_null(c.level_dbm)},
          {"has_u", c.has_u},
          {"rbw_hz", record.rbw_hz},
          {"remarks", remarks_to_json(c.remarks)}};
}

AnalysisPtr read_noise_record(const json& from) {
  auto record = std::make_shared<NoiseRecord>();
  NoiseCurve& c = record->curve;
  try {
    if (from.at("format") != kNoiseFormat) refuse_damaged("it is another record");
    c.name = from.at("name");
    c.points = points_from_json(from.at("points"));
    c.am = points_from_json(from.at("am"));
    for (const json& one : from.at("spurs"))
      c.spurs.push_back({one.at(0), one.at(1), one.at(2), one.at(3).get<int>() != 0});
    c.per_decade = from.at("per_decade");
    const std::string detector = from.at("detector");
    for (std::size_t i = 0; i < kDetectors.size(); ++i)
      if (detector == kDetectors[i]) c.detector = static_cast<NoiseDetector>(i);
    c.length_s = from.at("length_s");
    c.carrier_hz = number_from(from, "carrier_hz");
    c.rf_hz = number_from(from, "rf_hz");
    c.level_dbfs = number_from(from, "level_dbfs");
    c.level_dbm = number_from(from, "level_dbm");
    c.has_u = from.at("has_u");
    record->rbw_hz = from.at("rbw_hz");
    c.remarks = remarks_from_json(from.at("remarks"));
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (c.points.empty() || c.per_decade < 0 || c.per_decade > 1000)
    refuse_damaged("it holds no curve");
  return record;
}

}  // namespace heron

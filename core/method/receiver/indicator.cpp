#include "core/method/receiver/indicator.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kHighestOverDb = 100.0;
constexpr double kMostSegments = 200.0;
constexpr double kVhfHz = 30e6;

[[noreturn]] void refuse_indicator(std::string_view text) {
  throw InputError("\u201c" + std::string(text.substr(0, 24)) + "\u201d", "", "it is no reading",
                   "Type it like S7, S9+10, or 6 for six segments");
}

/// A straight line between the two points round a reading.
std::optional<double> interpolated(double a, double level_a, double b, double level_b, double at) {
  if (b == a) return std::nullopt;
  return level_a + (level_b - level_a) * (at - a) / (b - a);
}

}  // namespace

double usual_s9_dbm(double frequency_hz) {
  return frequency_hz < kVhfHz ? kS9Hf : kS9Vhf;
}

IndicatorReading parse_indicator(std::string_view text) {
  std::string t = lower_case(normalised_typing(text));
  IndicatorReading r;
  const bool has_s = t.starts_with("s");
  if (has_s) t = normalised_typing(t.substr(1));
  if (t.ends_with("db")) t = normalised_typing(t.substr(0, t.size() - 2));
  const auto over = [&](const std::string& rest) {
    const auto db = parse_number(rest);
    if (!db || *db < 0.0 || *db > kHighestOverDb) refuse_indicator(text);
    r.db = *db;
    return r;
  };
  if (t.starts_with("+")) return over(normalised_typing(t.substr(1)));
  const auto number = leading_number(t);
  if (!number) refuse_indicator(text);
  if (number->rest.starts_with("+")) {
    if (number->value != 9.0) refuse_indicator(text);
    return over(normalised_typing(number->rest.substr(1)));
  }
  if (!number->rest.empty()) refuse_indicator(text);
  if (has_s) {
    if (number->value < 0.0 || number->value > 9.0) refuse_indicator(text);
    r.db = (number->value - 9.0) * kSUnitDb;
    return r;
  }
  if (number->value < 0.0 || number->value > kMostSegments) refuse_indicator(text);
  r.is_segments = true;
  r.segments = number->value;
  return r;
}

std::string indicator_text(double db) {
  const auto shortest = [](double v) {
    return number_text(v, std::abs(v - std::round(v)) < 0.05 ? 0 : 1);
  };
  if (db > 0.04) return "S9+" + shortest(db);
  const double units = 9.0 + db / kSUnitDb;
  return units < 0.0 ? "<S0" : "S" + shortest(std::max(0.0, units));
}

IndicatorScale indicator_scale(std::vector<IndicatorPoint> points, double s9_dbm) {
  // One level tells where S9 is, if that is what it shows.
  const bool is_s9_alone =
      points.size() == 1 && !points.front().reading.is_segments && points.front().reading.db == 0.0;
  if (points.size() < 2 && !is_s9_alone)
    throw InputError("indicator", "", "fewer than two levels were read",
                     "Read it at S1 to S9 and over, a level each");
  IndicatorScale scale;
  scale.is_segments = points.front().reading.is_segments;
  for (const IndicatorPoint& p : points)
    if (p.reading.is_segments != scale.is_segments)
      throw InputError("indicator", "", "S units and segments are mixed",
                       "Type S7 and S9+10 throughout, or segments throughout");
  std::stable_sort(points.begin(), points.end(),
                   [](const auto& a, const auto& b) { return a.level_dbm < b.level_dbm; });
  scale.points = std::move(points);
  const auto value = [&](const IndicatorPoint& p) {
    return scale.is_segments ? p.reading.segments : p.reading.db;
  };
  bool falls = false;
  for (std::size_t i = 1; i < scale.points.size(); ++i)
    falls = falls || value(scale.points[i]) < value(scale.points[i - 1]);
  if (falls)
    scale.remarks.push_back({"falls", Severity::caution,
                             "It shows less for more signal somewhere: AGC had not settled, or a "
                             "level was mistyped.",
                             "Read again, slowly, from low to high"});
  if (scale.is_segments) {
    scale.remarks.push_back({"segments", Severity::note,
                             "Segments have no scale of their own: only levels are told.", ""});
    return scale;
  }
  for (const IndicatorPoint& p : scale.points)
    scale.errors_db.push_back(p.reading.db - (p.level_dbm - s9_dbm));
  for (std::size_t i = 1; i < scale.points.size(); ++i) {
    const IndicatorPoint& a = scale.points[i - 1];
    const IndicatorPoint& b = scale.points[i];
    if (b.reading.db <= a.reading.db) continue;
    IndicatorSlope s{a.reading.db, b.reading.db, 0.0, a.reading.db >= 0.0};
    const double shown = b.reading.db - a.reading.db;
    s.db_per_unit = (b.level_dbm - a.level_dbm) / shown * (s.is_over_s9 ? 10.0 : kSUnitDb);
    scale.slopes.push_back(s);
  }
  const auto level = level_of_reading(scale, 0.0);
  if (level) {
    Figure s9;
    s9.id = "s9_level";
    s9.label = "S9 level";
    s9.unit = "dBm";
    s9.value = *level;
    double u = 0.0;
    for (const IndicatorPoint& p : scale.points)
      if (std::abs(p.reading.db) <= kSUnitDb * 1.01) u = std::max(u, p.u_db);
    if (u == 0.0) u = scale.points.front().u_db;
    s9.contributions = {{"level and reading", u, Scope::common}};
    scale.s9 = s9;
    Figure error = s9;
    error.id = "s9_error";
    error.label = "S9 comes early by";
    error.unit = "dB";
    error.value = s9_dbm - s9.value;
    scale.s9_error = error;
  } else {
    scale.remarks.push_back({"s9_not_enclosed", Severity::caution,
                             "No readings lie on both sides of S9: its level is not told.",
                             "Read it at S8 and at S9+10, too"});
  }
  for (std::size_t i = 0; i < scale.points.size(); ++i) {
    const double error = scale.errors_db[i];
    if (std::abs(error) <= 2.0 * scale.points[i].u_db) continue;
    const double at = scale.points[i].reading.db;
    const bool is_generous = error > 0.0;
    if (!scale.ranges.empty() && scale.ranges.back().is_generous == is_generous && i > 0 &&
        scale.ranges.back().to_db == scale.points[i - 1].reading.db)
      scale.ranges.back().to_db = at;
    else
      scale.ranges.push_back({is_generous, at, at});
  }
  return scale;
}

std::optional<double> level_of_reading(const IndicatorScale& scale, double db) {
  for (std::size_t i = 0; i < scale.points.size(); ++i) {
    const IndicatorPoint& b = scale.points[i];
    if (b.reading.db == db) return b.level_dbm;
    if (i == 0) continue;
    const IndicatorPoint& a = scale.points[i - 1];
    if (a.reading.db < db && b.reading.db > db)
      return interpolated(a.reading.db, a.level_dbm, b.reading.db, b.level_dbm, db);
  }
  return std::nullopt;
}

std::optional<Figure> true_change(const IndicatorScale& scale, double from_db, double to_db) {
  const auto a = level_of_reading(scale, from_db);
  const auto b = level_of_reading(scale, to_db);
  if (!a || !b) return std::nullopt;
  double u = 0.0;
  for (const IndicatorPoint& p : scale.points)
    if (p.reading.db >= std::min(from_db, to_db) - kSUnitDb &&
        p.reading.db <= std::max(from_db, to_db) + kSUnitDb)
      u = std::max(u, p.u_db);
  Figure f;
  f.id = "change";
  f.label = "Change";
  f.unit = "dB";
  f.value = *b - *a;
  f.contributions = {{"scale of the indicator", u * std::sqrt(2.0), Scope::independent}};
  return f;
}

std::string range_words(const IndicatorScale& scale) {
  std::string words;
  if (scale.points.empty()) return words;
  const double last = scale.points.back().reading.db;
  const double first = scale.points.front().reading.db;
  for (const IndicatorRange& r : scale.ranges) {
    if (!words.empty()) words += "; ";
    words += r.is_generous ? "generous " : "stingy ";
    if (r.from_db == first && r.to_db == last)
      words += "throughout";
    else if (r.to_db == last)
      words += "from " + indicator_text(r.from_db);
    else if (r.from_db == first)
      words += "up to " + indicator_text(r.to_db);
    else if (r.from_db == r.to_db)
      words += "at " + indicator_text(r.from_db);
    else
      words += "from " + indicator_text(r.from_db) + " to " + indicator_text(r.to_db);
    words += r.is_generous ? ": shows too much" : ": shows too little";
  }
  return words;
}

}  // namespace heron

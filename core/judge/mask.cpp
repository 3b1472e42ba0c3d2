#include "core/judge/mask.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/json_fields.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr const char* kMaskFormat = "even-heron-mask";
constexpr double kVhfFromHz = 30e6;

MaskSegment segment_from_json(const JsonFields& in) {
  MaskSegment s;
  s.is_offset = in.flag("offset", false);
  const auto from = in.number("from_hz");
  const auto to = in.number("to_hz");
  if (!from || !to) in.refuse(from ? "to_hz" : "from_hz", "it is missing", "Give it in Hz");
  s.from_hz = *from;
  s.to_hz = *to;
  if (!(s.from_hz >= 0.0 && s.to_hz > s.from_hz))
    in.refuse("from_hz", "the range does not run from low to high",
              "Give the lower frequency first");
  s.limit_dbc = in.number("limit_dbc");
  s.limit_dbm = in.number("limit_dbm");
  if (const auto* formula = in.find("formula")) {
    const JsonFields f(*formula, in.subject(), in.place() + ", formula");
    const auto a = f.number("a");
    const auto b = f.number("b_log_watt");
    if (!a || !b) f.refuse(a ? "b_log_watt" : "a", "it is missing", "Give a number of dB");
    s.formula = PowerFormula{*a, *b, f.number("at_most")};
  }
  const int given = (s.limit_dbc ? 1 : 0) + (s.limit_dbm ? 1 : 0) + (s.formula ? 1 : 0);
  if (given != 1)
    in.refuse("", fmt::format("it has {} limits", given == 0 ? "no" : "several"),
              "Give one of limit_dbc, limit_dbm or formula");
  if (s.limit_dbc && *s.limit_dbc > 0.0)
    in.refuse("limit_dbc", "it is above the carrier", "Write \u221250 for 50 dB below the carrier");
  return s;
}

}  // namespace

double PowerFormula::attenuation_db(double carrier_watt) const {
  const double wanted = a + b_log_watt * std::log10(std::max(carrier_watt, 1e-15));
  return at_most ? std::min(wanted, *at_most) : wanted;
}

bool Mask::needs_power() const {
  return std::any_of(segments.begin(), segments.end(), [](const MaskSegment& s) {
    return s.limit_dbm.has_value() || s.formula.has_value();
  });
}

MaskLimits mask_limits(const Mask& mask, const CarrierPower& carrier, double frequency_hz) {
  constexpr double kCornerDb = 1.0;  // so near the cap either of the two may bind
  MaskLimits limits;
  for (const MaskSegment& s : mask.segments) {
    const double f = s.is_offset ? std::abs(frequency_hz - carrier.frequency_hz) : frequency_hz;
    if (f < s.from_hz || f > s.to_hz) continue;
    if (s.limit_dbc) {
      limits.known.push_back({*s.limit_dbc, 1.0});
    } else if (!carrier.dbm) {
      limits.needs_power = true;
    } else if (s.limit_dbm) {
      limits.known.push_back({*s.limit_dbm - *carrier.dbm, 0.0});
    } else {
      const double watt = to_watt(Dbm{*carrier.dbm}).value;
      const PowerFormula grows{s.formula->a, s.formula->b_log_watt, std::nullopt};
      const double dbc = -s.formula->attenuation_db(watt);
      const double above_cap = grows.attenuation_db(watt) - s.formula->at_most.value_or(1e9);
      if (above_cap > -kCornerDb) limits.known.push_back({dbc, 1.0});
      if (above_cap < kCornerDb) limits.known.push_back({dbc, 1.0 - s.formula->b_log_watt / 10.0});
    }
  }
  return limits;
}

std::optional<double> mask_limit_dbc(const Mask& mask, const CarrierPower& carrier,
                                     double frequency_hz) {
  std::optional<double> strictest;
  for (const MaskLimit& limit : mask_limits(mask, carrier, frequency_hz).known)
    strictest = std::min(strictest.value_or(limit.dbc), limit.dbc);
  return strictest;
}

std::vector<MaskStep> mask_steps(const Mask& mask, const CarrierPower& carrier, double from_hz,
                                 double to_hz) {
  std::vector<double> edges{from_hz, to_hz};
  const auto add = [&](double hz) {
    if (hz > from_hz && hz < to_hz) edges.push_back(hz);
  };
  for (const MaskSegment& s : mask.segments) {
    for (const double edge : {s.from_hz, s.to_hz}) {
      add(s.is_offset ? carrier.frequency_hz + edge : edge);
      if (s.is_offset) add(carrier.frequency_hz - edge);
    }
  }
  std::sort(edges.begin(), edges.end());
  std::vector<MaskStep> steps;
  for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
    if (edges[i + 1] <= edges[i]) continue;
    const auto limit = mask_limit_dbc(mask, carrier, (edges[i] + edges[i + 1]) / 2.0);
    if (!limit) continue;
    if (!steps.empty() && steps.back().to_hz == edges[i] && steps.back().limit_dbc == *limit)
      steps.back().to_hz = edges[i + 1];
    else
      steps.push_back({edges[i], edges[i + 1], *limit});
  }
  return steps;
}

Mask generic_mask(double carrier_hz) {
  Mask m;
  m.name = "generic";
  m.note = kOwnLicence;
  MaskSegment s;
  s.from_hz = 9e3;
  s.to_hz = std::min(10.0 * carrier_hz, 300e9);
  s.formula = PowerFormula{43.0, 10.0, carrier_hz < kVhfFromHz ? 50.0 : 70.0};
  m.segments.push_back(s);
  return m;
}

double spurious_domain_hz(double carrier_hz) {
  const double lower_threshold = carrier_hz <= 150e3  ? 250.0
                                 : carrier_hz <= 30e6 ? 4e3
                                 : carrier_hz <= 1e9  ? 25e3
                                 : carrier_hz <= 10e9 ? 100e3
                                 : carrier_hz <= 15e9 ? 300e3
                                 : carrier_hz <= 26e9 ? 500e3
                                                      : 1e6;
  return 2.5 * lower_threshold;
}

Mask parse_mask(std::string_view text, const std::string& subject) {
  const nlohmann::json file = parse_json(text, subject, "Mend the place that it names");
  const JsonFields in(file, subject, "");
  in.require_format(kMaskFormat, "a mask");
  Mask m;
  m.name = in.text("name", subject);
  m.note = in.text("note", "");
  const auto* segments = in.find("segments");
  if (segments == nullptr || !segments->is_array() || segments->empty())
    in.refuse("segments", "there are none", "List at least one { from_hz, to_hz, limit_dbc }");
  std::size_t n = 0;
  for (const auto& s : *segments)
    m.segments.push_back(segment_from_json({s, subject, fmt::format("segment {}", ++n)}));
  return m;
}

nlohmann::json to_json(const Mask& mask) {
  nlohmann::json segments = nlohmann::json::array();
  for (const MaskSegment& s : mask.segments) {
    nlohmann::json one = {{"from_hz", s.from_hz}, {"to_hz", s.to_hz}};
    if (s.is_offset) one["offset"] = true;
    if (s.limit_dbc) one["limit_dbc"] = *s.limit_dbc;
    if (s.limit_dbm) one["limit_dbm"] = *s.limit_dbm;
    if (s.formula) {
      one["formula"] = {{"a", s.formula->a}, {"b_log_watt", s.formula->b_log_watt}};
      if (s.formula->at_most) one["formula"]["at_most"] = *s.formula->at_most;
    }
    segments.push_back(std::move(one));
  }
  return {{"format", kMaskFormat},
          {"version", 1},
          {"name", mask.name},
          {"note", mask.note},
          {"segments", std::move(segments)}};
}

}  // namespace heron

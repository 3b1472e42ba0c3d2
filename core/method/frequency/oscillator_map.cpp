#include "core/method/frequency/oscillator_map.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <sstream>

#include "core/error.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"
#include "core/signal/dense.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kSameHz = 100e3;  ///< a reading this near is of the band
constexpr double kAddsUpHz = 1.0;
constexpr double kLeastApart = 1e-6;  ///< smallest over largest singular value

[[noreturn]] void refuse(const std::string& line, const std::string& why) {
  throw InputError("\u201c" + line + "\u201d", "", why,
                   "Type it like 14.2 MHz = 23.2 reference \u2212 9 carrier");
}

/// "14.2 MHz USB": where, and of which sideband.
void read_band(const std::string& text, const std::string& line, json& band) {
  std::string where = normalised_typing(text);
  std::string sideband;
  for (const char* one : {"USB", "LSB"}) {
    const std::string lower = lower_case(where);
    const std::size_t at = lower.find(lower_case(one));
    if (at == std::string::npos) continue;
    sideband = one;
    where = normalised_typing(where.erase(at, 3));
  }
  QuantityOptions options;
  options.default_unit = "MHz";
  try {
    band["frequency_hz"] = parse_quantity(where, Quantity::frequency, options).value;
  } catch (const InputError& error) {
    refuse(line, error.reason);
  }
  band["sideband"] = sideband;
}

/// "23.2 reference - 9 carrier"
json read_parts(std::string text, const std::string& line) {
  json parts = json::array();
  text = normalised_typing(text);
  double sign = 1.0;
  while (!text.empty()) {
    if (text.front() == '+' || text.front() == '-') {
      sign = text.front() == '-' ? -1.0 : 1.0;
      text = normalised_typing(text.substr(1));
    }
    const auto number = leading_number(text);
    if (!number || number->value < 0.0) refuse(line, "a part does not begin with a number");
    std::string rest = number->rest;
    const std::size_t end = rest.find_first_of("+-");
    std::string name = normalised_typing(rest.substr(0, end));
    double mhz = number->value;
    for (const auto& [unit, factor] :
         {std::pair("ghz", 1e3), std::pair("mhz", 1.0), std::pair("khz", 1e-3)}) {
      if (!lower_case(name).starts_with(unit)) continue;
      mhz *= factor;
      name = normalised_typing(name.substr(3));
    }
    if (name.empty()) refuse(line, "a part has no oscillator");
    parts.push_back({{"name", lower_case(name)}, {"mhz", sign * mhz}});
    text = end == std::string::npos ? "" : rest.substr(end);
    sign = 1.0;
  }
  return parts;
}

}  // namespace

json parse_oscillator_map(const std::string& text) {
  json all = json::array();
  std::istringstream lines(text);
  for (std::string line; std::getline(lines, line);) {
    if (normalised_typing(line).empty()) continue;
    const std::size_t equal = line.find('=');
    if (equal == std::string::npos) refuse(line, "it has no =");
    json band;
    read_band(line.substr(0, equal), line, band);
    band["parts"] = read_parts(line.substr(equal + 1), line);
    double sum_hz = 0.0;
    for (const json& part : band["parts"]) sum_hz += 1e6 * part["mhz"].get<double>();
    if (std::abs(sum_hz - band["frequency_hz"].get<double>()) > kAddsUpHz)
      refuse(line, "its parts add up to " + frequency_text(sum_hz));
    all.push_back(std::move(band));
  }
  return all;
}

std::string oscillator_map_text(const json& kept) {
  std::string text;
  for (const json& band : kept) {
    text += frequency_text(band.at("frequency_hz").get<double>());
    const std::string sideband = band.at("sideband");
    if (!sideband.empty()) text += " " + sideband;
    text += " =";
    bool is_first = true;
    for (const json& part : band.at("parts")) {
      const double mhz = part.at("mhz");
      text += is_first ? (mhz < 0.0 ? " \u2212" : " ") : (mhz < 0.0 ? " \u2212 " : " + ");
      text += fmt::format("{:.10g} {}", std::abs(mhz), part.at("name").get<std::string>());
      is_first = false;
    }
    text += "\n";
  }
  return text;
}

OscillatorMap oscillator_map_from(const json& kept) {
  OscillatorMap map;
  if (!kept.is_array()) return map;
  for (const json& band : kept)
    for (const json& part : band.at("parts")) {
      const std::string name = part.at("name");
      if (std::find(map.oscillators.begin(), map.oscillators.end(), name) == map.oscillators.end())
        map.oscillators.push_back(name);
    }
  for (const json& from : kept) {
    MappedBand band;
    band.frequency_hz = from.at("frequency_hz");
    band.sideband = from.at("sideband");
    band.factor_mhz.assign(map.oscillators.size(), 0.0);
    for (const json& part : from.at("parts")) {
      const auto at = std::find(map.oscillators.begin(), map.oscillators.end(),
                                part.at("name").get<std::string>());
      const double mhz = part.at("mhz");
      if (!std::isfinite(mhz)) refuse_damaged("a part is not a number");
      band.factor_mhz[static_cast<std::size_t>(at - map.oscillators.begin())] += mhz;
    }
    map.bands.push_back(std::move(band));
  }
  return map;
}

const MappedBand* OscillatorMap::find(double frequency_hz, const std::string& sideband) const {
  // One for its own sideband comes first, then the nearest.
  const MappedBand* found = nullptr;
  const auto is_nearer = [&](const MappedBand& b) {
    if (found == nullptr || b.sideband.empty() != found->sideband.empty())
      return found == nullptr || found->sideband.empty();
    return std::abs(b.frequency_hz - frequency_hz) < std::abs(found->frequency_hz - frequency_hz);
  };
  for (const MappedBand& b : bands) {
    if (std::abs(b.frequency_hz - frequency_hz) > kSameHz) continue;
    if (!b.sideband.empty() && b.sideband != sideband) continue;
    if (is_nearer(b)) found = &b;
  }
  return found;
}

OscillatorErrors separate_oscillators(const OscillatorMap& map,
                                      const std::vector<MapReading>& readings) {
  OscillatorErrors result;
  const auto n = static_cast<Eigen::Index>(readings.size());
  const auto k = static_cast<Eigen::Index>(map.oscillators.size());
  if (k == 0 || n < k + 1) return result;
  Eigen::MatrixXd a(n, k);
  Eigen::VectorXd y(n);
  for (Eigen::Index i = 0; i < n; ++i) {
    const MapReading& r = readings[static_cast<std::size_t>(i)];
    const double weight = 1.0 / std::max(r.u_hz, 1e-9);
    for (Eigen::Index c = 0; c < k; ++c)
      a(i, c) = weight * r.band->factor_mhz[static_cast<std::size_t>(c)];
    y(i) = weight * r.error_hz;
  }
  const LeastSquares fit(a);
  if (fit.reciprocal_condition() < kLeastApart) return result;
  const Eigen::VectorXd ppm = fit.solve(y);
  const double chi2 = (times(a, ppm) - y).squaredNorm() / static_cast<double>(n - k);
  result.scatter = std::sqrt(chi2);
  // Where readings scatter more than they say, all are less certain (Birge 1932).
  const Eigen::MatrixXd own = fit.inverse_normal() * std::max(1.0, chi2);
  // What the source is off by shifts every reading by the same share of its frequency.
  Eigen::VectorXd shared(n);
  for (Eigen::Index i = 0; i < n; ++i) {
    const MapReading& r = readings[static_cast<std::size_t>(i)];
    shared(i) = r.u_common_ppm * r.band->frequency_hz / 1e6 / std::max(r.u_hz, 1e-9);
  }
  const Eigen::VectorXd moved = fit.solve(shared);
  result.covariance.assign(static_cast<std::size_t>(k),
                           std::vector<double>(static_cast<std::size_t>(k)));
  for (Eigen::Index c = 0; c < k; ++c) {
    Figure f;
    f.id = "oscillator";
    f.label = map.oscillators[static_cast<std::size_t>(c)];
    f.unit = "ppm";
    f.value = ppm(c);
    f.contributions = {{"readings", std::sqrt(own(c, c)), Scope::independent},
                       {"accuracy of the source", std::abs(moved(c)), Scope::common}};
    result.errors.push_back(std::move(f));
    for (Eigen::Index d = 0; d < k; ++d)
      result.covariance[static_cast<std::size_t>(c)][static_cast<std::size_t>(d)] =
          own(c, d) + moved(c) * moved(d);
  }
  return result;
}

Figure OscillatorErrors::on(const MappedBand& band) const {
  Figure f;
  f.id = "error";
  f.label = "Error on " + frequency_text(band.frequency_hz);
  f.unit = "Hz";
  double square = 0.0;
  for (std::size_t c = 0; c < errors.size(); ++c) {
    f.value += band.factor_mhz[c] * errors[c].value;
    for (std::size_t d = 0; d < errors.size(); ++d)
      square += band.factor_mhz[c] * band.factor_mhz[d] * covariance[c][d];
  }
  f.contributions = {{"oscillators", std::sqrt(std::max(0.0, square)), Scope::common}};
  return f;
}

}  // namespace heron

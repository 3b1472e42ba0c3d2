#include "core/method/amplifier/two_ways.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kOpenDb = 6.02;         // a line without its termination shows twice the volts
constexpr double kBetweenBinsDb = 1.42;  // most that a Hann window loses between two bins
constexpr double kNear = 0.3;            // dB

double difference_of(const TwoWays& w) {
  return w.second.value - w.first.value;
}

bool reads_all(OutputReader reader) {
  return reader == OutputReader::power_meter || reader == OutputReader::rms_volts;
}

bool reads_volts(OutputReader reader) {
  return reader == OutputReader::rms_volts || reader == OutputReader::pp_volts;
}

std::string db_text(double db) {
  return number_text(db, std::abs(db) < 1.0 ? 2 : 1, true) + " dB";
}

}  // namespace

std::string reader_words(OutputReader reader) {
  switch (reader) {
    case OutputReader::power_meter:
      return "power meter";
    case OutputReader::rms_volts:
      return "RMS volts";
    case OutputReader::pp_volts:
      return "peak-to-peak volts";
    case OutputReader::spectral_line:
      return "one spectral line";
  }
  return "";
}

double harmonics_add_db(const std::vector<double>& levels_dbc) {
  double share = 0.0;
  for (const double level : levels_dbc) share += power_ratio_from_db(level);
  return db_from_power_ratio(1.0 + share);
}

std::vector<Remark> compare_ways(const std::vector<TwoWays>& steps, OutputReader first,
                                 OutputReader second) {
  std::vector<const TwoWays*> off;
  for (const TwoWays& w : steps) {
    const double u = std::hypot(w.first.u(), w.second.u());
    if (std::abs(difference_of(w)) > 2.0 * u) off.push_back(&w);
  }
  if (off.empty()) {
    if (steps.empty()) return {};
    double most = 0.0;
    for (const TwoWays& w : steps)
      if (std::abs(difference_of(w)) > std::abs(most)) most = difference_of(w);
    return {{"two_ways_agree", Severity::note,
             fmt::format("{} and {} agree within their ± at {} {}, at most {} apart.",
                         reader_words(first), reader_words(second), steps.size(),
                         steps.size() == 1 ? "step" : "steps", db_text(most)),
             ""}};
  }
  const TwoWays& worst =
      **std::max_element(off.begin(), off.end(), [](const auto* a, const auto* b) {
        return std::abs(difference_of(*a)) < std::abs(difference_of(*b));
      });
  const double d = difference_of(worst);
  const double u = std::hypot(worst.first.u(), worst.second.u());
  const std::string what = fmt::format("{}: {} reads {} against {}", worst.step,
                                       reader_words(second), db_text(d), reader_words(first));
  const auto remark = [&](const std::string& why, const std::string& action) {
    return std::vector<Remark>{{"two_ways", Severity::caution, what + why, action}};
  };
  if (std::abs(std::abs(d) - kOpenDb) < std::max(kNear, 2.0 * u) &&
      (reads_volts(first) || reads_volts(second))) {
    const OutputReader high = d > 0.0 ? second : first;
    if (reads_volts(high))
      return remark(": twice the volts of a terminated line.",
                    "Terminate the line at the instrument that reads volts");
  }
  // A spectral line shows the carrier only.
  if (reads_all(first) != reads_all(second) && worst.harmonics_db) {
    const double expected = reads_all(first) ? -*worst.harmonics_db : *worst.harmonics_db;
    if (second != OutputReader::pp_volts && first != OutputReader::pp_volts &&
        std::abs(d - expected) <= 2.0 * u)
      return remark(
          fmt::format(": its harmonics make {} of that.", db_text(expected)),
          "Put a low-pass filter before the meter, or use the line for the carrier alone");
  }
  // Clipping: the higher the level, the more is missing.
  std::vector<const TwoWays*> rising;
  for (const TwoWays& w : steps) rising.push_back(&w);
  std::sort(rising.begin(), rising.end(),
            [](const auto* a, const auto* b) { return a->first.value < b->first.value; });
  if (rising.size() >= 3) {
    const double low = difference_of(*rising.front());
    const double high = difference_of(*rising.back());
    if (std::abs(high - low) > 2.0 * std::hypot(u, 0.0) && std::abs(high) > std::abs(low) + kNear) {
      const OutputReader poor = high < 0.0 ? second : first;
      return remark(
          fmt::format(", and {} at the lowest: the more the higher the level.", db_text(low)),
          fmt::format("Its range may clip: use a wider range or more attenuation for the {}",
                      reader_words(poor)));
    }
  }
  const bool has_line =
      first == OutputReader::spectral_line || second == OutputReader::spectral_line;
  const double line_low = second == OutputReader::spectral_line ? -d : d;
  if (has_line && line_low > 0.0 && line_low <= kBetweenBinsDb + 2.0 * u)
    return remark(fmt::format(": a line between two bins reads up to {} dB low (Hann window).",
                              number_text(kBetweenBinsDb, 1)),
                  "Read it with a flat-top window, or move it onto a bin");
  return remark(fmt::format(", more than their ± {} dB.", number_text(2.0 * u, 2)),
                "Compare both at one level into one load before either is trusted");
}

}  // namespace heron

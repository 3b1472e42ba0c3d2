#include "cli/recording_options.h"

#include <CLI/CLI.hpp>
#include <nlohmann/json.hpp>

#include "core/method/measure/measured_part.h"

namespace heron {

void add_part_options(CLI::App& command, double& start_s, double& length_s) {
  command
      .add_option("--start", start_s,
                  "Measure from here, s (default: the steadiest long keyed part)")
      ->check(CLI::NonNegativeNumber);
  command.add_option("--length", length_s, "Length to measure, s (default: to the end)")
      ->check(CLI::PositiveNumber);
}

void add_linearity_option(CLI::App& command, std::optional<double>& u_db) {
  command
      .add_option(
          "--linearity", u_db,
          "Standard uncertainty of the recorder's ratios, dB (default: as the chain states, "
          "else 0.25; 0 leaves it out)")
      ->check(CLI::NonNegativeNumber);
}

std::optional<TimeSpan> part_asked(double start_s, double length_s) {
  if (start_s == 0.0 && length_s == 0.0) return std::nullopt;
  return TimeSpan{start_s, length_s};
}

void add_part(nlohmann::json& out, const std::optional<KeyedParts>& parts) {
  out["part"] = nullptr;
  out["keyed"] = nlohmann::json::array();
  if (!parts) return;
  out["part"] = to_json(parts->measured);
  out["part"]["chosen"] = parts->is_chosen;
  for (const KeyedStretch& k : parts->keyed) out["keyed"].push_back(to_json(k));
}

}  // namespace heron

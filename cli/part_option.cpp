#include "cli/part_option.h"

#include <CLI/CLI.hpp>
#include <nlohmann/json.hpp>

#include "core/method/measured_part.h"

namespace heron {

void add_part_options(CLI::App& command, double& start_s, double& length_s) {
  command
      .add_option("--start", start_s,
                  "Measure from here, s (default: the steadiest long keyed part)")
      ->check(CLI::NonNegativeNumber);
  command.add_option("--length", length_s, "Measure so much, s (default: to the end)")
      ->check(CLI::PositiveNumber);
}

std::optional<TimeSpan> part_asked(double start_s, double length_s) {
  if (start_s == 0.0 && length_s == 0.0) return std::nullopt;
  return TimeSpan{start_s, length_s};
}

void add_part(nlohmann::json& out, const std::optional<KeyedParts>& parts) {
  if (!parts) {
    out["part"] = nullptr;
    out["keyed"] = nlohmann::json::array();
    return;
  }
  out["part"] = to_json(parts->measured);
  out["part"]["chosen"] = parts->is_chosen;
  out["keyed"] = nlohmann::json::array();
  for (const KeyedStretch& k : parts->keyed)
    out["keyed"].push_back(
        {{"start_s", k.start_s}, {"length_s", k.length_s}, {"level_dbfs", k.level_dbfs}});
}

}  // namespace heron

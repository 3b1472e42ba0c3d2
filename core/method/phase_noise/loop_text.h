#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

#include "core/method/measure/loop.h"
#include "core/method/measure/loop_noise.h"

namespace heron {

/// A loop as somebody types it, a line each: "charge pump 0.25, 0.5, 1, 2, 4 mA", "VCO gain 30
/// MHz/V", "N 144", "R2 560", "C1 1 nF". Kept by the keys below, in SI units; InputError naming the
/// line.
nlohmann::json parse_loop_text(const std::string& text);
std::string written_loop(const nlohmann::json& kept);
std::string told_loop(const nlohmann::json& kept);  ///< "9 lines"

/// What a loop needs and has, from what is kept; numbers that are not there stay as they were.
struct LoopParts {
  LoopDesign design;
  std::vector<double> currents_a;
  double multiplication = 1.0;
  LoopNoiseDesign noise;
  bool has_all = false;  ///< what a loop needs is there
};
LoopParts with_loop_text(LoopParts parts, const nlohmann::json& kept);

/// What a key of it is called, the value of one that is a single number, and how that is written:
/// "470 Ω". InputError for an unknown key.
std::string loop_value_name(std::string_view key);
std::optional<double> loop_value(LoopParts parts, std::string_view key);
std::string loop_value_text(std::string_view key, double value);

/// "22 nF", "0,47 uF", "1k": a number with a prefix and any unit; nullopt if it is none.
std::optional<double> prefixed_number(const std::string& text);

}  // namespace heron

#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace heron {

/// What was done to the device, and when in the recording.
struct TouchEvent {
  double from_s = 0.0;
  double to_s = 0.0;
  std::string words;  ///< "tap the lid"
  double length_s() const { return to_s - from_s; }
  /// Taps are short: they are judged by their highest frame, the rest by its mean.
  bool is_tap() const;
  /// What all others are held against.
  bool is_hands_off() const;
  /// Something was done to the supply.
  bool is_supply() const;
};

/// Lines "9-14 tap the lid", in seconds, sorted by their beginning; InputError naming the line.
std::vector<TouchEvent> parse_touch_events(const std::string& text);
std::string touch_events_text(const std::vector<TouchEvent>& events);

nlohmann::json to_json(const std::vector<TouchEvent>& events);
/// A json exception if damaged.
std::vector<TouchEvent> touch_events_from_json(const nlohmann::json& from);

}  // namespace heron

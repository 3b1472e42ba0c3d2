#include "core/method/touch/touch_events.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <sstream>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kLatestS = 1e6;

bool has_word(const std::string& words, std::initializer_list<const char*> any) {
  const std::string text = " " + lower_case(words) + " ";
  return std::any_of(any.begin(), any.end(), [&](const char* word) {
    return text.find(" " + std::string(word)) != std::string::npos;
  });
}

/// What follows a dash of any kind, or the word "to"; nullopt where none is.
std::optional<std::string> after_dash(const std::string& text) {
  for (const std::string_view dash : {"-", "\u2013", "\u2014", "\u2026", "..", "to "})
    if (text.starts_with(dash)) return normalised_typing(text.substr(dash.size()));
  return std::nullopt;
}

std::string seconds_text(double s) {
  return number_text(s, std::abs(s - std::round(s)) < 0.005 ? 0 : 2);
}

}  // namespace

bool TouchEvent::is_tap() const {
  return has_word(words, {"tap", "knock", "flick"});
}

bool TouchEvent::is_hands_off() const {
  return has_word(words, {"hands off", "hands-off", "untouched"});
}

bool TouchEvent::is_supply() const {
  return has_word(words, {"supply", "battery", "mains"});
}

std::vector<TouchEvent> parse_touch_events(const std::string& text) {
  std::vector<TouchEvent> all;
  std::istringstream lines(text);
  std::size_t number = 0;
  for (std::string line; std::getline(lines, line);) {
    ++number;
    const std::string typed = normalised_typing(line);
    if (typed.empty()) continue;
    const auto refuse = [&](const std::string& why) {
      throw InputError("line " + std::to_string(number), "", why,
                       "Type it like \u201c9-14 tap the lid\u201d, in seconds from the start");
    };
    TouchEvent e;
    const auto from = leading_number(typed);
    const auto rest = from ? after_dash(from->rest) : std::nullopt;
    if (!rest) refuse("it has no times from and to");
    const auto to = leading_number(*rest);
    if (!to) refuse("it does not say until when");
    e.from_s = from->value;
    e.to_s = to->value;
    e.words = to->rest;
    if (e.words.starts_with("s ")) e.words = normalised_typing(e.words.substr(2));
    if (e.words.empty() || e.words == "s") refuse("it does not say what was done");
    if (!(e.from_s >= 0.0) || !(e.to_s <= kLatestS)) refuse("no recording has such a time");
    if (!(e.to_s > e.from_s)) refuse("it ends before it begins");
    all.push_back(std::move(e));
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const TouchEvent& a, const TouchEvent& b) { return a.from_s < b.from_s; });
  return all;
}

std::string touch_events_text(const std::vector<TouchEvent>& events) {
  std::string text;
  for (const TouchEvent& e : events)
    text += seconds_text(e.from_s) + "-" + seconds_text(e.to_s) + " " + e.words + "\n";
  return text;
}

nlohmann::json to_json(const std::vector<TouchEvent>& events) {
  nlohmann::json all = nlohmann::json::array();
  for (const TouchEvent& e : events) all.push_back({e.from_s, e.to_s, e.words});
  return all;
}

std::vector<TouchEvent> touch_events_from_json(const nlohmann::json& from) {
  std::vector<TouchEvent> all;
  if (!from.is_array()) return all;
  for (const nlohmann::json& one : from) all.push_back({one.at(0), one.at(1), one.at(2)});
  return all;
}

}  // namespace heron

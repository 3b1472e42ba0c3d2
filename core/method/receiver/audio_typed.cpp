#include "core/method/receiver/audio_typed.h"

#include <algorithm>
#include <cmath>
#include <sstream>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

[[noreturn]] void refuse_audio(std::string_view text) {
  throw InputError("\u201c" + std::string(text.substr(0, 32)) + "\u201d", "",
                   "it is no audio reading",
                   "Type it like 48.2 50.1 46.9 mV, or 46.9 to 51.3 mV, or \u221212.5 dB");
}

/// What the readings are in, taken off their end.
struct Unit {
  bool in_db = false;
  double volts = 1e-3;
};
Unit take_unit(std::string& text, bool in_db_unless_said) {
  const auto take = [&](std::string_view word) {
    if (!lower_case(text).ends_with(word)) return false;
    text = normalised_typing(text.substr(0, text.size() - word.size()));
    return true;
  };
  if (take("dbu") || take("dbm") || take("dbv") || take("db")) return {true, 1.0};
  take("rms");
  if (take("mv")) return {false, 1e-3};
  if (take("uv")) return {false, 1e-6};
  if (take("v")) return {false, 1.0};
  return {in_db_unless_said, 1e-3};
}

}  // namespace

TypedAudio parse_audio(std::string_view text, bool in_db_unless_said) {
  std::string rest = normalised_typing(text);
  const Unit unit = take_unit(rest, in_db_unless_said);
  bool is_between = false;
  for (const std::string word : {" to ", "\u2026", "\u2013", "..."})
    if (const auto at = rest.find(word); at != std::string::npos) {
      rest.replace(at, word.size(), " ");
      is_between = true;
      break;
    }
  std::replace(rest.begin(), rest.end(), ';', ' ');
  std::istringstream in(rest);
  TypedAudio audio;
  audio.in_db = unit.in_db;
  for (std::string one; in >> one;) {
    const auto value = parse_number(one);
    if (!value || !std::isfinite(*value)) refuse_audio(text);
    audio.readings.push_back(unit.in_db ? *value : *value * unit.volts);
  }
  if (audio.readings.empty() || (is_between && audio.readings.size() != 2)) refuse_audio(text);
  audio.level = is_between ? audio_level_between(audio.readings[0], audio.readings[1], audio.in_db)
                           : audio_level(audio.readings, audio.in_db);
  return audio;
}

std::string audio_text(const TypedAudio& audio) {
  if (audio.in_db) return number_text(audio.level.db, 2) + " dB";
  return engineering_text(voltage_ratio_from_db(audio.level.db), "V", 4);
}

}  // namespace heron

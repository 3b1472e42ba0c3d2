#pragma once

#include <string>
#include <string_view>

#include "core/method/measure/audio_ratio.h"

namespace heron {

/// Audio as somebody reads it off a meter: "48.2 50.1 46.9 mV", "46.9 to 51.3", "-12.5 dB", in mV
/// unless it says V or dB. Two with "to" between are the lowest and the highest of a while.
struct TypedAudio {
  AudioLevel level;
  bool in_db = false;
  std::vector<double> readings;  ///< V, or dB
};
/// InputError with what works.
TypedAudio parse_audio(std::string_view text, bool in_db_unless_said);

/// "127.0 mV", "-12.5 dB".
std::string audio_text(const TypedAudio& audio);

}  // namespace heron

#pragma once

#include <string>

#include "store/shack.h"

namespace heron::demo {

/// The reference of a transceiver that reads a little low: its test point counted, cover on.
void add_reference(Shack& shack, Id evaluation, const std::string& at);

/// An old receiver with two oscillators, against a standard transmission.
void add_beat_notes(Shack& shack, Id evaluation, const std::string& at);

/// Its warm-up from cold, logged before and after a heater was fitted to the oscillator.
void add_drift(Shack& shack, Id evaluation, const std::string& at);

/// An hour of it, second by second, when it is warm.
void add_stability(Shack& shack, Id evaluation, const std::string& at);

/// Its trimmer turned, with the counter logged second by second.
void add_adjust(Shack& shack, Id evaluation, const std::string& at);

/// How much weaker the outside reference of a synthesizer may become.
void add_lock(Shack& shack, Id evaluation, const std::string& at);

}  // namespace heron::demo

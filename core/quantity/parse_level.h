#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {

/// What a typed level was understood as; peak envelope where that differs from the mean.
struct TypedLevel {
  Dbm level;
  Ohm impedance = kReferenceImpedance;
  bool emf = false;        ///< typed as open-circuit volts
  std::string understood;  ///< "12.7 mV rms in 50 Ω = −24.91 dBm"
};

struct LevelInputOptions {
  Ohm impedance = kReferenceImpedance;
  bool volts_are_emf = false;
  std::string default_unit;  ///< taken when only a number is typed; empty = a unit is required
  bool is_two_tone = false;  ///< a level typed as "mean" is 3.01 dB below the peak envelope then
};

/// Reads a level as people type it: "12.7 mVrms", "12,7 mV", "-73dBm", "30 W", "0.32 uV emf",
/// "2 Vpp", "34 dBuV", "S9+10", "30 W pep", "15 W mean". Throws InputError naming two forms that
/// work.
TypedLevel parse_level(std::string_view text, const LevelInputOptions& options = {});

}  // namespace heron

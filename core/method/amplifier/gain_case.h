#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/mask.h"
#include "core/method/amplifier/amplifier.h"
#include "core/method/amplifier/gain_compare.h"
#include "core/method/amplifier/gain_settings.h"
#include "core/method/evidence.h"

namespace heron {

/// A test of gain as it was assessed, with everything that tells about it.
struct GainCase {
  explicit GainCase(const Evidence& of);

  const Evidence& evidence;
  GainSettings settings;
  AmplifierPlan plan;
  Amplification amplifier;
  Mask mask;                                             ///< of its harmonics
  std::optional<Amplification> compared = std::nullopt;  ///< another test
  std::vector<GainChange> changes = {};

  /// A level as the sheet shows it: dBm, or W.
  Figure shown(const Figure& dbm) const;
  const char* unit() const { return settings.is_in_watts ? "W" : "dBm"; }
};

}  // namespace heron

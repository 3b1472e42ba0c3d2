#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/verdict.h"
#include "core/method/receiver/indicator.h"

namespace heron {

inline constexpr double kUnitToleranceDb = 6.0;  ///< one S unit

/// One row that was typed, with its level at the receiver.
struct IndicatorRead {
  std::string band;
  std::optional<double> frequency_hz;
  IndicatorPoint point;
  std::size_t step = 0;
  bool is_after = false;                ///< S9 was moved before it
  std::optional<double> attenuator_db;  ///< of the receiver's own, switched in for it
};

/// One band with its scale against either S9.
struct BandScale {
  std::string name;
  std::optional<double> frequency_hz;
  std::vector<std::size_t> steps;  ///< of the test, in the order of the scale's points
  IndicatorScale scale;
  double s9_dbm = kS9Hf;
  std::optional<Judgement> judgement;
  std::string refusal;
  bool has_scale() const { return refusal.empty(); }
};

}  // namespace heron

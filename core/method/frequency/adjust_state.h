#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/frequency/adjust_settings.h"
#include "core/method/frequency/adjusting.h"
#include "core/method/frequency/drift_record.h"
#include "core/method/frequency/hands_off.h"
#include "core/method/measure/reference_error.h"

namespace heron {

/// One row, as relative errors.
struct AdjustRow {
  double nominal_hz = 0.0;
  std::optional<double> setting;
  std::optional<double> found_ppm;
  std::optional<double> adjusted_ppm;
  std::optional<double> checked_ppm;
};

/// Everything that an adjustment is told from: what was typed, what was turned while it was logged,
/// and what both come to.
struct AdjustState {
  AdjustPlan plan;
  std::vector<AdjustRow> rows;  ///< one a step
  DriftRecord record;           ///< of the logs, less nominal
  HandsOff hands;
  std::optional<Figure> found;      ///< ppm, closed and warm
  std::optional<Figure> predicted;  ///< ppm, of what it is left at, once closed and warm
  std::optional<Figure> checked;    ///< ppm, read again with the case closed
  std::optional<Adjustment> next;   ///< of a stepped setting
  std::string next_refusal;
  bool is_checked() const { return bands_checked() >= kBandsToCheck && !needs_power_cycle(); }
  bool is_stepped() const;
  /// Whether a device would keep a stepped setting is only known after power off.
  bool needs_power_cycle() const { return is_stepped() && !plan.is_power_cycled; }
  /// By how many steps the re-check is from what the setting gave; nullopt where that is not known.
  std::optional<double> steps_off() const;
  std::size_t bands_checked() const;  ///< nominal frequencies
  double nominal_hz() const { return plan.nominal_hz.value_or(1.0); }
  double to_hz(double ppm) const { return ppm * nominal_hz() / kPerMillion; }
  double to_ppm(double hz) const { return hz / nominal_hz() * kPerMillion; }
  double tolerance_hz() const;
  /// A reading as a figure, with what the source may be off.
  Figure with_source(double ppm, double u_ppm, const char* label) const;

  static constexpr std::size_t kBandsToCheck = 2;
};

AdjustState adjust_state(const Evidence& evidence);

}  // namespace heron

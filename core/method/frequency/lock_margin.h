#pragma once

#include <optional>
#include <span>
#include <vector>

#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/quantity/figure.h"

namespace heron {

/// Whether an oscillator follows its external reference: disturbed is not held, it still follows
/// with sidebands or scatter.
enum class LockState { held, disturbed, lost };

/// One step of attenuation before the reference input, in the order they were taken.
struct LockStep {
  double attenuation_db = 0.0;
  LockState state = LockState::lost;
  std::optional<double> frequency_hz = std::nullopt;
};

/// How much weaker the reference may become: more and more attenuation until lock is lost, less and
/// less until it returns. Margin is the last step that is held all the way up to it.
/// Example: held at 0, 1, 2 dB, lost at 3 dB, back at 1 dB: margin 2 dB, hysteresis 2 dB.
struct LockMargin {
  std::optional<double> lost_at_db;      ///< going up; nullopt = never
  std::optional<double> regained_at_db;  ///< coming back; nullopt = not, or not tried
  std::optional<Figure> margin;          ///< a lower bound where it was never lost
  std::optional<double> hysteresis_db;
  std::optional<double> held_hz;       ///< mean of the steps that are held
  std::optional<double> free_hz;       ///< of those that are lost
  std::optional<Judgement> judgement;  ///< against what is needed
  std::vector<Remark> remarks;
};

/// Below `least_db` it fails, below `needed_db` it is too close.
struct LockNeed {
  double needed_db = 6.0;
  double least_db = 3.0;
};
LockMargin find_lock_margin(std::span<const LockStep> steps, const LockNeed& need = {});

}  // namespace heron

#pragma once

#include <optional>
#include <span>
#include <vector>

#include "core/method/frequency/drift_record.h"
#include "core/method/needle.h"
#include "core/quantity/figure.h"

namespace heron {

/// A stretch of a record, under the tool or not.
struct HandStretch {
  double from_s = 0.0;
  double to_s = 0.0;
  bool is_tool = false;
  std::optional<double> mean_hz = std::nullopt;  ///< of what counts in it
  double u_hz = 0.0;
  std::size_t counted = 0;
  std::optional<double> jump_hz = std::nullopt;  ///< from the last reading under the tool
};

/// What is learnt of turning by hand: readings under the tool count for nothing, nor do the first
/// seconds after it; the jump on letting go is the mean of all jumps, and the spread of where it
/// stood after letting go is the finest setting that was reached.
/// Example: let go at +1.3, +0.9, +1.1 Hz above the reading under the tool: jump +1.1 Hz.
struct HandsOff {
  enum class State { none, hands_off, settling, tool_on };
  State state = State::none;
  std::vector<HandStretch> stretches;
  std::optional<double> last_hz;    ///< the last reading, whatever it counts for
  std::optional<Figure> mean;       ///< Hz, of the last stretch without tool
  std::optional<Figure> jump;       ///< Hz
  std::optional<double> finest_hz;  ///< twice the standard deviation of the jumps
  /// The one that a time is in; there is one.
  const HandStretch& at(double seconds) const;
};

/// `moments` are the events of the record; without any nothing was turned.
HandsOff watch_hands(std::span<const DriftSample> samples,
                     std::span<const DriftRecord::Moment> moments);

}  // namespace heron

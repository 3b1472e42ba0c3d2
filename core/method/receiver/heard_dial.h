#pragma once

#include <string>
#include <vector>

#include "core/method/receiver/sensitivity_settings.h"
#include "core/method/result.h"

namespace heron {

/// What the pitch of a tone that was recorded for something else says of the dial.
struct HeardDial {
  std::string band;
  double frequency_hz = 0.0;  ///< of the generator
  double dial_hz = 0.0;
  double tone_hz = 0.0;
  double error_hz = 0.0;
  std::size_t item = 0;  ///< of the result
  std::optional<Figure> error =
      std::nullopt;  ///< ppm; nullopt where nobody knows how good the generator is
};
HeardDial heard_dial(const std::string& band, double frequency_hz, double dial_hz, double tone_hz,
                     const ReceiverPlan& plan);
ResultTable dial_table(const std::vector<HeardDial>& all);
/// Why none of them is judged; empty if they are.
std::vector<Remark> dial_remarks(const std::vector<HeardDial>& all);

}  // namespace heron

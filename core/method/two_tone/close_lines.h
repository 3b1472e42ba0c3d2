#pragma once

#include <functional>
#include <optional>
#include <stop_token>
#include <vector>

#include "core/method/measure/line_power.h"

namespace heron {

/// Where a line stands at a fraction (0 to 1) of the record, Hz.
using MovingFrequency = std::function<double(double)>;

/// Power of the line at `wanted` where others stand so close that their lobes run together: joint
/// least squares of all of them in windowed segments just long enough to part them, the noise
/// taken off as in measure_line. nullopt if one stands nearer than 4 / length of the record.
std::optional<LinePower> measure_close_line(const CaptureOpener& open,
                                            const MovingFrequency& wanted,
                                            const std::vector<MovingFrequency>& others,
                                            double rbw_hz, const std::stop_token& stop = {});

/// Seconds of record that part lines so far apart.
double seconds_to_part(double distance_hz);

}  // namespace heron

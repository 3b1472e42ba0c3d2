#pragma once

#include <vector>

#include "core/method/receiver/sensitivity_settings.h"
#include "core/method/result.h"

namespace heron {

/// A band of a test: its step, what that is called, what was heard, and what that means.
struct SensitivityBand {
  std::size_t step = 0;
  ReceiverStepName name;
  SensitivityReading reading;
  SensitivityRow row;
};

/// Level for 10 dB over frequency, against limits and a perfect receiver; below it one band in
/// close, where it was read at several frequencies.
Plot sensitivity_plot(const std::vector<SensitivityBand>& bands, const ReceiverPlan& plan);

}  // namespace heron

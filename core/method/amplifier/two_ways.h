#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/remark.h"
#include "core/quantity/figure.h"

namespace heron {

/// What an output can be read by.
enum class OutputReader { power_meter, rms_volts, pp_volts, spectral_line };

/// "V RMS".
std::string reader_words(OutputReader reader);

/// One output read in two ways at one step, both dBm at the device.
struct TwoWays {
  std::string step;
  Figure first;
  Figure second;
  std::optional<double> harmonics_db;  ///< what they add to the power of the carrier alone
};

/// Where both differ by more than their uncertainty: by what harmonics add, by the loss between two
/// bins of a spectrum, by a missing termination, by a range that clips. Each step that differs is
/// named; one remark for all of one cause.
std::vector<Remark> compare_ways(const std::vector<TwoWays>& steps, OutputReader first,
                                 OutputReader second);

/// Power of harmonics over that of the carrier alone, dB: 10 lg(1 + sum 10^(level / 10)).
double harmonics_add_db(const std::vector<double>& levels_dbc);

}  // namespace heron

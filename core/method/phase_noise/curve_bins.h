#pragma once

#include <vector>

#include "core/method/measure/noise_cascade.h"
#include "core/method/phase_noise/noise_curve.h"

namespace heron {

/// Fine spectra, one a stage, in place of which lines and logarithmic bins are read: densities in
/// 1/Hz of phase (rad^2) or relative amplitude.
struct FineSpectrum {
  double bin_hz = 1.0;
  double low_hz = 0.0;   ///< looked at from here
  double high_hz = 0.0;  ///< to here
  std::vector<double> density;
  double averages = 1.0;                ///< independent ones
  double effective_s = 1.0;             ///< of record, for lines
  std::vector<double> bin_correlation;  ///< of neighbouring bins, 1 first
};

/// A line in it, and the bins it covers.
struct FineLine {
  double offset_hz = 0.0;
  double variance = 0.0;  ///< of the phase, rad^2
  double u_db = 0.0;
  std::size_t stage = 0;
  std::size_t from = 0;
  std::size_t to = 0;  ///< one behind
};

/// Lines that stand over the middle of their surroundings by 6 dB, or by what noise of so many
/// averages exceeds with a probability of 1e-7, whichever is higher, and that are no wider than the
/// window's main lobe.
std::vector<FineLine> find_lines(const std::vector<FineSpectrum>& stages);

/// Mean power in bins 10^(k / per_decade), geometric; what lines cover is left out.
std::vector<CurvePoint> log_bins(const std::vector<FineSpectrum>& stages,
                                 const std::vector<FineLine>& lines, int per_decade);

}  // namespace heron

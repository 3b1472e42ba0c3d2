#pragma once

#include <cstddef>
#include <functional>
#include <optional>
#include <span>
#include <vector>

#include "core/judge/remark.h"
#include "core/quantity/figure.h"

namespace heron {

/// One reading of a log.
struct DriftSample {
  double seconds = 0.0;   ///< since the first
  double error_hz = 0.0;  ///< reading less nominal
  std::optional<double> temperature_c = std::nullopt;
};

/// One exponential of a warm-up.
struct WarmUp {
  double amplitude_hz = 0.0;  ///< at the first sample, above where it settles
  double u_amplitude_hz = 0.0;
  double tau_s = 0.0;
  double u_tau_s = 0.0;
};

/// A drift record: f(t) = settled + sum of A exp(-t/tau) + rate t + c (T - mean T), each part only
/// where it lowers the scatter clearly (Bayesian information criterion), by least squares on what
/// is left after readings further off the fitted curve than 3.5 scaled median absolute deviations
/// are put aside, again and again (propagation scatter is symmetric, drift is not). Scatter that is
/// alike from reading to reading counts as fewer of them.
/// Example: 40 Hz exp(-t/600 s) - 3 Hz: amplitude 40 Hz, tau 600 s, final error -3 Hz; inside
/// +-5 Hz round nominal from 600 s ln(40/8) = 966 s on.
struct DriftFit {
  std::optional<WarmUp> warm_up;
  std::optional<WarmUp> second_warm_up;
  std::optional<Figure> final_error;    ///< Hz, of the curve at the last reading
  std::optional<Figure> rate_per_h;     ///< Hz/h, of the curve there
  std::optional<Figure> per_kelvin_hz;  ///< Hz/K; a bound where no temperature is seen to count
  double settled_hz = 0.0;              ///< where the exponentials end, at the mean temperature
  double scatter_hz = 0.0;              ///< about the curve
  double least_hz = 0.0;                ///< of all readings that count
  double most_hz = 0.0;
  double temperature_span_k = 0.0;
  std::vector<bool> is_outlier;  ///< one a sample
  std::vector<double> curve_hz;  ///< one a sample; empty where nothing was fitted
  /// Standard uncertainty of the curve at a time, at the mean temperature, Hz; empty as the curve.
  std::function<double(double seconds)> u_curve_hz;
  std::vector<Remark> remarks = {};
  std::size_t outliers() const;
  /// From when on the curve stays within so much of a middle; nullopt = not yet, or not fitted.
  std::optional<double> settle_s(std::span<const DriftSample> samples, double tolerance_hz,
                                 double middle_hz = 0.0) const;
  /// The same in minutes, with how well the curve says when.
  std::optional<Figure> settled_after(std::span<const DriftSample> samples, double tolerance_hz,
                                      double middle_hz = 0.0) const;
};

/// Samples in the order of time. Fewer than five are told by range and rate only.
DriftFit fit_drift(std::span<const DriftSample> samples);

inline constexpr std::size_t kLeastToFit = 5;

}  // namespace heron

#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <utility>
#include <vector>

#include "core/judge/remark.h"
#include "core/method/frequency/noise_kind.h"

namespace heron {

/// Scatter of a frequency against averaging time: square roots of variances of finite differences
/// of phase, x = integral of y (NIST SP 1065, Riley 2008, chapter 5). Allan (two differences), at
/// whole averages or overlapping; modified Allan (phase averaged too); Hadamard (three differences,
/// blind to a steady drift); time deviation, tau / sqrt(3) times modified Allan. Example (its
/// 1000-point set, tau 1 s): 0.2922319 for 1 s; for 10 s Allan 0.09965736, overlapping 0.09159953,
/// modified 0.06172376, time 0.3563623 s.
enum class Estimator { allan, overlapping, modified, time, hadamard, plain_hadamard };

std::string_view estimator_name(Estimator estimator);  ///< "overlapping Allan"

struct StabilityPoint {
  double tau_s = 0.0;
  std::size_t m = 1;   ///< samples that are averaged
  double value = 0.0;  ///< of fractional frequency; of a time deviation s
  double low = 0.0;    ///< 68 % by degrees of freedom
  double high = 0.0;
  std::size_t terms = 0;  ///< differences that it is the mean of
  double degrees = 0.0;   ///< of freedom
  NoiseKind noise = NoiseKind::white_frequency;
};

/// The interval at another confidence, such as 0.95: {low, high}.
std::pair<double, double> confidence_interval(const StabilityPoint& point, double confidence);

/// Samples of fractional frequency at even steps as phase; a gap (NaN) is kept as such.
class PhaseRecord {
 public:
  /// `frequency` are means over `tau0_s` each.
  static PhaseRecord of_frequency(std::span<const double> frequency, double tau0_s);
  /// `phase_s` at even steps.
  static PhaseRecord of_phase(std::span<const double> phase_s, double tau0_s);

  std::size_t samples() const { return phase_.size(); }  ///< of phase
  double tau0_s() const { return tau0_s_; }
  std::size_t gaps() const { return gap_count_; }  ///< samples that are missing
  std::vector<Remark> remarks() const;

  /// nullopt where fewer than one difference fits.
  std::optional<StabilityPoint> at(Estimator estimator, std::size_t m) const;
  std::vector<StabilityPoint> at(Estimator estimator, std::span<const std::size_t> averages) const;

 private:
  PhaseRecord(double tau0_s) : tau0_s_(tau0_s) {}
  bool is_whole(std::size_t from, std::size_t to) const {
    return gaps_.empty() || gaps_[from] == gaps_[to];
  }
  NoiseKind noise_at(std::size_t m) const;
  template <int D>
  std::pair<double, std::size_t> differences(std::size_t m, std::size_t step) const;
  std::pair<double, std::size_t> modified(std::size_t m) const;
  double tau0_s_;
  std::vector<double> phase_;        ///< in steps of tau0
  std::vector<std::uint32_t> gaps_;  ///< how many steps were missing before a sample; empty = none
  std::size_t gap_count_ = 0;
};

/// Averages to show: 1, 2, 4, ...; 1, 2, 4, 10, 20, 40, ...; or every one, as far as an estimator
/// has a difference at all.
enum class Averages { octaves, decades, all };
std::vector<std::size_t> averages_of(Averages which, std::size_t phase_samples);

}  // namespace heron

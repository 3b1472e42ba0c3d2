#include "core/method/two_tone/close_lines.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/error.h"
#include "core/signal/decimated_capture.h"
#include "core/signal/dense.h"
#include "core/signal/median.h"
#include "core/signal/shifted_capture.h"
#include "core/signal/tone_fit.h"
#include "core/signal/two_pi.h"

namespace heron {
namespace {

using Complex = std::complex<double>;
constexpr double kLeastCycles = 4.0;    // of the distance in the record
constexpr double kWantedCycles = 8.0;   // of the distance in a segment
constexpr double kBandSegments = 40.0;  // half band kept round the line, in 1 / segment
constexpr std::size_t kMostLineSegments = 96;

/// What one segment says of the line, in powers.
struct SegmentPower {
  double line = 0.0;           ///< |amplitude|^2, noise included
  double noise_share = 0.0;    ///< of a sample's noise power that is in `line`
  std::vector<double> around;  ///< noise power per sample seen at offsets beside the lines
};

class Segment {
 public:
  Segment(std::vector<Complex> samples, double rate_hz)
      : samples_(std::move(samples)), rate_hz_(rate_hz) {
    const auto n = static_cast<double>(samples_.size());
    for (std::size_t i = 0; i < samples_.size(); ++i)
      weights_.push_back(0.5 - 0.5 * std::cos(kTwoPi * (static_cast<double>(i) + 0.5) / n));
  }

  /// `lines[0]` is the wanted one.
  SegmentPower measure(std::vector<double> lines, double distance_hz) const {
    refine(lines, distance_hz);
    const auto m = static_cast<Eigen::Index>(lines.size());
    const auto n = static_cast<Eigen::Index>(samples_.size());
    Eigen::MatrixXcd basis(n, m);
    for (Eigen::Index k = 0; k < m; ++k) {
      for (Eigen::Index i = 0; i < n; ++i)
        basis(i, k) = std::polar(
            1.0, kTwoPi * lines[static_cast<std::size_t>(k)] * static_cast<double>(i) / rate_hz_);
    }
    const Eigen::Map<const Eigen::VectorXd> w(weights_.data(), n);
    const Eigen::Map<const Eigen::VectorXcd> x(samples_.data(), n);
    const Eigen::MatrixXcd weighted = w.asDiagonal() * basis;
    // A handful of lines: plain sums are quick enough.
    const Eigen::MatrixXcd inverse = inverse_hermitian(basis.adjoint().lazyProduct(weighted));
    const Eigen::VectorXcd seen = weighted.adjoint().lazyProduct(x);
    const Eigen::VectorXcd amplitudes = inverse.lazyProduct(seen);
    SegmentPower out;
    out.line = std::norm(amplitudes(0));
    const Eigen::MatrixXcd noise = weighted.adjoint().lazyProduct(weighted);
    out.noise_share =
        inverse.row(0).lazyProduct(noise).eval().lazyProduct(inverse.col(0))(0).real();
    const Eigen::VectorXcd rest = x - basis.lazyProduct(amplitudes);
    const double energy = w.squaredNorm();
    const double bin = rate_hz_ / static_cast<double>(n);
    for (int j = 3; j <= 14; ++j) {
      for (const double side : {-1.0, 1.0}) {
        const double f = lines[0] + side * 2.0 * j * bin;
        const bool is_free = std::all_of(lines.begin() + 1, lines.end(), [&](double line) {
          return std::abs(line - f) > 3.0 * bin;
        });
        if (!is_free) {
          out.around.push_back(-1.0);
          continue;
        }
        Complex sum = 0.0;
        for (Eigen::Index i = 0; i < n; ++i)
          sum += w(i) * rest(i) * std::polar(1.0, -kTwoPi * f * static_cast<double>(i) / rate_hz_);
        out.around.push_back(std::norm(sum) / energy);
      }
    }
    return out;
  }

 private:
  /// Lines that stand out are where they are, not where they are expected: a carrier is rarely
  /// exactly at its nominal place.
  void refine(std::vector<double>& lines, double distance_hz) const {
    ToneFitOptions options;
    options.hann_weights = true;
    options.iterations = 6;
    const auto fitted = fit_tones(samples_, rate_hz_, lines, false, options);
    const double most =
        std::min(0.3 * distance_hz, rate_hz_ / static_cast<double>(samples_.size()));
    for (std::size_t k = 0; k < lines.size(); ++k) {
      const bool stands_out = std::abs(fitted[k].amplitude) > 6.0 * fitted[k].u_amplitude;
      if (stands_out && std::abs(fitted[k].frequency_hz - lines[k]) < most)
        lines[k] = fitted[k].frequency_hz;
    }
  }

  std::vector<Complex> samples_;
  double rate_hz_;
  std::vector<double> weights_;
};

/// Middle of the means that each offset has over all segments: a stray line does not lift it.
double noise_per_sample(const std::vector<SegmentPower>& segments, std::size_t& seen) {
  std::vector<double> means;
  for (std::size_t j = 0; j < segments.front().around.size(); ++j) {
    double sum = 0.0;
    double count = 0.0;
    for (const SegmentPower& s : segments) {
      if (s.around[j] < 0.0) continue;
      sum += s.around[j];
      count += 1.0;
    }
    if (count > 0.0) means.push_back(sum / count);
  }
  seen = means.size();
  if (means.empty()) return 0.0;
  return median_of(means) / median_over_mean(static_cast<double>(segments.size()));
}

}  // namespace

double seconds_to_part(double distance_hz) {
  return kLeastCycles / distance_hz;
}

std::optional<LinePower> measure_close_line(const CaptureOpener& open,
                                            const MovingFrequency& wanted,
                                            const std::vector<MovingFrequency>& others,
                                            double rbw_hz, const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  const double duration_s = info.duration_s();
  double distance = 0.25 * info.sample_rate_hz;
  for (double at = 0.0; at <= 1.0; at += 0.25) {
    for (const MovingFrequency& other : others)
      distance = std::min(distance, std::abs(other(at) - wanted(at)));
  }
  if (!(distance * duration_s >= kLeastCycles)) return std::nullopt;
  const double segment_s = std::min(duration_s, std::max(kWantedCycles / distance, 2.0 / rbw_hz));
  const double middle_hz = wanted(0.5);
  int halvings = 0;
  while (std::ldexp(info.sample_rate_hz, -(halvings + 1)) * kDecimatedBand >
         kBandSegments / segment_s + std::abs(wanted(0.0) - wanted(1.0)))
    ++halvings;
  const CaptureOpener low = decimated_capture(shifted_capture(open, middle_hz), halvings);
  const auto reader = low();
  const double rate = reader->info().sample_rate_hz;
  const auto frames = static_cast<std::size_t>(
      std::min<double>(segment_s * rate, static_cast<double>(reader->info().frames)));
  const auto room = static_cast<std::size_t>(reader->info().frames) - frames;
  const std::size_t count =
      std::min(kMostLineSegments, 2 * room / std::max<std::size_t>(frames, 1) + 1);
  std::vector<SegmentPower> segments;
  std::vector<float> raw(2 * frames);
  for (std::size_t s = 0; s < count; ++s) {
    if (stop.stop_requested()) throw Cancelled();
    const std::size_t first = count > 1 ? room * s / (count - 1) : 0;
    reader->seek(static_cast<std::int64_t>(first));
    if (reader->read(raw) < frames) break;
    std::vector<Complex> samples(frames);
    for (std::size_t i = 0; i < frames; ++i) samples[i] = Complex(raw[2 * i], raw[2 * i + 1]);
    const double at = (static_cast<double>(first) + 0.5 * static_cast<double>(frames)) /
                      static_cast<double>(reader->info().frames);
    std::vector<double> lines{wanted(at) - middle_hz};
    for (const MovingFrequency& other : others) {
      const double f = other(at) - middle_hz;
      if (std::abs(f) < 0.45 * rate) lines.push_back(f);
    }
    segments.push_back(Segment(std::move(samples), rate).measure(std::move(lines), distance));
  }
  if (segments.empty()) return std::nullopt;

  std::size_t offsets = 0;
  const double noise = noise_per_sample(segments, offsets);
  if (offsets == 0) return std::nullopt;
  double power = 0.0;
  double share = 0.0;
  for (const SegmentPower& s : segments) {
    power += s.line / static_cast<double>(segments.size());
    share += s.noise_share / static_cast<double>(segments.size());
  }
  // Half overlapped Hann segments are nearly independent: their correlation is one sixth.
  const double independent = static_cast<double>(segments.size()) / (1.0 + 2.0 / 36.0);
  const double under = noise * share;
  LinePower line;
  line.power = power - under;
  line.noise_rbw = noise / rate * rbw_hz;
  const double own =
      under * under * (1.0 + std::numbers::pi / 2.0 / static_cast<double>(offsets)) / independent;
  set_bound(line, under, [&](double p) {
    return std::sqrt(2.0 * std::max(p, 0.0) * under / independent + own);
  });
  return line;
}

}  // namespace heron

#include "core/method/two_tone/two_tone_spectrum.h"

#include <algorithm>
#include <cmath>

#include "core/signal/decimated_capture.h"

namespace heron {
namespace {

constexpr std::size_t kLongestSegment = 1U << 21U;
using PairHz = std::pair<double, double>;

/// Segment that gives the wished resolution, or as long as leaves eight or more overlapped
/// averages.
std::size_t segment_for(const CaptureInfo& info, double rbw_hz) {
  const double wanted = enbw_bins(WindowKind::blackman_harris_4) * info.sample_rate_hz / rbw_hz;
  std::size_t size = 256;
  while (static_cast<double>(size) < wanted && size < kLongestSegment) size *= 2;
  while (size > 256 && static_cast<double>(size) * 2.75 > static_cast<double>(info.frames))
    size /= 2;
  return size;
}

WelchSettings welch_settings(const TwoToneSettings& settings, std::size_t segment,
                             std::int64_t frames) {
  WelchSettings welch;
  welch.segment = segment;
  welch.threads = settings.threads;
  welch.slices = kMoments;
  // Planning thoroughly takes a second: worth it from some ten million samples on.
  welch.effort = frames > 12'000'000 ? PlanEffort::thorough : PlanEffort::quick;
  return welch;
}

std::optional<PairHz> frequencies(const std::optional<LinePair>& pair) {
  if (!pair) return std::nullopt;
  return PairHz{pair->first.frequency_hz, pair->second.frequency_hz};
}

/// The pair as a quick look at every second segment shows it; nullopt where that cannot part it.
std::optional<PairHz> rough_pair(const CaptureOpener& open, const TwoToneSettings& settings,
                                 const CaptureInfo& info, const Progress& progress,
                                 const std::stop_token& stop) {
  if (settings.tones_hz) {
    const auto [a, b] = *settings.tones_hz;
    return PairHz{std::min(a, b), std::max(a, b)};
  }
  WelchSettings rough = welch_settings(settings, segment_for(info, 60.0), info.frames);
  rough.is_sparse = true;
  const Spectrum spectrum = welch_spectrum(open, rough, progress, stop);
  const auto pair = frequencies(choose_tone_pair(spectrum, find_lines(spectrum)).pair);
  if (!pair || (pair->second - pair->first) / spectrum.bin_hz() < kSmallestSpacingBins)
    return std::nullopt;
  return pair;
}

/// How often the rate may be halved with all products, their images and the carrier still inside.
int halvings_for(PairHz pair, const TwoToneSettings& settings, const CaptureInfo& info) {
  const double spacing = pair.second - pair.first;
  const double beyond = (settings.highest_order - 1) / 2.0 * spacing;
  // Beside the outermost product there has to be noise to see.
  const double room = 100.0 * settings.target_rbw_hz + 0.1 * spacing;
  const double reach = std::max({std::abs(pair.first - beyond), std::abs(pair.second + beyond),
                                 std::abs(settings.carrier_hz)}) +
                       room;
  int halvings = 0;
  while (std::ldexp(info.sample_rate_hz, -(halvings + 1)) * kDecimatedBand > reach) ++halvings;
  return halvings;
}

}  // namespace

TwoToneSpectrum two_tone_spectrum(const CaptureOpener& open, const TwoToneSettings& settings,
                                  const Progress& progress, const std::stop_token& stop) {
  constexpr std::int64_t kManyFrames = 2'000'000;
  TwoToneSpectrum out;
  CaptureInfo info = open()->info();
  out.open = open;
  out.usable_hz = 0.48 * info.sample_rate_hz;
  double done = 0.0;
  if (info.is_complex && info.frames > kManyFrames) {
    const auto rough = rough_pair(open, settings, info, progress_between(progress, 0.0, 0.4), stop);
    const int halvings = rough ? halvings_for(*rough, settings, info) : 0;
    if (halvings > 0) {
      out.open = decimated_capture(open, halvings);
      info = out.open()->info();
      out.usable_hz = kDecimatedBand * info.sample_rate_hz;
    }
    done = 0.4;
  }
  std::size_t segment = segment_for(info, settings.target_rbw_hz);
  const auto look = [&] {
    out.spectrum = welch_spectrum(out.open, welch_settings(settings, segment, info.frames),
                                  progress_between(progress, done, 1.0), stop);
    out.lines = find_lines(out.spectrum);
    if (settings.tones_hz) {
      out.asked = find_asked_pair(out.lines, settings.tones_hz->first, settings.tones_hz->second,
                                  out.spectrum.bin_hz());
      out.pair_hz = frequencies(out.asked.pair);
      return;
    }
    PairChoice choice = choose_tone_pair(out.spectrum, out.lines);
    out.pair_hz = frequencies(choice.pair);
    out.rivals = std::move(choice.rivals);
  };
  look();
  // Tones close together need a finer resolution than was wished for, at the price of averages;
  // what looks like one tone in a coarse spectrum may be two.
  const auto is_coarse = [&] {
    if (out.pair_hz)
      return (out.pair_hz->second - out.pair_hz->first) / out.spectrum.bin_hz() <
             3.0 * kSmallestSpacingBins;
    return !out.lines.empty() && out.spectrum.bin_hz() > 8.0;
  };
  while (is_coarse() &&
         static_cast<double>(segment) * 2.0 * 1.5 <= static_cast<double>(info.frames) &&
         segment < kLongestSegment) {
    segment *= 2;
    look();
  }
  return out;
}

}  // namespace heron

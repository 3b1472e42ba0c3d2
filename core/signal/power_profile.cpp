#include "core/signal/power_profile.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>

#include "core/error.h"
#include "core/signal/on_threads.h"

namespace heron {
namespace {

constexpr double kShortestCellS = 0.005;
constexpr std::int64_t kMostProfileCells = 16384;
constexpr std::int64_t kFewestFrames = 32;
constexpr std::size_t kSumFrames = 32768;

struct Cell {
  double squares = 0.0;
  double i = 0.0;
  double q = 0.0;
  double frames = 0.0;
  float peak = 0.0F;
  std::int64_t clipped = 0;
  std::complex<double> mean() const { return {i / frames, q / frames}; }
  double variance() const { return std::max(0.0, squares / frames - std::norm(mean())); }
};

/// Sums over at most kSumFrames frames: short enough for single precision in eight
/// lanes.
void add(Cell& cell, std::span<const float> samples, bool is_complex, float clip_level) {
  constexpr std::size_t kLanes = 8;
  float squares[kLanes] = {};
  float sums[kLanes] = {};
  float peaks[kLanes] = {};
  std::size_t at = 0;
  for (; at + kLanes <= samples.size(); at += kLanes) {
    for (std::size_t lane = 0; lane < kLanes; ++lane) {
      const float v = samples[at + lane];
      squares[lane] += v * v;
      sums[lane] += v;
      peaks[lane] = std::max(peaks[lane], std::abs(v));
    }
  }
  // Even lanes hold I, odd ones Q.
  double even = 0.0;
  double odd = 0.0;
  for (std::size_t lane = 0; lane < kLanes; ++lane) {
    cell.squares += squares[lane];
    cell.peak = std::max(cell.peak, peaks[lane]);
    (lane % 2 == 0 ? even : odd) += sums[lane];
  }
  for (; at < samples.size(); ++at) {
    cell.squares += static_cast<double>(samples[at]) * samples[at];
    cell.peak = std::max(cell.peak, std::abs(samples[at]));
    (at % 2 == 0 ? even : odd) += samples[at];
  }
  cell.i += is_complex ? even : even + odd;
  cell.q += is_complex ? odd : 0.0;
  cell.frames += static_cast<double>(samples.size() / (is_complex ? 2 : 1));
  if (cell.peak >= clip_level)
    cell.clipped += std::count_if(samples.begin(), samples.end(),
                                  [&](float v) { return std::abs(v) >= clip_level; });
}

/// The constant that is there even when nothing else is: a recorder's offset, not a carrier that
/// comes and goes.
std::complex<double> offset_of(std::vector<Cell> cells) {
  const auto quiet = static_cast<std::ptrdiff_t>(cells.size() / 10);
  std::nth_element(
      cells.begin(), cells.begin() + quiet, cells.end(),
      [](const Cell& a, const Cell& b) { return a.squares / a.frames < b.squares / b.frames; });
  std::complex<double> sum = 0.0;
  for (auto c = cells.begin(); c <= cells.begin() + quiet; ++c) sum += c->mean();
  return sum / static_cast<double>(quiet + 1);
}

}  // namespace

PowerProfile power_profile(const CaptureOpener& open, unsigned threads, const Progress& progress,
                           const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  const std::int64_t cell_frames =
      std::max({static_cast<std::int64_t>(std::ceil(kShortestCellS * info.sample_rate_hz)),
                kFewestFrames, (info.frames + kMostProfileCells - 1) / kMostProfileCells});
  std::vector<Cell> cells(
      static_cast<std::size_t>(std::max<std::int64_t>(1, info.frames / cell_frames)));
  const float clip_level = info.clip_level();
  PowerProfile profile;
  profile.cell_frames = cell_frames;
  profile.cell_s = static_cast<double>(cell_frames) / info.sample_rate_hz;

  std::atomic<std::size_t> next{0};
  std::mutex mutex;
  const std::size_t part =
      std::max<std::size_t>(1, static_cast<std::size_t>((1 << 21) / cell_frames));
  const std::size_t parts = (cells.size() + part - 1) / part;
  on_threads(threads, parts, [&](const std::stop_token& failed) {
    const auto reader = open();
    const std::size_t floats = reader->floats_per_frame();
    std::vector<float> block(kSumFrames * floats);
    for (std::size_t at = next.fetch_add(part); at < cells.size(); at = next.fetch_add(part)) {
      if (stop.stop_requested() || failed.stop_requested()) throw Cancelled();
      reader->seek(static_cast<std::int64_t>(at) * cell_frames);
      for (std::size_t c = at; c < std::min(at + part, cells.size()); ++c) {
        auto left = static_cast<std::size_t>(
            c + 1 < cells.size() ? cell_frames
                                 : info.frames - static_cast<std::int64_t>(c) * cell_frames);
        while (left > 0) {
          const std::size_t got =
              reader->read(std::span(block).first(std::min(left, kSumFrames) * floats));
          if (got == 0)
            throw InputError(info.name, "near its end", "fewer samples came than the file promised",
                             "Copy the recording again from where it was made");
          add(cells[c], std::span(block).first(got * floats), info.is_complex, clip_level);
          left -= got;
        }
      }
      const std::scoped_lock lock(mutex);
      if (progress) progress(static_cast<double>(at) / static_cast<double>(cells.size()));
    }
  });

  const std::complex<double> offset = offset_of(cells);
  const double scale = info.is_complex ? 1.0 : 2.0;
  for (const Cell& c : cells) {
    profile.power.push_back(scale * (c.variance() + std::norm(c.mean() - offset)));
    profile.peak.push_back(c.peak);
    profile.clipped.push_back(c.clipped);
  }
  return profile;
}

}  // namespace heron

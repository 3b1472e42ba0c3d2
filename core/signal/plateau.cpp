#include "core/signal/plateau.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>
#include <utility>
#include <vector>

namespace heron {
namespace {

constexpr std::size_t kMostCells = 64;
constexpr std::size_t kMostLookedAt = 1U << 14U;
// From sharp to noisy plateaus, relative to the highest level.
constexpr std::array kRanges{1.0F / 8192.0F, 1.0F / 1024.0F, 1.0F / 128.0F, 1.0F / 64.0F};
constexpr std::int64_t kFewestPiled = 24;
// A sinusoid has 2.4 times as many samples in the uppermost range as in the one below it, however
// wide they are.
constexpr std::int64_t kMoreThanCrest = 6;

/// What stands in the uppermost range, and whether it is a plateau or a crest that repeats.
class Range {
 public:
  Range(float peak, float width) : peak_(peak), width_(width) {}

  /// One component of one cell: `stride` apart, `count` of them.
  void add(const float* x, std::size_t count, std::size_t stride) {
    const auto depth = [&](std::size_t i) { return peak_ - std::abs(x[i * stride]); };
    std::int64_t upper = 0;
    std::int64_t lower = 0;
    std::size_t longest = 0;
    std::vector<std::pair<std::size_t, std::size_t>> runs;  // first, end
    for (std::size_t i = 0; i < count; ++i) {
      if (depth(i) > width_) {
        lower += depth(i) <= 2.0F * width_ ? 1 : 0;
        continue;
      }
      ++upper;
      if (!runs.empty() && runs.back().second == i)
        runs.back().second = i + 1;
      else
        runs.emplace_back(i, i + 1);
      longest = std::max(longest, runs.back().second - runs.back().first);
    }
    // A carrier on the recorder's own centre stands still at one level: nothing is limited.
    if (2 * longest > count) return;
    upper_ += upper;
    lower_ += lower;
    for (const auto& [begin, end] : runs) {
      if (begin > 0 && end < count) look_at(depth(begin - 1), end - begin, depth(end));
    }
  }

  std::int64_t plateau() const {
    const bool is_piled = upper_ >= kFewestPiled && upper_ > kMoreThanCrest * lower_;
    return is_piled && (corners_ >= 8 || surroundings_.size() >= 12) ? upper_ : 0;
  }

 private:
  /// A run of samples within the range, and how far those beside it are below.
  void look_at(float before, std::size_t run, float after) {
    // A crest that is as wide as this run goes on falling like a parabola. Two samples may stand
    // on either side of any crest.
    if (run >= 3) {
      const auto half = static_cast<float>(run - 1) / 2.0F;
      const float crest = width_ * (half + 1.0F) * (half + 1.0F) / (half * half - 0.25F);
      corners_ += before + after > 3.0F * crest ? 1 : 0;
    }
    // A period that is a whole number of samples shows the same few again and again.
    if (surroundings_.size() < 64)
      surroundings_.emplace(std::lround(before / (4.0F * width_)),
                            std::lround(after / (4.0F * width_)));
  }

  float peak_;
  float width_;
  std::int64_t upper_ = 0;
  std::int64_t lower_ = 0;
  int corners_ = 0;
  std::set<std::pair<long, long>> surroundings_;
};

}  // namespace

std::int64_t samples_at_plateau(const CaptureOpener& open, const PowerProfile& profile,
                                std::size_t first, std::size_t last, float peak) {
  const auto reader = open();
  const CaptureInfo& info = reader->info();
  const float step = info.is_float ? 0.0F : std::ldexp(1.0F, 1 - std::min(info.bits, 24));
  if (!(peak > 0.0F) || peak < 16.0F * step) return 0;
  std::vector<Range> ranges;
  for (const float r : kRanges) ranges.emplace_back(peak, std::max(r * peak, 1.5F * step));
  std::vector<std::size_t> high;
  for (std::size_t i = first; i < std::min(last, profile.peak.size()); ++i) {
    if (profile.peak[i] >= peak * (1.0F - 2.0F * kRanges.back())) high.push_back(i);
  }
  const std::size_t floats = reader->floats_per_frame();
  // Of a long cell the beginning will do.
  const std::size_t frames = std::min(static_cast<std::size_t>(profile.cell_frames), kMostLookedAt);
  std::vector<float> block(frames * floats);
  const std::size_t looked_at = std::min(kMostCells, high.size());
  for (std::size_t k = 0; k < looked_at; ++k) {
    reader->seek(static_cast<std::int64_t>(high[k * high.size() / looked_at]) *
                 profile.cell_frames);
    const std::size_t got = reader->read(block);
    for (Range& range : ranges) {
      for (std::size_t c = 0; c < floats; ++c) range.add(block.data() + c, got, floats);
    }
  }
  std::int64_t most = 0;
  for (const Range& range : ranges) most = std::max(most, range.plateau());
  return most;
}

}  // namespace heron

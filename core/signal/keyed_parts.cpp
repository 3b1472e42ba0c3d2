#include "core/signal/keyed_parts.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/signal/capture_range.h"
#include "core/signal/level_steps.h"
#include "core/signal/part_spectrum.h"
#include "core/signal/plateau.h"
#include "core/signal/power_profile.h"

namespace heron {
namespace {

constexpr double kShortestPartS = 0.1;
constexpr std::size_t kMostExamined = 24;
constexpr std::size_t kTransforms = 16;
constexpr double kToneShare = 0.5;      // more of the power in lines: the level shows keying
constexpr double kStandsOut = 10.0;     // 10 dB
constexpr double kLeast = 1e-3;         // 30 dB below the loudest: what leaks, not what is sent
constexpr double kWidebandLeast = 0.5;  // without lines only the level tells: 3 dB

double db(double power) {
  return db_from_power_ratio(std::max(power, 1e-20));
}

/// A stretch under consideration, in frames.
struct Candidate {
  LevelStretch cells;
  std::int64_t first = 0;
  std::int64_t frames = 0;
  std::optional<PartSpectrum> spectrum;
  bool is_keyed = false;
  bool may_be_measured = false;
};

class Finder {
 public:
  Finder(const CaptureOpener& open, unsigned threads, const Progress& progress,
         const std::stop_token& stop)
      : open_(open), info_(open()->info()), threads_(threads), stop_(stop) {
    profile_ = power_profile(open, threads, progress, stop);
    const std::vector<double>& fine = profile_.power;
    const std::size_t joined = cells_to_join(fine, profile_.cell_s);
    cell_s_ = profile_.cell_s * static_cast<double>(joined);
    for (std::size_t i = 0; i < fine.size(); i += joined) {
      const auto begin = fine.begin() + static_cast<std::ptrdiff_t>(i);
      const auto end =
          fine.begin() + static_cast<std::ptrdiff_t>(std::min(i + joined, fine.size()));
      power_.push_back(std::accumulate(begin, end, 0.0) / static_cast<double>(end - begin));
    }
  }

  KeyedParts run(const std::optional<TimeSpan>& chosen) {
    KeyedParts parts = find();
    if (chosen) use(parts, *chosen);
    const auto [from, to] = cells_of(parts.measured);
    set_drift(parts, from, to);
    // A cell that is only partly inside counts whole: better one clipped sample too many.
    const auto first = static_cast<std::size_t>(parts.measured.start_s / profile_.cell_s + 1e-6);
    const double last = parts.measured.end_s() / profile_.cell_s - 1e-6;
    for (std::size_t i = first; i < profile_.peak.size() && static_cast<double>(i) < last; ++i) {
      parts.peak = std::max(parts.peak, profile_.peak[i]);
      parts.clipped_samples += profile_.clipped[i];
    }
    if (parts.clipped_samples == 0)
      parts.clipped_samples = samples_at_plateau(
          open_, profile_, first, static_cast<std::size_t>(std::ceil(last)), parts.peak);
    return parts;
  }

 private:
  struct Weak {
    std::vector<KeyedStretch> keyed;
    std::size_t chosen = 0;
    TimeSpan measured;
  };

  void use(KeyedParts& parts, const TimeSpan& chosen) const {
    const double start = std::max(0.0, chosen.start_s);
    const double end =
        chosen.length_s > 0.0 ? std::min(parts.duration_s, chosen.end_s()) : parts.duration_s;
    if (!std::isfinite(start) || !(end > start)) {
      throw InputError(info_.name, fmt::format("start {:g} s", chosen.start_s),
                       fmt::format("the recording is {:.3g} s long", parts.duration_s),
                       "Choose an earlier start");
    }
    parts.measured = {start, end - start};
    parts.is_chosen = true;
    parts.chosen_stretch.reset();
    parts.settling_s = 0.0;
    parts.settling_db = 0.0;
  }

  KeyedParts find() {
    KeyedParts parts;
    parts.duration_s = info_.duration_s();
    parts.measured = {0.0, parts.duration_s};
    set_band(parts);
    pick_candidates(level_stretches(power_));
    if (candidates_.empty()) return parts;
    examine();
    if (const auto weak = weak_inside()) {
      parts.keyed = weak->keyed;
      parts.chosen_stretch = weak->chosen;
      parts.measured = weak->measured;
      return parts;
    }
    for (const Candidate& c : candidates_) {
      if (c.is_keyed) parts.keyed.push_back(stretch_of(c));
    }
    const Candidate* best = best_candidate();
    if (best == nullptr) return parts;
    const auto same = std::find_if(parts.keyed.begin(), parts.keyed.end(), [&](const auto& k) {
      return k.start_s == stretch_of(*best).start_s;
    });
    parts.chosen_stretch = static_cast<std::size_t>(same - parts.keyed.begin());
    parts.measured = inside(*best);
    leave_out_settling(parts);
    return parts;
  }

  void set_band(KeyedParts& parts) const {
    constexpr std::size_t kMost = 1000;
    const std::size_t group = (power_.size() + kMost - 1) / kMost;
    parts.cell_s = cell_s_ * static_cast<double>(group);
    for (std::size_t i = 0; i < power_.size(); i += group) {
      const auto end =
          power_.begin() + static_cast<std::ptrdiff_t>(std::min(i + group, power_.size()));
      const auto begin = power_.begin() + static_cast<std::ptrdiff_t>(i);
      parts.level_dbfs.push_back(static_cast<float>(
          db(std::accumulate(begin, end, 0.0) / static_cast<double>(end - begin))));
    }
  }

  double start_s(const Candidate& c) const { return static_cast<double>(c.cells.first) * cell_s_; }
  double end_s(const Candidate& c) const {
    const std::size_t end = c.cells.first + c.cells.count;
    return end >= power_.size() ? info_.duration_s() : static_cast<double>(end) * cell_s_;
  }

  KeyedStretch stretch_of(const Candidate& c) const {
    return {{start_s(c), end_s(c) - start_s(c)}, db(c.cells.power)};
  }

  /// Long enough to say something, the longest ones if there are very many.
  void pick_candidates(const std::vector<LevelStretch>& stretches) {
    std::size_t longest = 0;
    for (const LevelStretch& s : stretches) longest = std::max(longest, s.count);
    const double least_s = std::min(kShortestPartS, 0.5 * static_cast<double>(longest) * cell_s_);
    std::vector<LevelStretch> kept;
    for (const LevelStretch& s : stretches) {
      if (static_cast<double>(s.count) * cell_s_ >= least_s) kept.push_back(s);
    }
    std::sort(kept.begin(), kept.end(),
              [](const LevelStretch& a, const LevelStretch& b) { return a.count > b.count; });
    // A short loud one among many long quiet ones must not be overlooked.
    if (kept.size() > kMostExamined) {
      std::sort(kept.begin() + kMostExamined / 2, kept.end(),
                [](const LevelStretch& a, const LevelStretch& b) { return a.power > b.power; });
      kept.resize(kMostExamined);
    }
    std::sort(kept.begin(), kept.end(),
              [](const LevelStretch& a, const LevelStretch& b) { return a.first < b.first; });
    for (const LevelStretch& s : kept) {
      Candidate c;
      c.cells = s;
      c.first = frame_at(start_s(c));
      c.frames = frame_at(end_s(c)) - c.first;
      if (c.frames >= 256) candidates_.push_back(std::move(c));
    }
  }

  std::int64_t frame_at(double seconds) const {
    return std::min(info_.frames,
                    static_cast<std::int64_t>(std::llround(seconds * info_.sample_rate_hz)));
  }

  void examine() {
    std::int64_t shortest = info_.frames;
    for (const Candidate& c : candidates_) shortest = std::min(shortest, c.frames);
    size_ = part_transform_size(info_, shortest);
    for (Candidate& c : candidates_)
      c.spectrum.emplace(open_, c.first, c.frames, size_, kTransforms, stop_);
    const Candidate* reference = nullptr;
    const Candidate* quietest = &candidates_.front();
    const Candidate* loudest = quietest;
    double most = 0.0;
    for (const Candidate& c : candidates_) {
      if (c.cells.power < quietest->cells.power) quietest = &c;
      if (c.cells.power > loudest->cells.power) loudest = &c;
      const auto lines = c.spectrum->lines();
      if (c.spectrum->share_of(lines) < kToneShare) continue;
      if (c.spectrum->power_in(lines) > most) {
        most = c.spectrum->power_in(lines);
        reference = &c;
      }
    }
    if (reference == nullptr) {
      for (Candidate& c : candidates_) {
        c.is_keyed = c.cells.power >= kWidebandLeast * loudest->cells.power;
        c.may_be_measured = c.is_keyed;
      }
      return;
    }
    // Stations and hum are there all the time; what comes and goes is the device.
    const std::vector<std::size_t> all = reference->spectrum->lines();
    std::vector<std::size_t> bins;
    for (const std::size_t k : all) {
      if (reference->spectrum->power()[k] > 4.0 * quietest->spectrum->power()[k]) bins.push_back(k);
    }
    if (bins.empty()) bins = all;
    const double loud = reference->spectrum->power_in(bins);
    for (Candidate& c : candidates_) {
      c.is_keyed =
          c.spectrum->contrast_of(bins) > kStandsOut && c.spectrum->power_in(bins) > kLeast * loud;
      c.may_be_measured = c.is_keyed;
    }
  }

  /// The longest, unless another one of nearly its length is clearly steadier; the first of equals.
  const Candidate* best_candidate() const {
    std::size_t longest = 0;
    for (const Candidate& c : candidates_) {
      if (c.may_be_measured) longest = std::max(longest, c.cells.count);
    }
    const Candidate* best = nullptr;
    for (const Candidate& c : candidates_) {
      if (!c.may_be_measured ||
          static_cast<double>(c.cells.count) < 0.7 * static_cast<double>(longest))
        continue;
      const bool is_long = static_cast<double>(c.cells.count) > 0.9 * static_cast<double>(longest);
      if (best == nullptr) {
        best = &c;
        continue;
      }
      const double mine = std::max(c.cells.scatter_db, 0.05);
      const double its = std::max(best->cells.scatter_db, 0.05);
      const bool its_long =
          static_cast<double>(best->cells.count) > 0.9 * static_cast<double>(longest);
      if (2.0 * mine < its || (is_long && !its_long && mine < 2.0 * its)) best = &c;
    }
    return best;
  }

  /// Where a fine look at an edge says that the level is reached (or left).
  double refined(const Candidate& c, double edge_s, bool is_start) const {
    constexpr double kFineS = 0.02;
    if (cell_s_ <= kFineS) return is_start ? edge_s + cell_s_ : edge_s - cell_s_;
    const double from = std::max(0.0, edge_s - 1.5 * cell_s_);
    const double length = std::min(info_.duration_s() - from, 3.0 * cell_s_);
    const PowerProfile fine =
        power_profile(capture_range(open_, from, length), threads_, {}, stop_);
    const double enough = 0.8 * c.cells.power;
    const auto n = static_cast<std::ptrdiff_t>(fine.power.size());
    std::ptrdiff_t at = is_start ? n - 1 : 0;
    while (at >= 0 && at < n && fine.power[static_cast<std::size_t>(at)] >= enough)
      at += is_start ? -1 : 1;
    const double reached = from + fine.cell_s * static_cast<double>(is_start ? at + 2 : at - 1);
    return is_start ? std::clamp(reached, from, edge_s + cell_s_)
                    : std::clamp(reached, edge_s - cell_s_, from + length);
  }

  TimeSpan inside(const Candidate& c) const {
    const double begin = c.cells.first == 0 ? 0.0 : refined(c, start_s(c), true);
    const double end = c.cells.first + c.cells.count >= power_.size() ? info_.duration_s()
                                                                      : refined(c, end_s(c), false);
    if (end - begin < 0.5 * (end_s(c) - start_s(c))) return stretch_of(c);
    return {begin, end - begin};
  }

  /// Mean level of cells, dB.
  double mean_db(std::size_t from, std::size_t to) const {
    double sum = 0.0;
    for (std::size_t i = from; i < to; ++i) sum += db(power_[i]);
    return sum / static_cast<double>(to - from);
  }

  std::pair<std::size_t, std::size_t> cells_of(const TimeSpan& span) const {
    const auto from = static_cast<std::size_t>(std::ceil(span.start_s / cell_s_ - 1e-6));
    const auto to = std::min(power_.size(),
                             static_cast<std::size_t>(std::floor(span.end_s() / cell_s_ + 1e-6)));
    return {std::min(from, to), to};
  }

  void leave_out_settling(KeyedParts& parts) const {
    const auto [from, to] = cells_of(parts.measured);
    // A tenth of a second, less in a short part.
    const auto width = std::max<std::size_t>(
        3, std::min(static_cast<std::size_t>(0.1 / cell_s_), (to - from) / 10));
    if (to - from < 8 * width) return;
    std::vector<double> levels;
    for (std::size_t i = from; i < to; ++i) levels.push_back(db(power_[i]));
    const double scatter = neighbour_scatter(levels);
    const auto bend_at = [&](std::size_t i) {
      return std::abs(mean_db(i, i + width) - mean_db(i + width, i + 3 * width));
    };
    // What it does later too is no settling.
    double usual = 0.0;
    for (std::size_t i = (from + to) / 2; i + 3 * width < to; i += width)
      usual = std::max(usual, bend_at(i));
    const double allowed =
        std::max({0.1, 5.0 * scatter * std::sqrt(1.5 / static_cast<double>(width)), 1.5 * usual});
    std::size_t at = from;
    while (at + 3 * width < (from + to) / 2 && bend_at(at) > allowed)
      at += std::max<std::size_t>(1, width / 4);
    if (at == from) return;
    const double settled_s = static_cast<double>(at) * cell_s_;
    parts.settling_db = mean_db(from, std::min(at, from + width)) - mean_db(at, to);
    parts.settling_s = settled_s - parts.measured.start_s;
    parts.measured = {settled_s, parts.measured.end_s() - settled_s};
  }

  void set_drift(KeyedParts& parts, std::size_t from, std::size_t to) const {
    const std::size_t tenth = (to - from) / 10;
    if (tenth < 2) return;
    parts.drift_db = mean_db(to - tenth, to) - mean_db(from, from + tenth);
  }

  /// Lines far below the noise of the whole band do not show in its power: they are followed by
  /// themselves where the level tells nothing.
  std::optional<Weak> weak_inside() const {
    const Candidate* longest = &candidates_.front();
    for (const Candidate& c : candidates_) {
      if (c.cells.count > longest->cells.count) longest = &c;
      if (c.spectrum->share_of(c.spectrum->lines()) >= kToneShare) return std::nullopt;
    }
    const auto bins = longest->spectrum->lines();
    if (bins.empty() || longest->spectrum->contrast_of(bins) < kStandsOut || bins.size() > 64)
      return std::nullopt;
    constexpr std::size_t kSlices = 96;
    if (static_cast<std::int64_t>(kSlices * size_) > longest->frames) return std::nullopt;
    const std::vector<double> series =
        power_in_bins(open_, longest->first, longest->frames, size_, bins, kSlices, stop_);
    const std::vector<LevelStretch> stretches = level_stretches(series);
    if (stretches.size() < 2) return std::nullopt;
    const double slice_s =
        static_cast<double>(longest->frames) / info_.sample_rate_hz / static_cast<double>(kSlices);
    double loudest = 0.0;
    for (const LevelStretch& s : stretches) {
      if (s.count >= 3) loudest = std::max(loudest, s.power);
    }
    Weak weak;
    std::size_t most = 0;
    for (const LevelStretch& s : stretches) {
      if (s.count < 3 || s.power < 0.25 * loudest) continue;
      const double start = start_s(*longest) + slice_s * static_cast<double>(s.first);
      weak.keyed.push_back(
          {{start, slice_s * static_cast<double>(s.count)}, db(longest->cells.power)});
      if (s.count <= most) continue;
      most = s.count;
      weak.chosen = weak.keyed.size() - 1;
      const bool at_start = s.first == 0;
      const bool at_end = s.first + s.count == kSlices;
      weak.measured.start_s = at_start ? start_s(*longest) : start + slice_s;
      weak.measured.length_s =
          (at_end ? end_s(*longest) : start + slice_s * static_cast<double>(s.count - 1)) -
          weak.measured.start_s;
    }
    if (weak.keyed.empty()) return std::nullopt;
    return weak;
  }

  const CaptureOpener& open_;
  CaptureInfo info_;
  unsigned threads_;
  std::stop_token stop_;
  PowerProfile profile_;
  double cell_s_ = 0.0;  ///< of power_, which joins some of the profile's
  std::vector<double> power_;
  std::size_t size_ = 0;
  std::vector<Candidate> candidates_;
};

}  // namespace

bool KeyedParts::is_at_full_scale() const {
  return peak > 0.0F && db_from_voltage_ratio(peak) > kFullScaleDbfs;
}

KeyedParts find_keyed_parts(const CaptureOpener& open, const std::optional<TimeSpan>& chosen,
                            unsigned threads, const Progress& progress,
                            const std::stop_token& stop) {
  return Finder(open, threads, progress, stop).run(chosen);
}

}  // namespace heron

#include "core/method/touch/touch.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/quantity/levels.h"
#include "core/signal/averaging.h"
#include "core/signal/median.h"
#include "core/signal/noise_quantile.h"

namespace heron {
namespace {

constexpr std::size_t kLeastTouchFrames = 2;
constexpr double kLeastReferenceS = 1.0;
constexpr double kFalseLines = 0.01;  ///< in all that is looked at during an event
constexpr std::size_t kAround = 24;   ///< bins to each side that tell the noise
constexpr std::size_t kLeastAround = 5;
constexpr double kSameBins = 1.6;   ///< nearer to each other than this two lines are one
constexpr double kTapFallDb = 3.0;  ///< between two taps it falls at least by this

/// What stands in an event, bin by bin.
struct Seen {
  std::vector<double> mean;                 ///< power
  std::vector<double> noise;                ///< its own, of the mean
  std::vector<std::vector<double>> frames;  ///< that are known
  double spectra = 1.0;                     ///< independent ones in the mean
};

class TouchFinder {
 public:
  TouchFinder(const TouchRecord& record, const TouchPlan& plan, std::optional<double> limit_db)
      : record_(record), plan_(plan), band_(record.band_for(plan.span_hz)), limit_db_(limit_db) {
    bins_ = 1 + static_cast<std::size_t>(
                    std::min(plan.span_hz / band_.bin_hz, static_cast<double>(band_.side)));
    // Between the carrier's own skirt and the first bin that counts.
    first_ = std::max<std::size_t>(
        lobe() + 2, static_cast<std::size_t>(std::ceil(plan.least_hz / band_.bin_hz)));
  }

  TouchTest test() const {
    TouchTest t;
    bool has_reference = false;
    for (const TouchEvent& e : plan_.events) {
      const auto [from, to] = record_.frames_in(e.from_s, e.to_s);
      if (to - from < least_frames()) {
        t.left_out.push_back(e);
        continue;
      }
      TouchReading r;
      r.event = e;
      r.from = from;
      r.to = to;
      r.is_reference = !has_reference && e.is_hands_off();
      has_reference = has_reference || r.is_reference;
      t.readings.push_back(std::move(r));
    }
    if (!has_reference)
      if (auto quiet = hands_off()) t.readings.push_back(std::move(*quiet));
    std::stable_sort(t.readings.begin(), t.readings.end(),
                     [](const auto& a, const auto& b) { return a.from < b.from; });
    for (std::size_t i = 0; i < t.readings.size(); ++i)
      if (t.readings[i].is_reference) t.reference = i;
    std::optional<Seen> quiet;
    if (t.reference) {
      TouchReading& r = t.readings[*t.reference];
      quiet = see(r);
      find_lines(r, *quiet, nullptr);
      choose(r);
    }
    for (TouchReading& r : t.readings) {
      if (r.is_reference) continue;
      const Seen seen = see(r);
      find_lines(r, seen, quiet ? &*quiet : nullptr);
      choose(r);
      if (r.event.is_tap()) count_taps(r, seen);
      if (quiet) compare_noise(r, seen, *quiet);
    }
    return t;
  }

 private:
  /// A trace is one only.
  std::size_t least_frames() const { return std::min(kLeastTouchFrames, record_.frames); }
  /// Bins to each side that a line fills.
  std::size_t lobe() const {
    return static_cast<std::size_t>(std::max(1.0, std::ceil(1.3 * ratio() - 0.35)));
  }
  double ratio() const { return band_.rbw_hz / band_.bin_hz; }

  /// Before the first event; else the longest time between events, or all of it.
  std::optional<TouchReading> hands_off() const {
    std::vector<std::pair<double, double>> gaps;
    double last = 0.0;
    for (const TouchEvent& e : plan_.events) {
      if (e.from_s > last) gaps.emplace_back(last, e.from_s);
      last = std::max(last, e.to_s);
    }
    if (record_.length_s > last) gaps.emplace_back(last, record_.length_s);
    const std::pair<double, double>* best = nullptr;
    for (const auto& gap : gaps) {
      if (gap.second - gap.first < kLeastReferenceS) continue;
      if (best == nullptr ||
          (best->first > 0.0 && gap.second - gap.first > best->second - best->first))
        best = &gap;
    }
    if (best == nullptr) return std::nullopt;
    TouchReading r;
    r.event = {best->first, best->second, record_.frames == 1 ? record_.name : "hands off"};
    std::tie(r.from, r.to) = record_.frames_in(best->first, best->second);
    r.is_reference = true;
    return r.to - r.from < least_frames() ? std::nullopt : std::optional(r);
  }

  Seen see(const TouchReading& r) const {
    Seen s;
    s.mean.assign(bins_, 0.0);
    for (std::size_t f = r.from; f < r.to; ++f) {
      std::vector<double> one = one_sided(band_, f, bins_);
      if (one.empty()) continue;
      for (std::size_t k = 0; k < bins_; ++k) s.mean[k] += one[k];
      s.frames.push_back(std::move(one));
    }
    const double n = std::max(1.0, static_cast<double>(s.frames.size()));
    for (double& p : s.mean) p /= n;
    // What both sidebands show of phase noise is the same noise: they count once.
    s.spectra = n * record_.spectra;
    s.noise = noise_of(s.mean, s.spectra);
    return s;
  }

  /// The middle of what is round each bin, lines left out.
  std::vector<double> noise_of(const std::vector<double>& power, double spectra) const {
    std::vector<double> noise(bins_, 0.0);
    std::vector<double> round;
    const double to_mean = 1.0 / median_over_mean(spectra);
    const std::size_t least = lobe() + 2;  // below is the carrier itself
    for (std::size_t k = first_; k < bins_; ++k) {
      round.clear();
      // As many to each side: then the middle of a slope is its middle.
      const std::size_t reach = std::min(kAround, k - std::min(k, least));
      for (std::size_t i = k - reach; i < std::min(bins_, k + reach + 1); ++i)
        if (i + lobe() < k || i > k + lobe()) round.push_back(power[i]);
      if (!round.empty()) noise[k] = to_mean * median_of(round);
    }
    return noise;
  }

  double threshold(double spectra, double looks) const {
    const double bins =
        static_cast<double>(std::max<std::size_t>(1, bins_ - std::min(first_, bins_)));
    return noise_quantile(spectra, 1.0 - kFalseLines / (bins * std::max(1.0, looks)));
  }

  /// Power of a line whose peak is in that bin, over the noise there.
  double line_power(const std::vector<double>& power, double noise, std::size_t k) const {
    double sum = 0.0;
    const std::size_t to = std::min(bins_ - 1, k + lobe());
    for (std::size_t i = k - lobe(); i <= to; ++i) sum += power[i] - noise;
    return sum / ratio();
  }

  double place_hz(const std::vector<double>& power, double noise, std::size_t k) const {
    double sum = 0.0;
    double moment = 0.0;
    for (std::size_t i = k - lobe(); i <= std::min(bins_ - 1, k + lobe()); ++i) {
      const double over = std::max(0.0, power[i] - noise);
      sum += over;
      moment += over * static_cast<double>(i);
    }
    return band_.bin_hz * (sum > 0.0 ? moment / sum : static_cast<double>(k));
  }

  Figure level_figure(double power, double noise, double spectra) const {
    Figure f;
    f.id = "line";
    f.label = "Line";
    f.unit = "dB";
    f.convention = "re carrier";
    f.value = db_from_power_ratio(power);
    const double over = power / std::max(noise, 1e-300);
    constexpr double kDbPerPart = 4.343;
    f.contributions = {
        {"recorder, line against carrier", plan_.scale_db, Scope::common},
        {"repeatability", plan_.repeats_db, Scope::independent},
        {"noise beside it", kDbPerPart * std::sqrt((2.0 * over + 1.0) / spectra) / over,
         Scope::independent}};
    return f;
  }

  /// What a line would have to be to be seen there.
  Figure bound_figure(const Seen& s, std::size_t k) const {
    Figure f = level_figure(s.noise[k] * threshold(s.spectra, 1.0), s.noise[k], s.spectra);
    f.contributions.pop_back();  // the bound holds the noise already
    f.bound = Bound::upper;
    return f;
  }

  bool is_peak(const std::vector<double>& power, std::size_t k) const {
    return power[k] >= power[k - 1] && (k + 1 == bins_ || power[k] >= power[k + 1]);
  }

  /// A line there, if it stands out of the mean.
  std::optional<Figure> mean_line(const Seen& s, double offset_hz) const {
    const double at = offset_hz / band_.bin_hz;
    const double over = threshold(s.spectra, 1.0);
    for (std::size_t k = first_; k < bins_; ++k) {
      if (std::abs(static_cast<double>(k) - at) > kSameBins || !is_peak(s.mean, k)) continue;
      const double power = line_power(s.mean, s.noise[k], k);
      if (s.mean[k] > over * s.noise[k] && power > 0.0)
        return level_figure(power, s.noise[k], s.spectra);
    }
    return std::nullopt;
  }

  std::size_t bin_at(double offset_hz) const {
    const auto k = static_cast<std::size_t>(std::max(0.0, std::round(offset_hz / band_.bin_hz)));
    return std::clamp(k, std::min(first_, bins_ - 1), bins_ - 1);
  }

  void find_lines(TouchReading& r, const Seen& seen, const Seen* quiet) const {
    if (seen.frames.empty() || first_ + 1 >= bins_) return;
    if (r.event.is_tap())
      find_in_frames(r, seen);
    else
      find_in_mean(r, seen);
    if (quiet == nullptr) return;
    // What hands off shows and this does not is a line that went away.
    for (std::size_t k = first_; k < bins_; ++k) {
      const double hz = band_.bin_hz * static_cast<double>(k);
      if (!is_peak(quiet->mean, k) || !mean_line(*quiet, hz)) continue;
      const double at = place_hz(quiet->mean, quiet->noise[k], k);
      if (std::any_of(r.lines.begin(), r.lines.end(), [&](const TouchLine& l) {
            return std::abs(l.offset_hz - at) <= kSameBins * band_.bin_hz;
          }))
        continue;
      if (!(quiet->mean[k] > threshold(quiet->spectra, 1.0) * quiet->noise[k])) continue;
      // In the mean it may still be seen where no single frame shows it.
      const auto still = mean_line(seen, at);
      r.lines.push_back({at, still ? *still : bound_figure(seen, k), std::nullopt});
    }
    for (TouchLine& l : r.lines) {
      const auto before = mean_line(*quiet, l.offset_hz);
      l.against = difference(l.level, before ? *before : bound_figure(*quiet, bin_at(l.offset_hz)));
    }
    sort_lines(r);
  }

  static void sort_lines(TouchReading& r) {
    std::stable_sort(r.lines.begin(), r.lines.end(), [](const TouchLine& a, const TouchLine& b) {
      if ((a.level.bound == Bound::none) != (b.level.bound == Bound::none))
        return a.level.bound == Bound::none;
      return a.level.value > b.level.value;
    });
  }

  void find_in_mean(TouchReading& r, const Seen& s) const {
    const double over = threshold(s.spectra, 1.0);
    for (std::size_t k = first_; k < bins_; ++k) {
      if (!is_peak(s.mean, k) || !(s.mean[k] > over * s.noise[k])) continue;
      const double power = line_power(s.mean, s.noise[k], k);
      if (power > 0.0)
        r.lines.push_back({place_hz(s.mean, s.noise[k], k),
                           level_figure(power, s.noise[k], s.spectra), std::nullopt});
    }
    sort_lines(r);
  }

  /// Of what is short: in the frame in which each line is highest.
  void find_in_frames(TouchReading& r, const Seen& s) const {
    const double over = threshold(record_.spectra, static_cast<double>(s.frames.size()));
    std::vector<double> hold(bins_, 0.0);
    for (const auto& frame : s.frames)
      for (std::size_t k = 0; k < bins_; ++k) hold[k] = std::max(hold[k], frame[k]);
    for (std::size_t k = first_; k < bins_; ++k) {
      if (!is_peak(hold, k) || !(hold[k] > over * s.noise[k])) continue;
      double most = 0.0;
      const std::vector<double>* at = nullptr;
      for (const auto& frame : s.frames) {
        const double power = line_power(frame, s.noise[k], k);
        if (power > most) {
          most = power;
          at = &frame;
        }
      }
      if (at == nullptr) continue;
      r.lines.push_back({place_hz(*at, s.noise[k], k),
                         level_figure(most, s.noise[k], record_.spectra), std::nullopt});
    }
    sort_lines(r);
  }

  /// The highest where it is too high or nothing has changed; else the highest that has.
  void choose(TouchReading& r) const {
    r.shown = 0;
    if (r.lines.empty() || r.is_reference) return;
    const Figure& highest = r.lines.front().level;
    if (highest.bound == Bound::none && limit_db_ && highest.value > *limit_db_) return;
    for (std::size_t i = 0; i < r.lines.size(); ++i) {
      if (!r.lines[i].is_changed()) continue;
      r.shown = i;
      return;
    }
  }

  /// The highest of each run of frames above the middle between all of them and the noise.
  void count_taps(TouchReading& r, const Seen& s) const {
    const TouchLine* line = r.line();
    if (line == nullptr || line->level.bound != Bound::none) return;
    const std::size_t k = bin_at(line->offset_hz);
    std::vector<double> level;
    for (const auto& frame : s.frames)
      level.push_back(
          db_from_power_ratio(std::max(line_power(frame, s.noise[k], k), s.noise[k] / ratio())));
    double valley = std::numeric_limits<double>::infinity();
    double peak = -valley;
    bool is_falling = false;
    const double least =
        db_from_power_ratio(s.noise[k] / ratio() * threshold(record_.spectra, 1.0));
    for (const double db : level) {
      if (is_falling) {
        valley = std::min(valley, db);
        if (db < valley + kTapFallDb) continue;
        is_falling = false;
        peak = db;
      }
      if (db >= peak) {
        peak = db;
      } else if (db < peak - kTapFallDb) {
        if (peak > least) r.taps_db.push_back(peak);
        is_falling = true;
        valley = db;
      }
    }
    if (!is_falling && peak > least) r.taps_db.push_back(peak);
  }

  /// Over the outer half of the span, where no carrier is near; middles do not mind lines.
  void compare_noise(TouchReading& r, const Seen& s, const Seen& quiet) const {
    std::vector<double> change;
    for (std::size_t k = std::max(first_, bins_ / 2); k < bins_; ++k)
      if (s.mean[k] > 0.0 && quiet.mean[k] > 0.0)
        change.push_back(db_from_power_ratio(s.mean[k] / quiet.mean[k]));
    if (change.empty()) return;
    const double bins = static_cast<double>(change.size());
    r.noise_db = median_of(change);
    constexpr double kDbPerPart = 4.343;
    constexpr double kMedian = 1.25;
    r.u_noise_db =
        kMedian * kDbPerPart * std::sqrt((1.0 / s.spectra + 1.0 / quiet.spectra) / bins * ratio());
  }

  const TouchRecord& record_;
  const TouchPlan& plan_;
  const TouchBand& band_;
  std::optional<double> limit_db_;
  std::size_t bins_ = 0;
  std::size_t first_ = 0;
};

}  // namespace

TouchTest touch_test(const TouchRecord& record, const TouchPlan& plan,
                     std::optional<double> limit_db) {
  return TouchFinder(record, plan, limit_db).test();
}

std::vector<double> one_sided(const TouchBand& band, std::size_t frame, std::size_t bins) {
  std::vector<double> power(bins);
  for (std::size_t k = 0; k < bins; ++k) {
    const int bin = static_cast<int>(k);
    const auto up = static_cast<double>(band.at(frame, bin));
    const auto down = static_cast<double>(band.at(frame, -bin));
    if (!std::isfinite(up) || !std::isfinite(down)) return {};
    power[k] = (power_ratio_from_db(up) + power_ratio_from_db(down)) / 2.0;
  }
  return power;
}

std::vector<float> touch_spectrum(const TouchRecord& record, const TouchReading& reading,
                                  double span_hz, bool is_mean, std::size_t frames) {
  const TouchBand& band = record.band_for(span_hz);
  const int side = std::min(band.side, static_cast<int>(std::min(1e6, span_hz / band.bin_hz)));
  std::vector<double> power(2 * static_cast<std::size_t>(side) + 1, 0.0);
  std::size_t count = 0;
  for (std::size_t f = reading.from; f < reading.to && count < frames; ++f) {
    if (!std::isfinite(band.at(f, 0))) continue;
    ++count;
    for (std::size_t i = 0; i < power.size(); ++i) {
      double& at = power[i];
      const double now =
          power_ratio_from_db(static_cast<double>(band.at(f, static_cast<int>(i) - side)));
      at = is_mean ? at + now : std::max(at, now);
    }
  }
  if (count == 0) return {};
  std::vector<float> db;
  for (const double p : power)
    db.push_back(static_cast<float>(
        db_from_power_ratio(std::max(1e-20, is_mean ? p / static_cast<double>(count) : p))));
  return db;
}

}  // namespace heron

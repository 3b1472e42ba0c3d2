#include "core/method/reference_level.h"

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include "core/error.h"
#include "core/method/limiter_fit.h"
#include "core/quantity/drive_label.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kBentSlope = 0.8;
constexpr double kWideStepDb = 3.0;
constexpr double kFineStepDb = 1.0;
constexpr double kCloseEnoughDb = 0.5;
constexpr double kWidestRangeDb = 30.0;
constexpr double kLeastDriveU = 0.03;
constexpr double kSameCurveDb = 2.0;
constexpr double kOtherCurve = 0.02;  // dB for each dB further away

/// In order of drive; several readings at one drive count as their mean.
std::vector<DrivePoint> ordered(std::span<const DrivePoint> points) {
  std::vector<DrivePoint> sorted(points.begin(), points.end());
  for (const DrivePoint& p : sorted) {
    if (!std::isfinite(p.drive_dbm) || !std::isfinite(p.output_dbm))
      throw InputError("maximum output", "", "a level is not a number", "Read it again");
  }
  std::sort(sorted.begin(), sorted.end(),
            [](const DrivePoint& a, const DrivePoint& b) { return a.drive_dbm < b.drive_dbm; });
  std::vector<DrivePoint> out;
  std::size_t together = 0;
  for (const DrivePoint& p : sorted) {
    if (!out.empty() && p.drive_dbm - out.back().drive_dbm < kSameDriveDb) {
      ++together;
      out.back().output_dbm +=
          (p.output_dbm - out.back().output_dbm) / static_cast<double>(together);
      continue;
    }
    out.push_back(p);
    together = 1;
  }
  return out;
}

struct Rise {
  double slope;
  double u;
};

Rise rise_between(const DrivePoint& a, const DrivePoint& b) {
  const double driven = b.drive_dbm - a.drive_dbm;
  return {(b.output_dbm - a.output_dbm) / driven, std::hypot(a.u_db, b.u_db) / driven};
}

/// Whether it surely stops rising within what was tried: with its scatter, over some stretch up to
/// the highest drive.
bool is_flat_at_the_end(const std::vector<DrivePoint>& p) {
  for (std::size_t i = 0; i + 1 < p.size(); ++i) {
    const Rise rise = rise_between(p[i], p.back());
    if (rise.slope + 2.0 * rise.u < kFullOutputSlope) return true;
  }
  return false;
}

/// Those that say something about the knee: what happens far below it may be otherwise bent.
std::vector<LimiterPoint> upper_points(const std::vector<DrivePoint>& p) {
  constexpr double kRangeDb = 10.0;
  const double most = std::max_element(p.begin(), p.end(), [](const auto& a, const auto& b) {
                        return a.output_dbm < b.output_dbm;
                      })->output_dbm;
  const auto first = std::find_if(
      p.begin(), p.end() - 3, [&](const DrivePoint& x) { return x.output_dbm > most - kRangeDb; });
  std::vector<LimiterPoint> out;
  for (auto x = first; x != p.end(); ++x) out.push_back({x->drive_dbm, x->output_dbm, x->u_db});
  return out;
}

struct Knee {
  Interval drive;
  Interval output;
};

Knee knee_of(const std::vector<LimiterCurve>& curves, double lowest_dbm) {
  std::vector<std::pair<double, double>> drives;
  std::vector<std::pair<double, double>> outputs;
  for (const LimiterCurve& curve : curves) {
    const double knee = curve.drive_of_rise(kFullOutputSlope);
    drives.emplace_back(knee, curve.weight);
    if (!std::isfinite(knee)) continue;
    // Full output is what is there at the knee and what a decibel more gives: a tenth apart.
    const double output = knee < lowest_dbm ? curve.output_db(lowest_dbm)
                                            : curve.output_db(knee) + kFullOutputSlope / 2.0;
    for (const double sigmas : {-1.4, -0.5, 0.5, 1.4})
      outputs.emplace_back(output + sigmas * curve.u_output_db, curve.weight);
  }
  return {interval_of(std::move(drives)), interval_of(std::move(outputs))};
}

}  // namespace

std::optional<FullOutput> find_full_output(std::span<const DrivePoint> points) {
  const std::vector<DrivePoint> p = ordered(points);
  if (p.size() < 3)
    throw InputError("maximum output", "",
                     std::to_string(p.size()) + " drives do not show where the output stops rising",
                     "Measure at least three");
  if (!is_flat_at_the_end(p)) return std::nullopt;
  std::vector<LimiterPoint> near = upper_points(p);
  const Interval rough = knee_of(limiter_curves(near), p.front().drive_dbm).drive;
  if (!std::isfinite(rough.high)) return std::nullopt;
  // No transmitter is this curve exactly: the further from the knee, the less a reading says of it.
  for (LimiterPoint& x : near) {
    const double away = std::max(0.0, std::abs(x.drive_db - rough.middle()) - kSameCurveDb);
    x.u_db = std::hypot(x.u_db, kOtherCurve * away);
  }
  const auto [drive, output] = knee_of(limiter_curves(near), p.front().drive_dbm);
  if (!(drive.high <= p.back().drive_dbm)) return std::nullopt;
  FullOutput full;
  full.output_dbm = output.middle();
  full.u_output_db = std::hypot(output.u(), u_rectangular(kFullOutputSlope / 2.0));
  full.is_bound = drive.low < p.front().drive_dbm;
  full.drive_dbm = full.is_bound ? std::max(drive.high, p.front().drive_dbm) : drive.middle();
  full.u_drive_db = full.is_bound ? 0.0 : std::hypot(drive.u(), kLeastDriveU);
  full.each_tone_dbm = full.drive_dbm - db_from_power_ratio(4.0);
  // The highest drive is beyond it.
  const auto enough = std::find_if(
      p.begin(), p.end() - 1, [&](const DrivePoint& x) { return x.drive_dbm >= full.drive_dbm; });
  full.enough_dbm = enough->drive_dbm;
  if (!full.is_bound && enough != p.begin()) full.too_little_dbm = (enough - 1)->drive_dbm;
  const double flat_db = p.back().drive_dbm - full.drive_dbm;
  full.slope = flat_db > 0.5 ? (p.back().output_dbm - full.output_dbm) / flat_db : 0.0;
  return full;
}

Result to_result(const FullOutput& full, const std::vector<Contribution>& level) {
  Result r;
  r.method = "full-output";
  r.headline_id = "full_output";
  Figure output{"full_output", "Maximum output", full.output_dbm, "dBm", "PEP", level, Bound::none};
  output.contributions.push_back(
      {"scatter of the readings, and where it stops rising", full.u_output_db, Scope::independent});
  const Contribution place{"curves that fit the readings", full.u_drive_db, Scope::independent};
  const Bound bound = full.is_bound ? Bound::upper : Bound::none;
  r.figures = {
      output,
      {"drive", "Drive at maximum output", full.drive_dbm, "dBm", "one tone", {place}, bound},
      {"each_tone",
       "Drive of each of two tones",
       full.each_tone_dbm,
       "dBm",
       "each tone",
       {place},
       bound}};
  return r;
}

std::optional<double> next_drive_dbm(std::span<const DrivePoint> points, double most_dbm) {
  const std::vector<DrivePoint> p = ordered(points);
  if (p.empty()) return std::nullopt;
  if (p.size() >= 3) {
    if (const auto full = find_full_output(p)) {
      // Full at the lowest drive already: lower, until it is not.
      if (full->is_bound)
        return p.back().drive_dbm - p.front().drive_dbm < kWidestRangeDb
                   ? std::optional(p.front().drive_dbm - kWideStepDb)
                   : std::nullopt;
      const double apart = full->enough_dbm - full->too_little_dbm.value_or(full->enough_dbm);
      if (apart <= kCloseEnoughDb) return std::nullopt;
      return full->enough_dbm - apart / 2.0;
    }
  }
  const bool is_bent = p.size() >= 2 && rise_between(p[p.size() - 2], p.back()).slope < kBentSlope;
  const double next =
      std::min(most_dbm, p.back().drive_dbm + (is_bent ? kFineStepDb : kWideStepDb));
  if (next - p.back().drive_dbm < kSameDriveDb) return std::nullopt;
  return next;
}

}  // namespace heron

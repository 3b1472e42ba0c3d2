#include "core/method/reference_level.h"

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include "core/error.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kBentSlope = 0.8;
constexpr double kWideStepDb = 3.0;
constexpr double kFineStepDb = 1.0;
constexpr double kSameDriveDb = 0.05;
constexpr double kCloseEnoughDb = 0.5;

/// In order of drive; several readings at one drive count as their mean.
std::vector<DrivePoint> ordered(std::span<const DrivePoint> points) {
  std::vector<DrivePoint> sorted(points.begin(), points.end());
  for (const DrivePoint& p : sorted) {
    if (!std::isfinite(p.drive_dbm) || !std::isfinite(p.output_dbm))
      throw InputError("full output", "", "a level is not a number", "Take that reading again");
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

/// Straight between two points; beyond the last it stays.
double output_at(const std::vector<DrivePoint>& p, double drive_dbm) {
  const auto above = std::find_if(p.begin(), p.end(),
                                  [&](const DrivePoint& x) { return x.drive_dbm >= drive_dbm; });
  if (above == p.end()) return p.back().output_dbm;
  if (above == p.begin()) return p.front().output_dbm;
  const DrivePoint& below = *(above - 1);
  return std::lerp(below.output_dbm, above->output_dbm,
                   (drive_dbm - below.drive_dbm) / (above->drive_dbm - below.drive_dbm));
}

}  // namespace

std::optional<FullOutput> find_full_output(std::span<const DrivePoint> points) {
  const std::vector<DrivePoint> p = ordered(points);
  if (p.size() < 3)
    throw InputError("full output", "",
                     std::to_string(p.size()) + " drives do not show where the output stops rising",
                     "Take at least three");
  // From the top down: as long as it does not rise, full output was reached earlier. Over all of
  // the flat part it surely does not, the longer the less its scatter matters; and over the decibel
  // just above a point it does not either, or a soft knee would count as flat.
  std::size_t at = p.size() - 1;
  while (at > 0) {
    const DrivePoint& low = p[at - 1];
    const Rise all = rise_between(low, p.back());
    if (all.slope + 2.0 * all.u >= kFullOutputSlope ||
        output_at(p, low.drive_dbm + kFineStepDb) - low.output_dbm >=
            kFullOutputSlope * kFineStepDb)
      break;
    --at;
  }
  if (at + 1 == p.size()) return std::nullopt;
  FullOutput full;
  // Its upper half: behind a soft knee the first of them still rise a little.
  const double middle = (p[at].drive_dbm + p.back().drive_dbm) / 2.0;
  double sum = 0.0;
  double count = 0.0;
  for (std::size_t i = at; i < p.size(); ++i) {
    if (p[i].drive_dbm < middle) continue;
    sum += p[i].output_dbm;
    count += 1.0;
  }
  full.output_dbm = sum / count;
  full.enough_dbm = p[at].drive_dbm;
  if (at > 0) full.too_little_dbm = p[at - 1].drive_dbm;
  // It begins somewhere between the last drive that was too little and the first that is enough.
  const double apart = at > 0 ? p[at].drive_dbm - p[at - 1].drive_dbm : 0.0;
  full.drive_dbm = p[at].drive_dbm - apart / 2.0;
  // The criterion itself tells outputs apart by no less than a tenth of a decibel.
  full.u_drive_db = std::hypot(u_rectangular(apart / 2.0), kFullOutputSlope * kFineStepDb);
  // At a hard knee, where the rise would meet it.
  if (at >= 2) {
    const Rise before = rise_between(p[at - 2], p[at - 1]);
    if (before.slope > 0.5) {
      const double meets =
          p[at - 1].drive_dbm + (full.output_dbm - p[at - 1].output_dbm) / before.slope;
      full.drive_dbm = std::clamp(meets, p[at - 1].drive_dbm, p[at].drive_dbm);
    }
  }
  full.each_tone_dbm = full.drive_dbm - db_from_power_ratio(4.0);
  const Rise beyond = rise_between(p[at], p.back());
  full.slope = beyond.slope;
  const double flat_db = p.back().drive_dbm - p[at].drive_dbm;
  full.u_output_db = std::hypot(p[at].u_db / std::sqrt(count),
                                u_rectangular(std::abs(beyond.slope) * flat_db / 2.0));
  return full;
}

Result to_result(const FullOutput& full, const std::vector<Contribution>& level) {
  Result r;
  r.method = "full-output";
  r.headline_id = "full_output";
  Figure output{"full_output", "Full output", full.output_dbm, "dBm", "PEP", level, Bound::none};
  output.contributions.push_back(
      {"scatter and rise of the readings", full.u_output_db, Scope::independent});
  const Contribution place{"between two drives that were tried", full.u_drive_db,
                           Scope::independent};
  r.figures = {
      output,
      {"drive", "Drive of full output", full.drive_dbm, "dBm", "one tone", {place}, Bound::none},
      {"each_tone",
       "Drive of each of two tones",
       full.each_tone_dbm,
       "dBm",
       "each tone",
       {place},
       Bound::none}};
  return r;
}

std::optional<double> next_drive_dbm(std::span<const DrivePoint> points, double most_dbm) {
  const std::vector<DrivePoint> p = ordered(points);
  if (p.empty()) return std::nullopt;
  if (p.size() >= 3) {
    if (const auto full = find_full_output(p)) {
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

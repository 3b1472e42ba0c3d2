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

}  // namespace

std::optional<FullOutput> find_full_output(std::span<const DrivePoint> points) {
  const std::vector<DrivePoint> p = ordered(points);
  if (p.size() < 3)
    throw InputError("full output", "",
                     std::to_string(p.size()) + " drives do not show where the output stops rising",
                     "Take at least three");
  // From the top down: as long as it does not rise, full output was reached earlier.
  std::size_t at = p.size() - 1;
  while (at > 0) {
    // Over all of the flat part: the longer it is, the less its scatter matters.
    const Rise rise = rise_between(p[at - 1], p.back());
    if (rise.slope + 2.0 * rise.u >= kFullOutputSlope) break;
    --at;
  }
  if (at + 1 == p.size()) return std::nullopt;
  FullOutput full;
  double sum = 0.0;
  for (std::size_t i = at; i < p.size(); ++i) sum += p[i].output_dbm;
  full.output_dbm = sum / static_cast<double>(p.size() - at);
  full.drive_dbm = p[at].drive_dbm;
  // It begins somewhere between the last drive that was too little and the first that is enough.
  const double apart = at > 0 ? p[at].drive_dbm - p[at - 1].drive_dbm : 0.0;
  full.u_drive_db = u_rectangular(apart / 2.0);
  // Between the last rising point and the first full one, where the rise would meet it.
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
  full.u_output_db = std::hypot(p[at].u_db / std::sqrt(static_cast<double>(p.size() - at)),
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
  if (p.size() >= 3 && find_full_output(p)) return std::nullopt;
  const bool is_bent = p.size() >= 2 && rise_between(p[p.size() - 2], p.back()).slope < kBentSlope;
  const double next =
      std::min(most_dbm, p.back().drive_dbm + (is_bent ? kFineStepDb : kWideStepDb));
  if (next - p.back().drive_dbm < kSameDriveDb) return std::nullopt;
  return next;
}

}  // namespace heron

#pragma once

#include <optional>
#include <span>
#include <vector>

#include "core/method/result.h"

namespace heron {

/// Output of a transmitter for one tone at one drive.
struct DrivePoint {
  double drive_dbm = 0.0;
  double output_dbm = 0.0;
  double u_db = 0.0;  ///< standard uncertainty between two neighbouring readings
};

/// Where a single tone stops raising the output: full output, from which a two-tone test is set.
struct FullOutput {
  double drive_dbm = 0.0;  ///< least drive that gives it; at most this where `is_bound`
  std::optional<double> too_little_dbm;  ///< the highest drive tried that does not
  double enough_dbm = 0.0;               ///< the least drive tried that does
  double u_drive_db = 0.0;
  double output_dbm = 0.0;     ///< PEP
  double u_output_db = 0.0;    ///< of the readings, without the hook-up
  double each_tone_dbm = 0.0;  ///< of two equal tones with the same peak: 6.02 dB less drive
  double slope = 1.0;          ///< dB of output for 1 dB of drive beyond it
  bool is_bound = false;       ///< full at the lowest drive tried already
};

/// The output rises by less than this for 1 dB of drive once it is full.
inline constexpr double kFullOutputSlope = 0.1;

/// From points in any order: the least drive from which 1 dB more gives less than 0.1 dB more, over
/// all limiter curves that fit the readings. nullopt: not surely reached yet. InputError: fewer
/// than three drives, or a level that is none.
std::optional<FullOutput> find_full_output(std::span<const DrivePoint> points);

/// Output, drive, and drive of each of two tones; `level` is what the hook-up adds to the output.
Result to_result(const FullOutput& full, const std::vector<Contribution>& level);

/// The drive to try next: 3 dB more while the output follows, 1 dB more once it bends; then between
/// the last that was too little and the first that is enough until they are 0.5 dB apart. nullopt
/// when that is reached, or nothing more is allowed.
std::optional<double> next_drive_dbm(std::span<const DrivePoint> points, double most_dbm);

}  // namespace heron

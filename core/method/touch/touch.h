#pragma once

#include <optional>
#include <vector>

#include "core/method/touch/touch_record.h"
#include "core/method/touch/touch_settings.h"
#include "core/quantity/figure.h"

namespace heron {

/// A line beside the carrier during an event, or what would have been seen of one there.
struct TouchLine {
  double offset_hz = 0.0;
  Figure level;                   ///< dB re carrier; an upper bound where none stands out
  std::optional<Figure> against;  ///< less what it is with hands off; nullopt of hands off
  bool is_changed() const { return against && !is_no_difference(*against); }
};

/// What one event did.
struct TouchReading {
  TouchEvent event;
  bool is_reference = false;  ///< hands off, that all others are held against
  std::size_t from = 0;       ///< frames
  std::size_t to = 0;
  std::vector<TouchLine> lines;  ///< that stand out, and those that hands off has; highest first
  std::size_t shown = 0;         ///< of the lines, the one to tell first
  std::vector<double> taps_db;   ///< of taps: each one's highest, of the shown line
  double noise_db = 0.0;  ///< its noise against that with hands off, in the middle of the span
  double u_noise_db = 0.0;
  const TouchLine* line() const { return lines.empty() ? nullptr : &lines[shown]; }
};

struct TouchTest {
  std::vector<TouchReading> readings;     ///< in the order of their beginnings
  std::vector<TouchEvent> left_out = {};  ///< less than half a second of them is there
  std::optional<std::size_t> reference = std::nullopt;
};

/// Each event against hands off: the one called so, else what is before the first event or between
/// them. `limit_db`: a line above it is told first.
TouchTest touch_test(const TouchRecord& record, const TouchPlan& plan,
                     std::optional<double> limit_db);

/// Power beside the carrier, mean of both sidebands, in bins from 0 up to the span, relative to the
/// carrier: of each frame in turn.
std::vector<double> one_sided(const TouchBand& band, std::size_t frame, std::size_t bins);
/// Of an event on both sides, dB re carrier: mean, or the highest of so many frames. Empty where
/// nothing is known.
std::vector<float> touch_spectrum(const TouchRecord& record, const TouchReading& reading,
                                  double span_hz, bool is_mean, std::size_t frames);

}  // namespace heron

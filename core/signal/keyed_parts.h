#pragma once

#include <optional>
#include <vector>

#include "core/progress.h"
#include "core/signal/capture.h"

namespace heron {

struct TimeSpan {
  double start_s = 0.0;
  double length_s = 0.0;
  double end_s() const { return start_s + length_s; }
  bool operator==(const TimeSpan&) const = default;
};

/// A part of a recording in which something is transmitted at one level.
struct KeyedStretch : TimeSpan {
  double level_dbfs = -200.0;  ///< of everything in it; full-scale sinusoid = 0
};

/// From this peak on it is the recorder's own end that limits, and nothing before it.
inline constexpr double kFullScaleDbfs = -0.18;

/// When a recording is keyed, and which part of it a figure is to come from.
struct KeyedParts {
  double duration_s = 0.0;
  double cell_s = 0.0;
  std::vector<float> level_dbfs;              ///< power over time, one value a cell, at most 1000
  std::vector<KeyedStretch> keyed;            ///< in order of time; steps of level divide them
  std::optional<std::size_t> chosen_stretch;  ///< the one that is measured, in `keyed`
  TimeSpan measured;                          ///< inside it, without edges and settling
  bool is_chosen = false;                     ///< somebody chose the part
  double settling_s = 0.0;                    ///< left out at its start
  double settling_db = 0.0;                   ///< by how much that differed, signed
  float peak = 0.0F;                          ///< largest |I| or |Q| in the measured part
  std::int64_t clipped_samples = 0;           ///< in it, at full scale or piled up at a level below
  double drift_db = 0.0;  ///< from the first to the last tenth of the measured part

  bool is_at_full_scale() const;
  /// From end to end.
  bool is_whole() const { return measured.start_s <= 0.0 && measured.end_s() >= duration_s; }
};

/// Finds the keyed parts by power over time, and tells signal from noise by what stands out of the
/// spectrum; memory does not grow with the recording. The steadiest long part is chosen. A
/// recording with nothing to part is measured from end to end. What somebody `chose` is measured
/// instead, cut to the recording. Throws InputError (nothing of it lies inside) or Cancelled.
KeyedParts find_keyed_parts(const CaptureOpener& open,
                            const std::optional<TimeSpan>& chosen = std::nullopt,
                            unsigned threads = 0, const Progress& progress = {},
                            const std::stop_token& stop = {});

}  // namespace heron

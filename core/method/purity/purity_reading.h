#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/method/measure/measured_part.h"
#include "core/method/result.h"
#include "core/progress.h"
#include "core/signal/capture.h"
#include "core/signal/trace_csv.h"

namespace heron {

/// One line as an instrument showed it.
struct PurityReading {
  double frequency_hz = 0.0;  ///< radio frequency
  double level_dbm = 0.0;     ///< at the instrument's input; dBFS where the full scale is unknown
  double u_db = 0.0;          ///< from noise and reading, not from the hook-up
  bool is_bound = false;      ///< noise hides it: at most this
  bool is_wide = false;       ///< noise over many filter widths: the level is that in one of them
  double floor_dbm = -400.0;  ///< noise in the instrument's resolution at this place
  std::string doubt;  ///< why it may be the instrument's own: "mirror image of 14.2 MHz"; or empty
  std::string typed;  ///< as it was typed, where a person did
};

/// Where a source looked, and from which level on a line there would be among its readings.
struct SeenRange {
  double from_hz = 0.0;
  double to_hz = 0.0;
  double level_dbm = 0.0;  ///< on the scale of the readings
};

/// What one recording, one trace or one typed list says, and between which frequencies.
struct PuritySource {
  std::string name;
  double from_hz = 0.0;
  double to_hz = 0.0;
  double resolution_hz = 0.0;
  double duration_s = 0.0;          ///< of a recording: it was keyed that long
  bool is_absolute = false;         ///< levels are dBm
  bool is_typed = false;            ///< covers only what it lists
  std::optional<KeyedParts> parts;  ///< of a recording
  std::vector<PurityReading> readings;
  std::vector<SeenRange> seen;  ///< in order; none in records that were kept before they were noted
  Curve spectrum;               ///< x: radio frequency
  std::optional<Chain> chain;   ///< what it was taken on, where that is not the test's
  std::vector<Remark> remarks;

  bool covers(double frequency_hz) const;
  /// A line above this would have been read here; nullopt where it did not look.
  std::optional<double> sees_from_dbm(double frequency_hz) const;
  /// Puts levels re full scale on the scale of the instrument's input.
  void set_full_scale(double dbm);
};

struct PurityReadingSettings {
  double carrier_hz = 0.0;  ///< nominal; found within 50 ppm or some bins of it
  double center_hz = 0.0;   ///< radio frequency at 0 Hz of a recording
  std::optional<double> full_scale_dbm;
  std::optional<TimeSpan> part;  ///< measure this; else the steadiest long keyed part
  double reading_u_db = 0.1;     ///< of a peak read from a trace, beyond noise
  unsigned threads = 0;
  std::size_t plot_points = 16384;
};

inline constexpr int kHighestHarmonic = 10;

/// How far a line may lie from where its number says, Hz: 50 ppm of it.
double frequency_tolerance_hz(double frequency_hz);

/// The strongest clear reading within the tolerance of the carrier's nominal frequency; nullptr if
/// there is none.
const PurityReading* carrier_in(const PuritySource& source, double carrier_hz);

/// Everything at least 10 dB above the floor (and beyond the scatter of noise), and a bound at each
/// harmonic 2..10 inside that does not stand out. The recorder's own places (its centre and mirror
/// images) are doubted.
PuritySource read_purity(const CaptureOpener& open, const PurityReadingSettings& settings,
                         const Progress& progress = {}, const std::stop_token& stop = {});
PuritySource read_purity(const SpectrumTrace& trace, const PurityReadingSettings& settings);

}  // namespace heron

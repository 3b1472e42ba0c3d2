#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/method/amplifier/amplifier.h"
#include "core/method/amplifier/band_markers.h"

namespace heron {

/// Gain over frequency at one or several drives. Edges are where gain is 1 and 3 dB below its
/// highest at the same drive, straight in dB between two points that differ by 1 dB at most (the
/// usual half-power definition for 3 dB); where points are further apart nothing is interpolated
/// and the edge is "between". Why output drops: current falls with it as it did over drive - less
/// arrives, the gain is lower; current stays - the output network does not let it out.
/// Example: 14.4 dB at 1296 MHz and 13.5 and 13.3 dB at 1242 and 1240 MHz: the lower 1 dB edge is
/// 1241 MHz.

/// One point of a sweep.
struct ResponseReading {
  std::string label;
  std::optional<double> frequency_hz;
  std::optional<Figure> input;  ///< dBm
  std::optional<Figure> output;
  std::optional<Figure> amperes;
  std::string refusal = {};  ///< why its levels cannot be referred to the device; empty if they are
};

struct ResponsePoint {
  double frequency_hz = 0.0;
  Figure gain;  ///< dB
  double output_dbm = 0.0;
  std::optional<Figure> amperes;
  std::optional<double> expected_a;  ///< that the drive series drew for the same output
  std::size_t reading = 0;
};

/// Where gain has dropped by so much.
struct ResponseEdge {
  double down_db = 1.0;
  bool is_lower = true;
  std::optional<double> hz;  ///< interpolated
  double u_hz = 0.0;
  std::optional<std::pair<double, double>> between = {};  ///< or only known to lie there
};

/// All points at about one drive, by frequency.
struct ResponseSweep {
  double drive_dbm = 0.0;
  std::vector<ResponsePoint> points;
  std::size_t highest = 0;
  std::vector<ResponseEdge> edges;  ///< those that lie inside the sweep
  std::optional<double> down_db;    ///< in compression by so much, where that is known
};

/// Why output drops over a band.
enum class DropReason { unknown, flat, gain, output_network };
std::string drop_words(DropReason reason);  ///< "output network"

struct BandGain {
  BandMarker band;
  std::size_t points = 0;        ///< inside it
  std::optional<Figure> lowest;  ///< gain there
  double lowest_hz = 0.0;
  std::optional<Figure> slope;  ///< highest less lowest; what is common cancels
  std::optional<Figure> amperes;
  DropReason drop = DropReason::unknown;
  std::optional<Judgement> judgement;
  std::optional<Judgement> slope_judgement;
};

struct ResponsePlan {
  std::optional<double> least_gain_db;  ///< inside each band
  std::optional<double> most_slope_db;
  std::vector<BandMarker> bands;
  /// The drive series of the same amplifier, where there is one.
  const Amplification* series = nullptr;
};

struct Response {
  std::vector<ResponseSweep> sweeps;  ///< lowest drive first
  std::vector<BandGain> bands;        ///< of the lowest drive
  std::vector<Remark> remarks;
  std::vector<std::string> refusals;  ///< one a reading, empty where it is used
  std::optional<std::size_t> headline()
      const;  ///< the band with the least margin, else lowest gain
};

Response assess_response(const std::vector<ResponseReading>& readings, const ResponsePlan& plan);

}  // namespace heron

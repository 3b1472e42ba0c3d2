#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/method/measure/band_power.h"
#include "core/method/measure/measured_part.h"
#include "core/method/measure/recorder_linearity.h"
#include "core/method/result.h"

namespace heron {

struct BandwidthSettings {
  double fraction = 0.99;  ///< of the power that the occupied bandwidth holds
  Hold hold = Hold::average;
  std::optional<std::pair<double, double>> search_hz;  ///< only this part of the recording
  std::optional<double> channel_hz;                    ///< width; default the occupied bandwidth
  std::optional<double> middle_hz;                     ///< default the occupied bandwidth's
  std::optional<double> adjacent_hz;                   ///< width; default the channel's
  std::vector<double> offsets_hz;  ///< from the middle; default one and two channels
  std::optional<double> full_scale_dbm;
  std::optional<TimeSpan> part;  ///< measure this; else the steadiest long keyed part
  unsigned threads = 0;
  std::size_t plot_points = 4096;
};

/// Power in a window beside the channel, relative to the channel's.
struct AdjacentPower {
  double offset_hz = 0.0;
  double width_hz = 0.0;
  double ratio_db = 0.0;  ///< the 95 % limit where `is_bound`
  double u_db = 0.0;
  bool is_bound = false;
};

/// Where a trace has fallen 26 dB below its highest.
struct WidthAtLevel {
  double lower_hz = 0.0;
  double upper_hz = 0.0;
  double u_hz = 0.0;
  double u_resolution_hz = 0.0;  ///< of it, what the resolution leaves open
  bool is_cut = false;           ///< it goes on beyond what was recorded or looked at: a bound
  double width_hz() const { return upper_hz - lower_hz; }
};

/// Frequencies as in the recording (0 Hz = its centre).
struct BandwidthAnalysis {
  std::string input;
  CaptureInfo capture;
  std::optional<KeyedParts> parts;
  Hold hold = Hold::average;
  double fraction = 0.99;
  double rbw_hz = 0.0;
  std::size_t averages = 0;
  std::int64_t clipped_samples = 0;
  /// Occupied bandwidth (ITU-R SM.443): equal shares of the rest lie below and above. nullopt where
  /// nothing stands out of the noise.
  std::optional<WidthAtLevel> occupied;
  std::optional<WidthAtLevel> x26;
  double power_dbfs = -200.0;  ///< in the occupied bandwidth
  double floor_share = 0.0;    ///< noise taken off inside the region, relative to what is left
  double channel_hz = 0.0;
  double channel_middle_hz = 0.0;
  std::vector<AdjacentPower> adjacent;
  RecorderLinearity linearity{0.0, false, false};  ///< of every ratio
  Curve average;
  Curve max_hold;
  std::vector<Remark> remarks;
};

/// Both widths and the power beside the channel. InputError: unreadable, shorter than one segment,
/// or settings that cannot be.
BandwidthAnalysis analyse_bandwidth(const CaptureOpener& open,
                                    const BandwidthSettings& settings = {},
                                    const Progress& progress = {},
                                    const std::stop_token& stop = {});
/// The same of a part that is found or chosen already.
BandwidthAnalysis analyse_bandwidth(const MeasuredPart& part, const BandwidthSettings& settings,
                                    const Progress& progress = {},
                                    const std::stop_token& stop = {});

/// A width as a figure.
Figure width_figure(const WidthAtLevel& width, Hold hold);
/// The power in a window as a figure, re channel.
Figure adjacent_figure(const AdjacentPower& power, Hold hold, const RecorderLinearity& linearity);

/// In the common vocabulary; the headline is the occupied bandwidth.
Result to_result(const BandwidthAnalysis& analysis);

std::string hold_name(Hold hold);  ///< "average", "max-hold"

}  // namespace heron

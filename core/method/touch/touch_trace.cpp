#include "core/method/touch/touch_trace.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr double kOutDb = 20.0;
constexpr int kMostTraceSide = 4000;
constexpr double kNoisePerFilter = 1.0645;  // Gaussian
constexpr double kMostFilterBins = 9.0;     ///< coarser than its points a filter shows nothing more

}  // namespace

TouchRecord touch_of_trace(const SpectrumTrace& trace) {
  if (!trace.rbw_hz)
    throw InputError(trace.name, "", "the filter it was taken with is not known",
                     "Add a line # rbw_hz: 30");
  const auto peak = std::max_element(trace.level_dbm.begin(), trace.level_dbm.end());
  std::vector<double> copy = trace.level_dbm;
  if (*peak < median_of(copy) + kOutDb)
    throw InputError(trace.name, "", "no carrier stands out of it",
                     "Tune the carrier into the middle of the span");
  const auto at = static_cast<std::size_t>(peak - trace.level_dbm.begin());
  const double bin = std::clamp(trace.spacing_hz(), *trace.rbw_hz / kMostFilterBins, *trace.rbw_hz);
  const double reach = std::min(trace.frequency_hz[at] - trace.frequency_hz.front(),
                                trace.frequency_hz.back() - trace.frequency_hz[at]);
  const int side = static_cast<int>(std::min(reach / bin, static_cast<double>(kMostTraceSide)));
  if (side < 20)
    throw InputError(trace.name, "", "its carrier is too near to an end of the span",
                     "Tune the carrier into the middle of the span");
  TouchRecord r;
  r.name = trace.name;
  r.length_s = 1.0;
  r.frame_s = 1.0;
  r.first_s = 0.5;
  r.frames = 1;
  r.spectra = std::clamp(static_cast<double>(trace.averages.value_or(1)), 1.0, 1e6);
  r.rf_hz = trace.frequency_hz[at];
  // What noise passes is a little more than its 3 dB width.
  r.near = {bin, kNoisePerFilter * *trace.rbw_hz, side, {}};
  for (int k = -side; k <= side; ++k) {
    // The nearest point: what lies between two belongs to either.
    const double hz = trace.frequency_hz[at] + bin * k;
    const auto above = std::lower_bound(trace.frequency_hz.begin(), trace.frequency_hz.end(), hz);
    auto i = static_cast<std::size_t>(above - trace.frequency_hz.begin());
    if (i == trace.frequency_hz.size()) --i;
    if (i > 0 && hz - trace.frequency_hz[i - 1] < trace.frequency_hz[i] - hz) --i;
    r.near.dbc.push_back(static_cast<float>(trace.level_dbm[i] - *peak));
  }
  if (trace.detector == TraceDetector::peak || trace.detector == TraceDetector::unknown)
    r.remarks.push_back({"detector", Severity::note,
                         trace.detector == TraceDetector::peak
                             ? "A peak detector shows noise too high; lines are right."
                             : "Its detector is not known: lines are right, noise may not be.",
                         ""});
  return r;
}

}  // namespace heron

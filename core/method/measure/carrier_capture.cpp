#include "core/method/measure/carrier_capture.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/method/measure/noise_cascade.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/decimated_capture.h"
#include "core/signal/shifted_capture.h"

namespace heron {
namespace {

constexpr double kEdgeShare = 0.9;  ///< of what lies between the carrier and the end of the span
constexpr double kRecorderShare = 0.4;  ///< of the rate: a recorder's own filter ends there
/// Real audio shows both signs of its frequencies.
constexpr double kImageFree = 0.6;
constexpr double kFoldFree = 0.4;
constexpr double kLeastTop = 0.005;  ///< of the rate, on both sides of the carrier

CarrierCapture find(const CaptureOpener& open, const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  CarrierCapture p;
  p.open = open;
  if (info.is_complex) {
    p.carrier = find_carrier(open, stop);
    p.frequency_hz = p.carrier.frequency_hz;
    p.top_hz = std::min(kRecorderShare * info.sample_rate_hz,
                        kEdgeShare * (info.sample_rate_hz / 2.0 - std::abs(p.frequency_hz)));
    return p;
  }
  // Its mirror is taken away by halving the rate until it lies outside.
  const CaptureOpener whole = shifted_capture(open, 0.0);
  FoundCarrier both = find_carrier(whole, stop);
  p.frequency_hz = std::abs(both.frequency_hz);
  int halvings = 0;
  double rate = info.sample_rate_hz;
  const double image_hz =
      std::min(2.0 * p.frequency_hz, 2.0 * (info.sample_rate_hz / 2.0 - p.frequency_hz));
  while (kImageFree * rate > image_hz) {
    rate /= 2.0;
    ++halvings;
  }
  if (static_cast<double>(info.frames) * rate / info.sample_rate_hz <
      static_cast<double>(NoiseCascade::kLeastSamples))
    throw InputError(info.name, "", "its carrier is too near to 0 Hz for a recording so short",
                     "Record it at a higher tone, or as I and Q");
  p.open = decimated_capture(shifted_capture(open, p.frequency_hz), halvings);
  p.carrier = find_carrier(p.open, stop);
  p.frequency_hz += p.carrier.frequency_hz;
  // Nearer to 0 Hz the other sideband folds back into it.
  p.top_hz = std::min({kRecorderShare * rate, kFoldFree * p.frequency_hz,
                       kEdgeShare * (info.sample_rate_hz / 2.0 - p.frequency_hz)});
  return p;
}

}  // namespace

CarrierCapture carrier_capture(const CaptureOpener& open, const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  CarrierCapture p = find(open, stop);
  if (p.top_hz < kLeastTop * info.sample_rate_hz)
    throw InputError(info.name, "",
                     "its carrier, at " + frequency_text(p.frequency_hz) +
                         ", is too near the end of what was recorded",
                     "Tune the recorder so that it stands nearer to the middle");
  return p;
}

}  // namespace heron

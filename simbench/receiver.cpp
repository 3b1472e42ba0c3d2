#include "simbench/receiver.h"

#include <algorithm>
#include <cmath>
#include <tuple>

#include "core/quantity/levels.h"

namespace heron::sim {
namespace {

constexpr double kThermalDbmHz = -174.0;
constexpr double kUsualNoiseFigureDb = 10.0;
constexpr double kOffBandDb = 70.0;
constexpr double kNowhereDbm = -300.0;

auto as_tuple(const ReceiverDesign::Band& b) {
  return std::tie(b.low_hz, b.high_hz, b.noise_figure_db, b.gain_db, b.edge_db, b.is_dead);
}

}  // namespace

bool ReceiverDesign::operator==(const ReceiverDesign& o) const {
  const auto rest = [](const ReceiverDesign& d) {
    return std::tie(d.audio_hz, d.skirt_db_per_octave, d.reference_ppm, d.noise_v, d.clips_v,
                    d.agc_from_dbm, d.agc_slope, d.s9_dbm, d.unit_db, d.over_nine, d.is_am, d.if_hz,
                    d.if_gain_db, d.if_most_dbm, d.probe_db);
  };
  return rest(*this) == rest(o) &&
         std::equal(bands.begin(), bands.end(), o.bands.begin(), o.bands.end(),
                    [](const Band& a, const Band& b) { return as_tuple(a) == as_tuple(b); }) &&
         std::equal(
             birdies.begin(), birdies.end(), o.birdies.begin(), o.birdies.end(),
             [](const Birdie& a, const Birdie& b) { return a.hz == b.hz && a.dbm == b.dbm; });
}

const ReceiverDesign::Band* Receiver::band() const {
  const auto found =
      std::find_if(design_.bands.begin(), design_.bands.end(), [this](const auto& b) {
        // Its dial goes a little further than the band.
        return dial_hz_ > 0.98 * b.low_hz && dial_hz_ < 1.02 * b.high_hz;
      });
  return found == design_.bands.end() ? nullptr : &*found;
}

/// A single tuned circuit: what is lost grows with the square of the distance from its middle.
double Receiver::front_end_loss_db(double hz) const {
  const ReceiverDesign::Band* b = band();
  if (b == nullptr) return kOffBandDb;
  const double middle = 0.5 * (b->low_hz + b->high_hz);
  const double off = (hz - middle) / (0.5 * (b->high_hz - b->low_hz));
  const double at_edge = power_ratio_from_db(b->edge_db) - 1.0;
  return db_from_power_ratio(1.0 + at_edge * off * off);
}

double Receiver::pitch_hz(double hz) const {
  // Where the reference is high, it receives higher than the dial says.
  return hz - dial_hz_ * (1.0 + design_.reference_ppm * 1e-6);
}

double Receiver::passed_db(double hz) const {
  const double pitch = pitch_hz(hz);
  if (pitch <= 0.0) return -kOffBandDb;
  const auto [low, high] = design_.audio_hz;
  const double octaves = pitch < low    ? std::log2(low / pitch)
                         : pitch > high ? std::log2(pitch / high)
                                        : 0.0;
  return -std::min(kOffBandDb, octaves * design_.skirt_db_per_octave);
}

double Receiver::noise_dbm() const {
  const ReceiverDesign::Band* b = band();
  const double figure = b == nullptr ? kUsualNoiseFigureDb : b->noise_figure_db;
  // What the filter loses before the first stage is lost to the signal, not to the noise.
  return kThermalDbmHz + figure + db_from_power_ratio(bandwidth_hz());
}

double Receiver::if_noise_dbm() const {
  const ReceiverDesign::Band* b = band();
  const bool hears = b != nullptr && !b->is_dead;
  return noise_dbm() + design_.if_gain_db + (hears ? b->gain_db : -10.0) - design_.probe_db;
}

double Receiver::at_if_dbm(const std::optional<Signal>& signal) const {
  const ReceiverDesign::Band* b = band();
  double watts = to_watt(Dbm{if_noise_dbm() + design_.probe_db}).value;
  if (signal && b != nullptr && !b->is_dead)
    watts += to_watt(Dbm{signal->dbm - front_end_loss_db(signal->hz) + passed_db(signal->hz) +
                         b->gain_db + design_.if_gain_db})
                 .value;
  const double most_w = to_watt(Dbm{design_.if_most_dbm}).value;
  return to_dbm(Watt{most_w * std::tanh(watts / most_w)}).value - design_.probe_db;
}

Receiver::Audio Receiver::audio(const std::optional<Signal>& signal) const {
  const ReceiverDesign::Band* b = band();
  const bool hears = b != nullptr && !b->is_dead;
  const auto level = [&](double hz, double dbm) {
    return hears ? dbm - front_end_loss_db(hz) + passed_db(hz) : kNowhereDbm;
  };
  const bool is_am = design_.is_am;
  const bool is_off_tune =
      signal && is_am && std::abs(pitch_hz(signal->hz)) > design_.audio_hz.second;
  double carrier_dbm = !signal || is_off_tune ? kNowhereDbm
                       : !is_am               ? level(signal->hz, signal->dbm)
                       : hears                ? signal->dbm - front_end_loss_db(signal->hz)
                                              : kNowhereDbm;
  double pitch = !signal ? 0.0 : is_am ? signal->am_tone_hz : pitch_hz(signal->hz);
  double tones_w = to_watt(Dbm{carrier_dbm}).value;
  if (signal && is_am) tones_w *= signal->am_depth * signal->am_depth;
  for (const ReceiverDesign::Birdie& birdie : design_.birdies) {
    const double dbm = level(birdie.hz, birdie.dbm);
    tones_w += to_watt(Dbm{dbm}).value;
    if (dbm > carrier_dbm) {
      carrier_dbm = dbm;
      pitch = pitch_hz(birdie.hz);
    }
  }
  // A dead front end leaves the noise of what stands behind it.
  const double noise_w =
      to_watt(Dbm{noise_dbm()}).value * (hears ? 1.0 : 0.1) * (is_am ? 2.0 : 1.0);
  const double gain_db = hears ? b->gain_db : 0.0;
  const double total_dbm = to_dbm(Watt{noise_w + tones_w}).value + gain_db;
  const double regulated =
      std::max(0.0, total_dbm - design_.agc_from_dbm) * (1.0 - design_.agc_slope);
  const double usual_w =
      to_watt(Dbm{kThermalDbmHz + kUsualNoiseFigureDb + db_from_power_ratio(bandwidth_hz())}).value;
  const double volts_per_root_watt =
      design_.noise_v / std::sqrt(usual_w) * voltage_ratio_from_db(gain_db - regulated);
  Audio out{volts_per_root_watt * std::sqrt(noise_w), volts_per_root_watt * std::sqrt(tones_w),
            carrier_dbm > kNowhereDbm / 2.0 ? pitch : 0.0};
  const double total_v = std::hypot(out.noise_v, out.tone_v);
  const double left = design_.clips_v * std::tanh(total_v / design_.clips_v) / total_v;
  out.noise_v *= left;
  out.tone_v *= left;
  return out;
}

double Receiver::indicated(const std::optional<Signal>& signal) const {
  const ReceiverDesign::Band* b = band();
  if (b == nullptr || b->is_dead) return 0.0;
  double watts = to_watt(Dbm{noise_dbm()}).value;
  if (signal)
    watts +=
        to_watt(Dbm{signal->dbm - front_end_loss_db(signal->hz) + passed_db(signal->hz)}).value;
  double dbm = to_dbm(Watt{watts}).value + b->gain_db - design_.s9_dbm;
  if (dbm >= 0.0) return 9.0 + dbm * design_.over_nine / 6.0;
  double shown = 9.0;
  for (const double unit : design_.unit_db) {
    if (-dbm < unit) return shown + dbm / unit;
    dbm += unit;
    shown -= 1.0;
  }
  return 0.0;
}

}  // namespace heron::sim

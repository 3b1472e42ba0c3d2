#include "simbench/transmitter.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/quantity/levels.h"
#include "simbench/random_source.h"

namespace heron::sim {
namespace {

using Complex = std::complex<double>;

constexpr double kTwoPi = 2.0 * std::numbers::pi;
constexpr double kEnvelopeRate = 192000.0;
constexpr std::size_t kEnvelopeLength = 8192;

Complex curved(Complex x, const std::array<Complex, 3>& curve) {
  const double r2 = std::norm(x);
  return x * (r2 * (curve[0] + r2 * (curve[1] + r2 * curve[2])));
}

/// Amplitude r held below a ceiling, smoothly (knee of order 6).
double held(double r, double ceiling) {
  const double ratio = r / ceiling;
  return ratio < 0.5 ? r : r / std::pow(1.0 + std::pow(ratio, 6.0), 1.0 / 6.0);
}

/// Denser speech: weak parts come up by up to 10 dB, the peak stays.
double compressed(double r) {
  return r <= 0.0 ? 0.0 : r * 3.16 / (1.0 + 2.16 * std::min(r, 1.0));
}

/// A pointer that turns at a frequency, from a moment on.
class Pointer {
 public:
  Pointer(double hz, double start_s, double rate_hz) : hz_(hz), start_s_(start_s), rate_(rate_hz) {}
  Complex next() {
    if (i_ % 256 == 0) {
      const double cycles = hz_ * (start_s_ + static_cast<double>(i_) / rate_);
      pointer_ = std::polar(1.0, kTwoPi * (cycles - std::floor(cycles)));
      step_ = std::polar(1.0, kTwoPi * hz_ / rate_);
    }
    const Complex now = pointer_;
    pointer_ *= step_;
    ++i_;
    return now;
  }

 private:
  double hz_;
  double start_s_;
  double rate_;
  std::size_t i_ = 0;
  Complex pointer_;
  Complex step_;
};

Complex power_of(Complex x, int n) {
  Complex y = x;
  for (int i = 1; i < n; ++i) y *= x;
  return y;
}

}  // namespace

Transmitter::Drive Transmitter::drive() const {
  const double warm_db = -design_.droop_db_per_k * (sink_.temperature_c - sink_.ambient_c);
  const double wanted =
      voltage_ratio_from_db(audio.pep_dbm - design_.full_audio_dbm + settings.gain_db + warm_db);
  // The level control sees the peak of the filtered audio; noise has more rare peaks than that.
  double peak = 1.0;
  if (audio.kind == AudioSignal::Kind::tones && !audio.tones_hz.empty()) {
    peak = 0.0;
    for (const double f : audio.tones_hz)
      peak += settings.filter.response(f) / static_cast<double>(audio.tones_hz.size());
  }
  // It watches what comes out and takes drive back until that is right.
  const double held_at = std::sqrt(settings.power_w / design_.full_pep_w) *
                         voltage_ratio_from_db(design_.alc_overshoot_db);
  double most = 0.0;
  for (double step = 1.0; step > 1e-6; step /= 2.0) {
    const Complex x = most + step;
    if (std::abs(x + curved(x, design_.curve) + curved(x, design_.memory)) <= held_at) most += step;
  }
  Drive d;
  d.gain = wanted * peak > most ? most / std::max(peak, 1e-9) : wanted;
  // Voltage at the socket bounds the swing; where the supply limits the current, so does that.
  const double swing = (surroundings.supply_v - design_.supply_ohm * 6.0) / (13.8 - 0.48);
  const double limited = std::max(0.2, (surroundings.supply_limit_a - design_.idle_a) / 8.2);
  d.ceiling = 1.3 * std::min(swing, limited);
  return d;
}

void Transmitter::envelope(double start_s, double rate_hz, Block out, const Drive& d) const {
  // What the stage remembers lies a whole number of samples back; at low rates it is the slope.
  const double behind = design_.memory_s * rate_hz;
  const auto lag = static_cast<std::size_t>(std::max(1.0, std::round(behind)));
  const double lag_s = static_cast<double>(lag) / rate_hz;
  std::vector<std::complex<float>> audio_in(out.size() + lag);
  analytic_audio(audio, settings.filter, start_s - lag_s, rate_hz, audio_in);
  const double leak = voltage_ratio_from_db(design_.carrier_leak_db);
  const double opposite = voltage_ratio_from_db(design_.opposite_sideband_db);
  const auto stage_in = [&](std::complex<float> a) {
    Complex x = a;
    if (settings.is_compressor_on) {
      const double r = std::abs(x);
      if (r > 0.0) x *= compressed(r) / r;
    }
    x = d.gain * x;
    x += opposite * std::conj(x) + leak;
    const double r = std::abs(x);
    return r > 0.5 * d.ceiling ? x * (held(r, d.ceiling) / r) : x;
  };
  std::vector<Complex> in(audio_in.size());
  std::transform(audio_in.begin(), audio_in.end(), in.begin(), stage_in);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const Complex y =
        in[i + lag] + curved(in[i + lag], design_.curve) + curved(in[i], design_.memory);
    out[i] = std::complex<float>(y);
  }
}

void Transmitter::output(double center_hz, double rate_hz, double start_s, Block out,
                         std::mt19937_64& random) const {
  std::fill(out.begin(), out.end(), std::complex<float>(0.0F));
  if (!is_keyed()) return;
  const double carrier = carrier_hz();
  // The filter of whatever listens keeps out what lies beyond.
  const double reach = 0.48 * rate_hz;
  const auto zone = static_cast<int>(std::lround(center_hz / carrier));
  if (zone < 1 || zone > 10) return;
  const double offset = zone * carrier - center_hz;
  // A zone is some ten kHz wide; its spurs reach further.
  if (std::abs(offset) > reach + 200e3) return;
  const Drive d = drive();
  std::vector<std::complex<float>> stage(out.size());
  envelope(start_s, rate_hz, stage, d);

  const double full = std::sqrt(design_.full_pep_w);
  const double level =
      zone == 1 ? 1.0
                : voltage_ratio_from_db(design_.harmonic_dbc[static_cast<std::size_t>(zone - 2)]);
  Pointer pointer(offset, start_s, rate_hz);
  // Phase noise: white phase behind one pole.
  const double pole = std::exp(-kTwoPi * design_.noise_corner_hz / rate_hz);
  const double density = power_ratio_from_db(design_.noise_dbc_hz);
  const double sigma = std::sqrt(2.0 * density * rate_hz) * (1.0 - pole);
  std::vector<std::complex<float>> white(out.size());
  add_white_noise(white, 2.0 * sigma * sigma, random);
  double phase = 0.0;
  const bool is_near = std::abs(offset) < reach;
  for (std::size_t i = 0; i < out.size(); ++i) {
    phase = pole * phase + static_cast<double>(white[i].real());
    const Complex y = zone == 1 ? Complex(stage[i]) : power_of(Complex(stage[i]), zone);
    const Complex turned = y * pointer.next() * Complex(1.0, zone * phase);
    if (is_near) out[i] += std::complex<float>(full * level * turned);
  }
  if (zone != 1) return;
  for (const TransmitterDesign::Spur& spur : design_.spurs) {
    if (std::abs(offset + spur.offset_hz) > 0.48 * rate_hz) continue;
    Pointer at(offset + spur.offset_hz, start_s, rate_hz);
    const double amplitude = full * voltage_ratio_from_db(spur.dbc);
    for (std::size_t i = 0; i < out.size(); ++i)
      out[i] +=
          std::complex<float>(amplitude * static_cast<double>(std::abs(stage[i])) * at.next());
  }
}

double Transmitter::mean_power_w() const {
  if (!is_keyed()) return 0.0;
  std::vector<std::complex<float>> stage(kEnvelopeLength);
  envelope(0.1, kEnvelopeRate, stage, drive());
  double sum = 0.0;
  for (const auto& v : stage) sum += static_cast<double>(std::norm(v));
  return design_.full_pep_w * sum / static_cast<double>(stage.size());
}

double Transmitter::pep_w() const {
  if (!is_keyed()) return 0.0;
  std::vector<std::complex<float>> stage(kEnvelopeLength);
  envelope(0.1, kEnvelopeRate, stage, drive());
  float most = 0.0F;
  for (const auto& v : stage) most = std::max(most, std::norm(v));
  return design_.full_pep_w * static_cast<double>(most);
}

double Transmitter::current_for(double mean_w) const {
  // A class-B stage draws in proportion to its amplitude.
  const double amplitude = std::sqrt(mean_w / design_.full_pep_w);
  const double at_full = design_.full_pep_w / design_.efficiency / 13.8;
  return design_.idle_a + amplitude * at_full;
}

double Transmitter::current_a() const {
  return std::min(surroundings.supply_limit_a,
                  is_keyed() ? current_for(mean_power_w()) : design_.idle_a * 0.5);
}

double Transmitter::voltage_v() const {
  return surroundings.supply_v - design_.supply_ohm * current_a();
}

void Transmitter::live(double seconds) {
  const double heat = is_keyed() ? current_a() * voltage_v() - mean_power_w() : 2.0;
  sink_.run(seconds, heat);
}

}  // namespace heron::sim

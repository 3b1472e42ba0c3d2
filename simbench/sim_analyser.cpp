#include "simbench/sim_analyser.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

#include "core/quantity/levels.h"
#include "core/signal/memory_capture.h"
#include "core/signal/welch.h"
#include "simbench/sim_output.h"

namespace heron::sim {
namespace {

constexpr double kNoisePerWidth = 1.0645;  // of a Gaussian filter's 3 dB width

}  // namespace

/// Carrier and lines through a Gaussian filter, noise as one sweep scatters it.
void SimAnalyser::add_synthesizer(const Synthesizer& device, const SimState& seen, double rbw,
                                  double from_hz, double spacing_hz, std::vector<double>& power,
                                  std::mt19937_64& random) {
  const double carrier_hz = device.design().carrier_hz;
  const double carrier = power_ratio_from_db(
      device.design().output_dbm + seen.true_gain_db(carrier_hz) + seen.truth.analyser_error_db);
  std::exponential_distribution<double> one_sweep(1.0);
  const std::vector<SynthesizerDesign::Line> lines = device.lines();
  const auto through = [rbw](double off_hz) {
    return power_ratio_from_db(std::max(-200.0, -3.0103 * std::pow(2.0 * off_hz / rbw, 2.0)));
  };
  for (std::size_t i = 0; i < power.size(); ++i) {
    const double off = from_hz + static_cast<double>(i) * spacing_hz - carrier_hz;
    double p = through(off);
    for (const SynthesizerDesign::Line& l : lines)
      p += power_ratio_from_db(l.dbc) * (through(off - l.hz) + through(off + l.hz));
    p +=
        device.noise(std::max(std::abs(off), rbw / 2.0)) * kNoisePerWidth * rbw * one_sweep(random);
    power[i] += carrier * p;
  }
}

/// At its IF: what the crystal filter passes of the carrier and of the noise.
void SimAnalyser::add_receiver(const Receiver& receiver, const SimState& seen, double rbw,
                               double from_hz, double spacing_hz, std::vector<double>& power,
                               std::mt19937_64& random) {
  const double error_db = seen.truth.analyser_error_db;
  const double noise = power_ratio_from_db(receiver.if_noise_dbm() + error_db) /
                       receiver.bandwidth_hz() * kNoisePerWidth * rbw;
  const double total = power_ratio_from_db(receiver.at_if_dbm(seen.received()) + error_db);
  const double carrier =
      std::max(0.0, total - power_ratio_from_db(receiver.if_noise_dbm() + error_db));
  std::exponential_distribution<double> one_sweep(1.0);
  for (std::size_t i = 0; i < power.size(); ++i) {
    const double off = from_hz + static_cast<double>(i) * spacing_hz - receiver.design().if_hz;
    power[i] +=
        carrier * power_ratio_from_db(std::max(-200.0, -3.0103 * std::pow(2.0 * off / rbw, 2.0)));
    if (std::abs(off) < receiver.bandwidth_hz() / 2.0 + rbw) power[i] += noise * one_sweep(random);
  }
}

SimAnalyser::SimAnalyser(SharedState& state) : SimInstrument(state, "spectrum_analyser") {
  set("SENS:FREQ:CENT",
      [this](SimState&, const Arguments& a) { setting_.center_hz = number_at(a, 0, 1e3, 1e10); });
  set("SENS:FREQ:SPAN",
      [this](SimState&, const Arguments& a) { setting_.span_hz = number_at(a, 0, 100.0, 1e10); });
  set("SENS:BAND",
      [this](SimState&, const Arguments& a) { setting_.rbw_hz = number_at(a, 0, 10.0, 3e6); });
  set("SENS:SWE:POIN", [this](SimState&, const Arguments& a) {
    setting_.points = static_cast<std::size_t>(number_at(a, 0, 101.0, 100001.0));
  });
  read("STAT:OVER?", [this] { return was_over_ ? "1" : "0"; });
  read("READ:TRAC?", [this] { return trace(); });
}

std::string SimAnalyser::trace() {
  auto held = state().now();
  const SimState seen = *held;
  const SimOutput output(seen);
  const Setting a = setting_;
  const double start = held.now_s();
  std::mt19937_64 random(held->random());
  // A swept filter has to settle at every place.
  held.pass(0.05 + 2.5 * a.span_hz / (a.rbw_hz * a.rbw_hz));
  held.release();

  const double spacing = a.span_hz / static_cast<double>(a.points - 1);
  const double from = a.center_hz - a.span_hz / 2.0;
  // Noise of its own in the filter: displayed average noise -150 dBm/Hz, one sweep's scatter.
  std::exponential_distribution<double> one_sweep(1.0);
  const double own_noise = power_ratio_from_db(-150.0) * kNoisePerWidth * a.rbw_hz;
  std::vector<double> power(a.points);
  for (double& p : power) p = own_noise * one_sweep(random);
  if (output.synthesizer() && output.is_keyed())
    add_synthesizer(*output.synthesizer(), seen, a.rbw_hz, from, spacing, power, random);
  if (seen.receiver) add_receiver(*seen.receiver, seen, a.rbw_hz, from, spacing, power, random);
  // Each zone in the span as a recording of its own, seen through a Gaussian filter.
  constexpr double kRate = 400e3;
  constexpr std::size_t kSegment = 1U << 15U;
  const double carrier = output.carrier_hz();
  for (int zone = 1; zone <= 10 && output.is_keyed() && !output.synthesizer() && !seen.receiver;
       ++zone) {
    const double middle = zone * carrier;
    if (middle < from - kRate / 2.0 || middle > from + a.span_hz + kRate / 2.0) continue;
    std::vector<std::complex<float>> x(2 * kSegment);
    output.fill(middle, kRate, start, x, random);
    WelchSettings welch;
    welch.segment = kSegment;
    welch.threads = 1;
    const Spectrum s = welch_spectrum(memory_capture(x, kRate), welch);
    const Ripple ripple = seen.ripple_of("the analyser", middle);
    const double gain = seen.true_gain_db(middle) + seen.truth.analyser_error_db + 30.0;
    for (std::size_t k = 0; k < s.power.size(); ++k) {
      const double hz = middle + s.frequency_hz(k);
      constexpr double kPeriodHz = 37e3;
      const double bent =
          ripple.amplitude_db * std::cos(2.0 * std::numbers::pi * hz / kPeriodHz + ripple.phase);
      const double p = static_cast<double>(s.power[k]) * power_ratio_from_db(gain + bent);
      if (p < 1e-22) continue;
      const double reach = 3.6 * a.rbw_hz;  // -156 dB
      const auto first = static_cast<std::ptrdiff_t>(std::ceil((hz - reach - from) / spacing));
      const auto last = static_cast<std::ptrdiff_t>(std::floor((hz + reach - from) / spacing));
      for (std::ptrdiff_t i = std::max<std::ptrdiff_t>(0, first);
           i <= std::min<std::ptrdiff_t>(last, static_cast<std::ptrdiff_t>(a.points) - 1); ++i) {
        const double off = from + static_cast<double>(i) * spacing - hz;
        power[static_cast<std::size_t>(i)] +=
            p * power_ratio_from_db(-3.0103 * std::pow(2.0 * off / a.rbw_hz, 2.0));
      }
    }
  }
  std::string reply;
  bool over = false;
  for (const double p : power) {
    const double dbm = db_from_power_ratio(p);
    over = over || dbm > 10.0;
    reply += fmt::format("{}{:.2f}", reply.empty() ? "" : ",", dbm);
  }
  was_over_ = over;
  return reply;
}

}  // namespace heron::sim

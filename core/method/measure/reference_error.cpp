#include "core/method/measure/reference_error.h"

#include <cmath>

#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

Figure error_figure(double ppm) {
  Figure f;
  f.id = "error";
  f.label = "Frequency error";
  f.unit = "ppm";
  f.value = ppm;
  return f;
}

}  // namespace

std::vector<Contribution> counter_contributions(const CounterSetting& c, double nominal_hz) {
  std::vector<Contribution> all{{"one count of the gate",
                                 kPerMillion / (c.gate_s * nominal_hz) / std::sqrt(3.0),
                                 Scope::independent}};
  if (c.timebase_ppm)
    all.push_back({"timebase of the counter", *c.timebase_ppm / std::sqrt(3.0), Scope::common});
  if (c.ageing_ppm_per_year * c.years > 0.0)
    all.push_back({"ageing since calibration", c.ageing_ppm_per_year * c.years / std::sqrt(3.0),
                   Scope::common});
  return all;
}

Figure counted_error(double measured_hz, double nominal_hz, const CounterSetting& counter) {
  Figure f = error_figure((measured_hz - nominal_hz) / nominal_hz * kPerMillion);
  f.contributions = counter_contributions(counter, nominal_hz);
  return f;
}

double beat_error_hz(const BeatNote& b) {
  return b.carrier_hz - b.dial_hz + (b.is_upper ? -b.tone_hz : b.tone_hz);
}

Figure beat_error(const BeatNote& b) {
  Figure f = error_figure(beat_error_hz(b) / b.carrier_hz * kPerMillion);
  const auto add = [&](const char* source, double ppm, Scope scope) {
    if (ppm > 0.0) f.contributions.push_back({source, ppm, scope});
  };
  add("tone", b.u_tone_hz / b.carrier_hz * kPerMillion, Scope::independent);
  add("frequency of the source", b.u_carrier_ppm, Scope::common);
  add("step of the dial", b.dial_step_hz / 2.0 / std::sqrt(3.0) / b.carrier_hz * kPerMillion,
      Scope::independent);
  return f;
}

Figure error_on_band(const Figure& ppm, double frequency_hz) {
  Figure f = ppm;
  f.id = "band_error";
  f.label = "Error at " + frequency_text(frequency_hz);
  f.unit = "Hz";
  f.value *= frequency_hz / kPerMillion;
  for (Contribution& c : f.contributions) c.u *= frequency_hz / kPerMillion;
  return f;
}

Figure relative_error(const Figure& hz, double frequency_hz) {
  Figure f = hz;
  f.unit = "ppm";
  f.value *= kPerMillion / frequency_hz;
  for (Contribution& c : f.contributions) c.u *= kPerMillion / frequency_hz;
  return f;
}

Limit limit_on_band(Limit limit, double frequency_hz) {
  limit.value *= frequency_hz / kPerMillion;
  limit.span *= frequency_hz / kPerMillion;
  limit.unit = "Hz";
  return limit;
}

std::vector<BandError> errors_at(const Figure& ppm, const std::vector<double>& bands_hz) {
  std::vector<BandError> all;
  for (const double hz : bands_hz) {
    const Figure f = error_on_band(ppm, hz);
    all.push_back({hz, f.value, f.u()});
  }
  return all;
}

bool is_sufficient(double u_ppm, double tolerance_ppm) {
  return u_ppm <= std::abs(tolerance_ppm) / 3.0;
}

std::string error_words(const Figure& ppm) {
  if (std::abs(ppm.value) <= ppm.expanded()) return "no error found";
  return ppm.value < 0.0 ? "oscillator low: the dial reads high"
                         : "oscillator high: the dial reads low";
}

}  // namespace heron

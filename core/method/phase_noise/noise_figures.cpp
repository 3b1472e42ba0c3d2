#include "core/method/phase_noise/noise_figures.h"

#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

/// A square root of power: half of what is relative.
Figure of_integral(const NoiseIntegral& i, double value, double u_rel, const NoisePlan& plan) {
  Figure f;
  f.value = value;
  f.bound = i.bound;
  if (u_rel > 0.0)
    f.contributions.push_back({"scatter of the noise", u_rel * value, Scope::independent});
  add_level_uncertainty(f, kPowerPerDb / 2.0 * value, plan);
  return f;
}

}  // namespace

void add_level_uncertainty(Figure& f, double per_db, const NoisePlan& plan) {
  f.contributions.push_back({"scale of the levels", per_db * plan.scale_db, Scope::common});
  f.contributions.push_back({"repeatability", per_db * plan.repeats_db, Scope::independent});
}

Figure level_figure(const CurvePoint& point, const NoisePlan& plan) {
  Figure f;
  f.id = "phase_noise";
  f.label = "L at " + frequency_text(point.offset_hz);
  f.unit = "dBc/Hz";
  f.value = point.l_dbc_hz;
  f.bound = point.bound;
  f.contributions = {{"scatter of the noise", point.u_db, Scope::independent}};
  if (point.u_common_db > 0.0)
    f.contributions.push_back({"level of the trace", point.u_common_db, Scope::common});
  add_level_uncertainty(f, 1.0, plan);
  return f;
}

Figure rms_figure(const NoiseIntegral& i, const NoisePlan& plan) {
  Figure f = of_integral(i, i.rms_deg(), i.u_rel, plan);
  f.id = "rms_phase";
  f.label = "RMS phase";
  f.unit = "\u00b0";
  return f;
}

Figure residual_fm_figure(const NoiseIntegral& i, const NoisePlan& plan) {
  Figure f = of_integral(i, i.residual_fm_hz, i.u_fm_rel, plan);
  f.id = "residual_fm";
  f.label = "Residual FM";
  f.unit = "Hz";
  return f;
}

}  // namespace heron

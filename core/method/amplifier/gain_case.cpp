#include "core/method/amplifier/gain_case.h"

#include "core/method/amplifier/gain_take.h"
#include "core/quantity/in_watts.h"

namespace heron {

GainCase::GainCase(const Evidence& of)
    : evidence(of),
      settings(gain_settings_from_json(of.settings)),
      plan(amplifier_plan(of)),
      amplifier(assess_amplifier(driven_steps(of), plan)) {
  if (amplifier.frequency_hz) mask = generic_mask(*amplifier.frequency_hz);
  if (of.compared == nullptr) return;
  compared = assess_amplifier(driven_steps(*of.compared), amplifier_plan(*of.compared));
  changes = compare_gain(amplifier, *compared, of.is_compared_on_same);
}

Figure GainCase::shown(const Figure& dbm) const {
  return settings.is_in_watts ? in_watts(dbm) : dbm;
}

}  // namespace heron

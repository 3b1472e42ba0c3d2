#include "core/method/phase_noise/reciprocal_method.h"

#include "core/method/phase_noise/noise_method.h"
#include "core/method/phase_noise/reciprocal_result.h"
#include "core/method/phase_noise/reciprocal_settings.h"

namespace heron {

const Method& reciprocal_method() {
  static const Method method{.id = "reciprocal",
                             .step_head = "Case",
                             .settings_key = kReciprocalSettings,
                             .settings = reciprocal_setting_fields(),
                             .usual_settings = usual_reciprocal_settings,
                             .setting_words = reciprocal_setting_words,
                             .check = check_reciprocal_settings,
                             .limit = reciprocal_limit,
                             .companion = phase_noise_method().id,
                             .is_joint = true,
                             .is_calculated = true,
                             .evaluate = evaluate_reciprocal};
  return method;
}

}  // namespace heron

#include "core/method/phase_noise/loop_method.h"

#include "core/method/phase_noise/family_method.h"
#include "core/method/phase_noise/loop_result.h"
#include "core/method/phase_noise/loop_settings.h"
#include "core/method/phase_noise/loop_what_if.h"

namespace heron {

const Method& loop_method() {
  static const Method method{.id = "loop",
                             .step_head = "Loop",
                             .settings_key = kLoopSettings,
                             .settings = loop_setting_fields(),
                             .usual_settings = usual_loop_settings,
                             .setting_words = loop_setting_words,
                             .check = check_loop_settings,
                             .limit = loop_limit,
                             .companion = noise_family_method().id,
                             .is_joint = true,
                             .is_calculated = true,
                             .tried = loop_tried,
                             .evaluate = evaluate_loop};
  return method;
}

}  // namespace heron

#include "instrument/rf_state.h"

#include "core/error.h"

namespace heron {

RfState ask_rf(ScpiSession& source) {
  const RoleKind* kind = source.source_role();
  if (kind == nullptr || !source.can(kind->role, "is_output_on")) return RfState::unknown;
  return source.ask_yes_or_no(kind->role, "is_output_on") ? RfState::on : RfState::confirmed_off;
}

RfOff switch_rf_off(ScpiSession& source) {
  const RoleKind* kind = source.source_role();
  if (kind == nullptr) return RfOff::failed;
  // A stop that was asked for must not keep RF from being switched off.
  source.set_stop({});
  for (int attempt = 0; attempt < 2; ++attempt) {
    try {
      source.tell(kind->role, "output_off");
      const RfState state = ask_rf(source);
      if (state != RfState::on)
        return state == RfState::confirmed_off ? RfOff::confirmed : RfOff::told;
    } catch (const InputError&) {
      continue;  // once more, over a new line
    }
  }
  return RfOff::failed;
}

}  // namespace heron

#include "instrument/rf_state.h"

#include "core/error.h"

namespace heron {

RfState ask_rf(ScpiSession& source) {
  const RoleKind* kind = source.source_role();
  if (kind == nullptr || !source.can(kind->role, "is_output_on")) return RfState::unknown;
  return source.ask_yes_or_no(kind->role, "is_output_on") ? RfState::on : RfState::off;
}

RfState switch_rf_off(ScpiSession& source) {
  const RoleKind* kind = source.source_role();
  if (kind == nullptr) return RfState::unknown;
  // A stop that was asked for must not keep RF from being switched off.
  source.set_stop({});
  for (int attempt = 0; attempt < 2; ++attempt) {
    try {
      source.tell(kind->role, "output_off");
      if (const RfState state = ask_rf(source); state != RfState::on) return state;
    } catch (const InputError&) {
      // Once more, over a new line.
    }
  }
  return RfState::unknown;
}

}  // namespace heron

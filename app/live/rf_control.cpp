#include "app/live/rf_control.h"

#include "app/live/live_instruments.h"
#include "app/live/live_ladder.h"
#include "app/live/look_run.h"
#include "app/live/meter_watch.h"

namespace heron {

RfControl::Dropped RfControl::drop() {
  const bool was_looking = look_.drop_rf();
  const bool was_taking = ladder_.drop_rf() || was_looking;
  const bool may_be_on = bench_.rf().value_or(RfState::confirmed_off) != RfState::confirmed_off;
  if (bench_.switch_rf_off() && may_be_on) return Dropped::output;
  return was_taking ? Dropped::run : Dropped::nothing;
}

void RfControl::end() {
  look_.end();
  watch_.end();
  ladder_.end();
}

}  // namespace heron

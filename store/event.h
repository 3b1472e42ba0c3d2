#pragma once

#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "store/shack.h"

namespace heron {

/// Those of a test that were not removed, in order of time.
std::vector<Event> events(const Shack& shack, Id test);
/// Returns its id. An empty time is now.
Id add_event(Shack& shack, Id test, const Event& event);
void set_event_removed(Shack& shack, Id id, bool removed);

}  // namespace heron

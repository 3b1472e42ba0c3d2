#include "app/session/session.h"

namespace heron {
namespace {

/// Slow machines and sanitizers too: a window test looks at what is done.
[[maybe_unused]] const bool kIsPatient = [] {
  Session::patience = std::chrono::minutes(10);
  return true;
}();

}  // namespace
}  // namespace heron

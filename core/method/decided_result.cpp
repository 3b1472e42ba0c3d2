#include "core/method/decided_result.h"

#include "core/method/acceptance.h"
#include "core/method/provisional.h"

namespace heron {

Result decided_result(const Method& method, const Evidence& evidence) {
  Result r = method.evaluate(evidence);
  if (const auto accepted = acceptance_of(evidence.settings)) apply_acceptance(*accepted, r);
  mark_provisional(method, evidence, r);
  return r;
}

}  // namespace heron

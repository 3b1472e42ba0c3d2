#include "core/judge/record_remarks.h"

#include "core/quantity/in_watts.h"

namespace heron {

Remark damaged_remark(const std::string& of, const std::string& damage) {
  return {"damaged", Severity::fault,
          of + " is damaged in the shack (" + damage +
              "): that part counts as not there, the rest works.",
          "Restore the shack from a copy, or enter it again"};
}

Remark not_planned_remark(const std::string& why) {
  return {"not_planned", Severity::caution, why, ""};
}

Remark overridden_remark(const std::string& by, double pep_dbm, const std::string& why) {
  return {"vouched", Severity::caution,
          by + " overrode the ratings of an unsafe hook-up at " + watts_text(pep_dbm) + ": " + why,
          ""};
}

}  // namespace heron

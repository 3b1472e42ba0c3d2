#include "core/method/measure/recorder_linearity.h"

namespace heron {

Contribution RecorderLinearity::contribution() const {
  return {is_assumed ? "recorder linearity, assumed" : "recorder linearity", u_db, Scope::common};
}

RecorderLinearity recorder_linearity(const std::optional<double>& stated_u_db, const Chain* chain) {
  const Part* recorder = chain != nullptr ? recorder_of(*chain) : nullptr;
  std::optional<double> known = stated_u_db;
  if (!known && recorder != nullptr) known = recorder->linearity_u_db;
  if (!known) return {};
  return {*known, false, *known == 0.0};
}

void add_linearity_remark(std::vector<Remark>& remarks, const RecorderLinearity& linearity,
                          bool has_hookup) {
  if (linearity.is_left_out) {
    remarks.push_back({"linearity_left_out", Severity::caution,
                       "The recorder's linearity is left out: the \u00b1 holds only for a perfect "
                       "recorder.",
                       "State its linearity"});
  } else if (linearity.is_assumed) {
    remarks.push_back(
        {"linearity_assumed", Severity::note,
         has_hookup ? "The recorder does not say how linear it is: \u00b1 0.5 dB between lines is "
                      "assumed."
                    : "No hook-up is described: path and recorder are assumed, with \u00b1 0.5 dB "
                      "between lines.",
         has_hookup ? "State its linearity on the bench" : "Describe the hook-up"});
  }
}

}  // namespace heron

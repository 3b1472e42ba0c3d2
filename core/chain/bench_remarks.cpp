#include "core/chain/bench_remarks.h"

#include <cmath>
#include <fmt/format.h>
#include <set>

#include "core/quantity/format.h"

namespace heron {

double expanded_on(const Part& part, const std::string& on) {
  return 2.0 * std::hypot(part.u_db, ageing_u_db(part.calibration, part.u_db, on));
}

std::optional<Remark> overdue_remark(const Part& part, const std::string& on) {
  if (calibration_state(part.calibration, on) != CalibrationState::overdue) return std::nullopt;
  return Remark{"overdue", Severity::caution,
                fmt::format("{}: calibration overdue by {}, its \u00b1 grew from {} to {} dB.",
                            part.name, months_text(-*months_left(part.calibration, on)),
                            number_text(2.0 * part.u_db, 2), number_text(expanded_on(part, on), 2)),
                ""};
}

std::vector<Remark> bench_remarks(const BenchItem& item, const std::vector<BenchUse>& uses,
                                  const std::string& on) {
  std::vector<Remark> remarks;
  const Part& part = item.part;
  if (calibration_state(part.calibration, on) == CalibrationState::overdue)
    remarks.push_back(
        {"overdue", Severity::caution,
         "Calibration overdue by " + months_text(-*months_left(part.calibration, on)) + ".",
         "Check it against a better one, then enter that"});
  if (item.sort == "generator" && item.level_means.empty())
    remarks.push_back({"dial", Severity::caution,
                       "Whether its dial reads EMF or PD is not stated: they differ by 6.02 dB.",
                       "State it in the details"});
  if (item.sort == "average_voltmeter")
    remarks.push_back(
        {"average", Severity::note,
         "An average-responding meter reads Gaussian noise 1.05 dB low, a sinusoid right.", ""});
  const bool is_part = find_bench_sort(item.sort)->kind != "instrument";
  if (is_part && !part.max_input_w && !part.max_input_dbm)
    remarks.push_back(
        {"rating_missing", Severity::caution,
         "No rating is stated: hook-ups cannot say whether its level is within its rating.",
         "Enter its rating in the details"});
  if (part.time_constant_s && !part.max_input_w)
    remarks.push_back({"tau", Severity::caution,
                       "A time constant without a continuous rating means nothing.",
                       "Enter the continuous rating"});
  std::set<std::string> said;  // the same test of two evaluations speaks once
  for (const BenchUse& use : uses) {
    if (use.verdict != Verdict::fail && use.verdict != Verdict::too_close) continue;
    if (!use.margin_db || *use.margin_db > 0.0) continue;
    if (!said.insert(use.test + "\n" + use.hookup).second) continue;
    remarks.push_back({"used", Severity::caution,
                       fmt::format("{} in {}: {}, margin {} dB.", use.test, use.hookup, use.limit,
                                   number_text(*use.margin_db, 1, true)),
                       ""});
  }
  if (part.gain.largest_db() > 0.0 && part.gain.largest_db() <= 0.1 && part.kind != "amplifier")
    remarks.push_back({"gain", Severity::note,
                       fmt::format("Its curve shows up to {} dB of gain: the measurement's own "
                                   "scatter.",
                                   number_text(part.gain.largest_db(), 2)),
                       ""});
  sort_remarks(remarks);
  return remarks;
}

std::string calibration_sentence(const Part& part, const std::string& on) {
  if (calibration_state(part.calibration, on) == CalibrationState::none)
    return "No calibration date: nothing is added for its age.";
  const std::string day = part.calibration.date.substr(0, 10);
  if (part.u_db > 0.0 && expanded_on(part, on) > 2.0 * part.u_db + 0.005)
    return fmt::format("\u00b1 {} dB on {}; age has widened it since, in quadrature.",
                       number_text(2.0 * part.u_db, 2), day);
  return fmt::format("Calibrated on {}.", day);
}

}  // namespace heron

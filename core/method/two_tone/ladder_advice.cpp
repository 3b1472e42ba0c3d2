#include "core/method/two_tone/ladder_advice.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

void advise_limit(LadderAdvice& advice, const std::vector<LadderTrace>& traces,
                  const Limit& limit) {
  advice.at_limit = output_at_limit(traces, limit.value);
  if (!advice.at_limit) {
    if (!traces.empty())
      advice.remarks.push_back({"never_passes", Severity::note,
                                fmt::format("No step meets the limit, {}.", limit_text(limit)),
                                ""});
    return;
  }
  const OutputAtLimit& at = *advice.at_limit;
  const auto watts_below = [](double dbm) {
    return number_text(std::floor(to_watt(Dbm{dbm}).value * 10.0) / 10.0, 1) + " W";
  };
  if (at.is_surely_at_least) {
    advice.remarks.push_back({"limit_beyond", Severity::note,
                              fmt::format("Even {}, the highest step measured, meets the limit.",
                                          watts_below(at.output_dbm)),
                              ""});
    return;
  }
  const std::string sure = at.sure_dbm
                               ? "It passes with certainty up to " + watts_below(*at.sure_dbm) + "."
                               : "No step passes with certainty.";
  if (at.is_at_least) {
    advice.remarks.push_back(
        {"limit_near", Severity::note,
         fmt::format("At {}, the highest step measured, {}. {}", watts_text(at.output_dbm),
                     at.unread_order ? fmt::format("IM{} was not read", *at.unread_order)
                                     : std::string("the limit is too close to call"),
                     sure),
         ""});
    return;
  }
  const double w = to_watt(Dbm{at.output_dbm}).value;
  const double expanded = 2.0 * at.u_db / kDbPerRelativePower * w;
  const int decimals = decimals_for(expanded, Rounding::compact);
  advice.remarks.push_back(
      {"limit_at", Severity::note,
       fmt::format("The limit is reached at {} \u00b1 {} W, between steps. {}",
                   number_text(w, decimals), number_text(expanded, decimals), sure),
       ""});
}

void advise_driven(LadderAdvice& advice, const DrivenAmplifier& driven, const std::string& name,
                   std::optional<double> ceiling_dbm) {
  if (name.empty()) return;
  if (driven.points.empty()) {
    advice.remarks.push_back(
        {"driven_unknown", Severity::caution,
         fmt::format(
             "The drive ranges of the exciter and of {} do not overlap: nothing can be predicted.",
             name),
         fmt::format("Name the steps of {} after their drive, such as 12 W, inside the exciter's "
                     "range",
                     name)});
    return;
  }
  if (driven.exciter_at_limit_dbm) {
    advice.advised_ceiling_dbm = driven.exciter_at_limit_dbm;
    // Down, not to the nearest: what is said has to keep the limit.
    const double exciter =
        std::floor(to_watt(Dbm{*driven.exciter_at_limit_dbm}).value * 10.0) / 10.0;
    const bool is_set = ceiling_dbm && *ceiling_dbm <= *driven.exciter_at_limit_dbm + 0.02;
    advice.remarks.push_back(
        {"driven_limit", Severity::note,
         fmt::format("Into {}, {} W {} the whole predicted band under the limit: {} out of it.",
                     name, number_text(exciter, 1),
                     driven.is_limit_beyond ? "and less keep" : "is the most that keeps",
                     watts_text(*driven.amplifier_at_limit_dbm)),
         is_set ? "" : fmt::format("Set the ceiling to {} W", number_text(exciter, 1))});
  } else if (!driven.points.empty()) {
    advice.remarks.push_back(
        {"driven_never", Severity::caution,
         fmt::format("With {} behind, no drive keeps the whole predicted band under the limit.",
                     name),
         ""});
  }
  for (const DrivenComparison& m : driven.measured) {
    if (m.place == 0) continue;
    const double apart =
        m.place > 0 ? m.measured_db - m.in_phase_db : m.measured_db - *m.power_sum_db;
    advice.remarks.push_back(
        {"driven_differs", m.place > 0 ? Severity::caution : Severity::note,
         m.place > 0
             ? fmt::format(
                   "Measured with {} at {}: {} dB, {} dB above what both alone can produce. "
                   "Supply, feedback or ALC?",
                   name, watts_text(m.exciter_dbm), number_text(m.measured_db, 1),
                   number_text(apart, 1))
             : fmt::format("Measured with {} at {}: {} dB, {} dB below the power sum: their "
                           "products partly cancel.",
                           name, watts_text(m.exciter_dbm), number_text(m.measured_db, 1),
                           number_text(-apart, 1)),
         ""});
  }
}

}  // namespace

std::vector<Remark> ladder_remarks(std::vector<Remark> ladder, const LadderAdvice& advice) {
  // Between the steps is known more exactly than at the step below.
  const bool knows_limit =
      std::any_of(advice.remarks.begin(), advice.remarks.end(), [](const Remark& r) {
        return r.code == "limit_at" || r.code == "limit_beyond" || r.code == "limit_near" ||
               r.code == "never_passes";
      });
  if (knows_limit) std::erase_if(ladder, [](const Remark& r) { return r.code == "sweet_spot"; });
  ladder.insert(ladder.end(), advice.remarks.begin(), advice.remarks.end());
  return ladder;
}

LadderAdvice advise_ladder(const std::vector<LadderTrace>& traces,
                           const std::optional<Limit>& limit, std::optional<double> ceiling_dbm,
                           const DrivenAmplifier& driven, const std::string& amplifier) {
  LadderAdvice advice;
  if (limit) advise_limit(advice, traces, *limit);
  if (ceiling_dbm) {
    advice.at_ceiling = worst_at(traces, *ceiling_dbm, limit ? limit->convention : kRePep);
    if (!advice.at_ceiling && !traces.empty())
      advice.remarks.push_back(
          {"ceiling_outside", Severity::caution,
           fmt::format("The ceiling of {} lies outside the steps: nothing is known there.",
                       watts_text(*ceiling_dbm)),
           "Measure a step at the ceiling"});
  }
  advise_driven(advice, driven, amplifier, ceiling_dbm);
  return advice;
}

}  // namespace heron

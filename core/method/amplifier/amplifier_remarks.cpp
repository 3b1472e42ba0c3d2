#include "core/method/amplifier/amplifier_remarks.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/station_power.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kFarOffDb = 5.0;
constexpr double kNearLimitShare = 0.95;

using Remarks = std::vector<Remark>;

std::string volts_text(double v) {
  return number_text(v, 1) + " V";
}

void remark_rows(const Amplification& a, bool is_in_order, Remarks& to) {
  for (const DrivenRow& r : a.rows) {
    if (!r.refusal.empty())
      to.push_back(
          {"row", Severity::caution, r.label + ": " + r.refusal + "; it is left out.",
           r.output && r.input && r.output->value < r.input->value
               ? "Check that all attenuation is counted in, and that the columns are not exchanged"
               : "Correct the row"});
    if (r.output && r.output->value > kMostStationDbm)
      to.push_back({"too_much", Severity::caution,
                    fmt::format("{}: {} is more than any amateur station sends.", r.label,
                                watts_text(r.output->value)),
                    "Check the unit and the attenuation"});
    if (r.efficiency && r.efficiency->value - r.efficiency->expanded() > 100.0)
      to.push_back({"efficiency", Severity::fault,
                    fmt::format("{}: {} % of the DC power cannot come out.", r.label,
                                number_text(r.efficiency->value, 0)),
                    "Check amperes and the attenuation before the meter"});
    if (r.creep_db && std::abs(*r.creep_db) > kCreepDb)
      to.push_back(
          {"creep", Severity::caution,
           fmt::format("{}: drive crept by {} dB while the step was measured; the middle is used.",
                       r.label, number_text(*r.creep_db, 2, true)),
           "Let the driver warm up, and measure the step again"});
  }
  if (!is_in_order)
    to.push_back(
        {"order", Severity::note, "The steps are not in order of drive; they were sorted.", ""});
  std::string missing;
  std::size_t count = 0;
  for (const std::size_t i : a.rising) {
    if (a.rows[i].efficiency) continue;
    ++count;
    missing += (missing.empty() ? "" : ", ") + a.rows[i].label;
  }
  if (count > 0 && count == a.rising.size())
    to.push_back(
        {"no_dc", Severity::note,
         "No volts and amperes: efficiency, heat and what the supply allows are not known.",
         "Read volts and amperes at the amplifier\u2019s terminals with each step"});
  else if (count > 0)
    to.push_back({"no_dc", Severity::note, fmt::format("Without volts and amperes: {}.", missing),
                  "Read both with each step"});
}

void remark_scope(const Amplification& a, Remarks& to) {
  if (a.rising.size() == 1) {
    to.push_back({"one_step", Severity::caution,
                  "One step: this test could not have shown compression.",
                  "Measure at least two more, one of them 10 dB lower"});
    return;
  }
  if (a.rising.empty()) return;
  if (a.one_db_out && a.one_db_out->bound == Bound::lower) {
    const DrivenRow& top = a.rows[a.rising.back()];
    to.push_back(
        {"not_reached", Severity::note,
         fmt::format(
             "Only {} dB down at the highest drive: this test could not have shown the 1 dB point.",
             number_text(std::max(0.0, top.compression->value), 2)),
         ""});
  }
  if (a.curve.expansion_db() > 0.0)
    to.push_back(
        {"expansion", Severity::caution,
         fmt::format(
             "Gain rises by {} dB above that of the lowest drive before it falls; compression "
             "counts from the lowest.",
             number_text(a.curve.expansion_db(), 2)),
         "Read the quiescent current: bias may be low"});
  if (!a.curve.is_fitted() && a.curve.flat_steps() < 2 && a.curve.expansion_db() == 0.0)
    to.push_back(
        {"not_flat", Severity::caution,
         fmt::format("Gain falls from the lowest step on: {} dB may not be the small-signal gain.",
                     number_text(a.curve.gain_db(), 1)),
         "Add a step 10 dB lower"});
}

/// "The supply stops at 4.5 A: 60 W need about 4.6 A".
void remark_supply(const Amplification& a, const AmplifierPlan& plan, Remarks& to) {
  double most_out = -1e300;
  for (const std::size_t i : a.rising) most_out = std::max(most_out, a.rows[i].output->value);
  if (plan.supply_limit_a && a.current) {
    const double limit = *plan.supply_limit_a;
    const double reach_w = a.current->output_at(limit);
    if (a.needed_a && a.needed_a->value > limit && !a.rising.empty()) {
      to.push_back(
          {"supply_limit", Severity::caution,
           fmt::format(
               "This supply stops at {} A: the amplifier needs about {} A for its rated {}; what "
               "was measured is up to {}.",
               number_text(limit, 1), format_figure(*a.needed_a, Rounding::compact).value,
               watts_text(*plan.rated_output_dbm), watts_text(most_out)),
           fmt::format("Use a supply of {} A or more, or judge it up to {} only",
                       number_text(std::ceil(a.needed_a->value * 1.1), 0), watts_text(most_out))});
    }
    if (plan.rated_input_dbm && a.gain && reach_w > 0.0) {
      const double linear_w = to_watt(Dbm{*plan.rated_input_dbm + a.gain->value}).value;
      const bool is_rating_beyond =
          plan.rated_output_dbm && to_watt(Dbm{*plan.rated_output_dbm}).value > reach_w;
      if (linear_w > reach_w)
        to.push_back(
            {"supply_power", Severity::note,
             fmt::format(
                 "Linear gain alone would predict {} for {} of drive, more than {} A can deliver "
                 "(about {}){}.",
                 engineering_text(linear_w, "W", 3), watts_text(*plan.rated_input_dbm),
                 number_text(limit, 1), engineering_text(reach_w, "W", 2),
                 is_rating_beyond
                     ? ": the output printed on the case cannot be met with this supply"
                     : ""),
             ""});
    }
    for (const std::size_t i : a.rising) {
      const DrivenRow& r = a.rows[i];
      if (!r.amperes || r.amperes->value < kNearLimitShare * limit) continue;
      to.push_back(
          {"near_limit", Severity::caution,
           fmt::format("{}: {} A of the {} A that the supply gives; it may limit what comes out.",
                       r.label, number_text(r.amperes->value, 2), number_text(limit, 1)),
           "Raise the limit of the supply if it and the amplifier allow that, and measure again"});
      break;
    }
  }
  const DrivenRow* lowest_v = nullptr;
  for (const std::size_t i : a.rising)
    if (a.rows[i].is_sagged &&
        (lowest_v == nullptr || a.rows[i].volts->value < lowest_v->volts->value))
      lowest_v = &a.rows[i];
  if (lowest_v != nullptr) {
    const double cost = 20.0 * std::log10(lowest_v->volts->value / *plan.nominal_v);
    std::string text = fmt::format(
        "{}: the supply sags to {} of {}, which is worth {} dB at full output; figures there "
        "count only as \u201cat least\u201d.",
        lowest_v->label, volts_text(lowest_v->volts->value), volts_text(*plan.nominal_v),
        number_text(cost, 2));
    to.push_back(
        {"sag", Severity::caution, text, "Shorten the leads, or set the supply for its terminals"});
  }
}

void remark_gain(const Amplification& a, const AmplifierPlan& plan, Remarks& to) {
  if (a.gain && plan.specified_gain_db) {
    const double off = a.gain->value - *plan.specified_gain_db;
    const bool is_within = std::abs(off) <= a.gain->expanded();
    to.push_back({"gain", Severity::note,
                  fmt::format("Gain {} dB against {} dB specified: {}.",
                              format_figure(*a.gain, Rounding::compact).value,
                              number_text(*plan.specified_gain_db, 1),
                              is_within ? "within uncertainty"
                                        : fmt::format("{} dB {}", number_text(std::abs(off), 1),
                                                      off < 0.0 ? "less" : "more")),
                  ""});
  }
  for (const std::size_t i : a.rising) {
    const DrivenRow& r = a.rows[i];
    const double over = r.output->value - r.input->value - a.curve.gain_db();
    if (a.curve.expansion_db() == 0.0 && over > std::max(0.3, 2.0 * r.compression->u()))
      to.push_back({"above_linear", Severity::caution,
                    fmt::format("{}: output is {} dB above what linear gain allows.", r.label,
                                number_text(over, 1)),
                    "Check the drive reading of this step"});
  }
  // One cause shifts all steps.
  const DrivenRow* worst = nullptr;
  double worst_off = 0.0;
  for (const std::size_t i : a.rising) {
    const DrivenRow& r = a.rows[i];
    if (!r.expected_dbm) continue;
    const double off = r.output->value - *r.expected_dbm;
    if (std::abs(off) > std::max(kFarOffDb, std::abs(worst_off))) {
      worst = &r;
      worst_off = off;
    }
  }
  if (worst != nullptr) {
    const std::string looks = offset_words(worst_off, plan);
    to.push_back(
        {"offset", Severity::caution,
         fmt::format("{}: {} dB {} the expected {}{}.", worst->label,
                     number_text(std::abs(worst_off), 1), worst_off > 0.0 ? "above" : "below",
                     watts_text(*worst->expected_dbm), looks.empty() ? "" : ": " + looks),
         looks.empty() ? "Check levels, connectors and the specified gain"
                       : "Count it once, and read again"});
  }
}

}  // namespace

std::string offset_words(double off_db, const AmplifierPlan& plan) {
  constexpr double kNear = 1.5;
  const double size = std::abs(off_db);
  const auto is_near = [&](double db) { return db > 0.0 && std::abs(size - db) < kNear; };
  const std::string way = off_db > 0.0 ? "counted twice" : "not counted at all";
  if (std::abs(plan.meter_offset_db) > kFarOffDb && is_near(std::abs(plan.meter_offset_db)))
    return fmt::format("it looks like the {} dB set in the meter, {}",
                       number_text(std::abs(plan.meter_offset_db), 1), way);
  if (is_near(plan.probe_db))
    return fmt::format("it looks like the factor of the probe ({} dB), {}",
                       number_text(plan.probe_db, 0), way);
  if (plan.is_drive_in_emf && std::abs(size - 6.02) < 1.0)
    return "it looks like EMF taken for PD (6.02 dB)";
  for (const double db : {10.0, 20.0, 30.0, 40.0, 50.0, 60.0})
    if (is_near(db))
      return fmt::format("it looks like {} dB of attenuation, {}", number_text(db, 0), way);
  if (std::abs(size - 6.02) < 0.7)
    return "it looks like EMF taken for PD, or a missing termination (6.02 dB)";
  return "";
}

std::vector<Remark> amplifier_remarks(const std::vector<DrivenStep>& steps, const Amplification& a,
                                      const AmplifierPlan& plan, bool is_in_order) {
  Remarks all;
  remark_rows(a, is_in_order, all);
  remark_scope(a, all);
  remark_supply(a, plan, all);
  remark_gain(a, plan, all);
  if (plan.second_reader) {
    std::vector<TwoWays> ways;
    for (std::size_t i = 0; i < steps.size(); ++i) {
      const DrivenStep& s = steps[i];
      if (!s.output || !s.second_output) continue;
      TwoWays w{s.label, *s.output, *s.second_output, std::nullopt};
      std::vector<double> levels;
      if (s.second_dbc) levels.push_back(*s.second_dbc);
      if (s.third_dbc) levels.push_back(*s.third_dbc);
      if (!levels.empty()) w.harmonics_db = harmonics_add_db(levels);
      ways.push_back(std::move(w));
    }
    const auto said = compare_ways(ways, plan.reader, *plan.second_reader);
    all.insert(all.end(), said.begin(), said.end());
  }
  sort_remarks(all);
  return all;
}

}  // namespace heron

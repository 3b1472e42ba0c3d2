#include "core/method/receiver/indicator_substitution.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kBetweenU = 0.2;  ///< standard: of a generator between two of its levels
constexpr double kReadU = 0.3;     ///< standard: of the needle brought to the same place

std::string shown(const IndicatorReading& r) {
  return r.is_segments ? fmt::format("{:g}", r.segments) : indicator_text(r.db);
}

bool is_same_indication(const IndicatorRead& x, const IndicatorRead& y) {
  return lower_case(x.band) == lower_case(y.band) && x.is_after == y.is_after &&
         shown(x.point.reading) == shown(y.point.reading) &&
         x.point.reading.is_segments == y.point.reading.is_segments;
}

void substitute(const IndicatorRead& in, const std::vector<IndicatorRead>& all, Substitution& s) {
  const double nominal_db = *in.attenuator_db;
  const auto without = std::find_if(all.begin(), all.end(), [&](const IndicatorRead& r) {
    return !r.attenuator_db && is_same_indication(in, r);
  });
  if (without == all.end()) {
    s.remarks.push_back(
        {"attenuator", Severity::note,
         fmt::format("{}, attenuator {:g} dB: it was not read without, at {}{}.",
                     in.band.empty() ? "It" : in.band, nominal_db, shown(in.point.reading),
                     in.is_after ? ", after S9 was moved" : ""),
         "Read the same indication with the attenuator out"});
    return;
  }
  Figure step;
  step.id = "attenuator_step";
  step.label = fmt::format("Attenuator {:g} dB", nominal_db);
  step.unit = "dB";
  step.value = in.point.level_dbm - without->point.level_dbm;
  // The same needle twice: what the generator's scale is off between the two, and how it is read.
  step.contributions = {{"generator, between two levels", kBetweenU, Scope::independent},
                        {"two readings", std::sqrt(2.0) * kReadU, Scope::independent}};
  s.steps.push_back({fmt::format("{}{:g} dB", in.band.empty() ? "" : in.band + ", ", nominal_db),
                     shown(in.point.reading), nominal_db, step});
  if (std::abs(step.value - nominal_db) > step.expanded())
    s.remarks.push_back({"attenuator_off", Severity::note,
                         fmt::format("The {:g} dB of the attenuator are {} dB{}.", nominal_db,
                                     figure_cell(step, 1), in.band.empty() ? "" : " at " + in.band),
                         ""});
}

}  // namespace

Substitution attenuator_steps(const std::vector<IndicatorRead>& all) {
  Substitution s;
  for (const IndicatorRead& read : all)
    if (read.attenuator_db) substitute(read, all, s);
  return s;
}

ResultTable attenuator_table(const std::vector<Substituted>& steps) {
  ResultTable t;
  t.title = "Attenuator, by substitution";
  t.tab = "attenuator";
  t.columns = {{"what", "Switched in", CellKind::name, -1},
               {"shows", "Both show", CellKind::figure, 90},
               {"step", "Really, dB", CellKind::figure, 130},
               {"off", "Off by, dB", CellKind::figure, 110}};
  for (const Substituted& s : steps) {
    ResultTable::Row row{std::nullopt, {{s.what}}};
    row.cells.push_back({s.shows});
    row.cells.push_back({figure_cell(s.step, 1), std::nullopt, true, s.step});
    row.cells.push_back({number_text(s.step.value - s.nominal_db, 1, true)});
    t.rows.push_back(std::move(row));
  }
  t.note = "The generator is raised until the indicator shows the same as without.";
  return t;
}

}  // namespace heron

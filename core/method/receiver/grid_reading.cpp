#include "core/method/receiver/grid_reading.h"

#include <algorithm>

#include "core/method/decided_result.h"
#include "core/method/measure/reference_error.h"
#include "core/method/method.h"
#include "core/method/place_name.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

/// A neighbour's test, evaluated once.
struct Told {
  const Neighbour* of;
  std::size_t column;
  Result result;
};

std::vector<Told> evaluated(const Evidence& evidence) {
  std::vector<Told> all;
  for (const Neighbour& n : evidence.neighbours) {
    const auto column = std::find_if(kGridColumns.begin(), kGridColumns.end(),
                                     [&](const GridColumn& c) { return n.method == c.method; });
    const Method* method = find_method(n.method);
    if (column == kGridColumns.end() || method == nullptr || n.evidence == nullptr) continue;
    all.push_back({&n, static_cast<std::size_t>(column - kGridColumns.begin()),
                   decided_result(*method, *n.evidence)});
  }
  return all;
}

GridBand* band_at(GridReading& grid, double hz, bool adds) {
  for (GridBand& b : grid.bands)
    if (is_same_band(b.frequency_hz, hz)) return &b;
  if (!adds) return nullptr;
  grid.bands.push_back({frequency_text(hz), hz, {}, {}});
  return &grid.bands.back();
}

/// A figure that no step or item is named after, such as that of a whole band, opens its test only.
CellLink link_to(const Told& told, const std::string& name) {
  const auto is_it = [&](const std::string& other) {
    return lower_case(normalised_typing(other)) == lower_case(normalised_typing(name));
  };
  const auto& items = told.result.items;
  const auto& steps = told.of->evidence->steps;
  const bool is_there =
      std::any_of(items.begin(), items.end(), [&](const auto& i) { return is_it(i.name); }) ||
      std::any_of(steps.begin(), steps.end(), [&](const auto& s) { return is_it(s.label); });
  return {told.of->test, is_there ? name : std::string()};
}

/// The latest moment at which something of a step was read; empty where none is known.
std::string read_at(const Told& told, const std::string& name) {
  const auto hz = named_frequency_hz(name);
  std::string latest;
  for (const EvidenceStep& step : told.of->evidence->steps)
    if (named_frequency_hz(step.label) == hz)
      for (const Reading& r : step.readings) latest = std::max(latest, r.at);
  return latest;
}

/// The last figure of a kind on each band; its verdict may be told of another one.
void read(const Told& told, bool adds_bands, GridReading& grid) {
  const GridColumn& c = kGridColumns[told.column];
  grid.has_test[told.column] = true;
  grid.tests[told.column] = told.of->test;
  for (const StepFigure& f : told.result.step_figures) {
    const auto hz = named_frequency_hz(f.step);
    if (!hz) continue;
    if (f.figure.id == "attenuator_step") {
      if (GridBand* band = band_at(grid, *hz, false)) band->attenuator = f.figure;
      continue;
    }
    const bool is_shown = *c.figure == '\0' || f.figure.id == c.figure;
    const bool is_judged = *c.judged == '\0' ? is_shown : f.figure.id == c.judged;
    if (!is_shown && !is_judged) continue;
    GridBand* band = band_at(grid, *hz, adds_bands);
    if (band == nullptr) continue;
    GridCell& cell = band->cells[told.column];
    if (is_shown) {
      // A band's own error is told in hertz.
      cell.figure = told.column == kDialColumn && f.figure.unit == "Hz"
                        ? relative_error(f.figure, *hz)
                        : f.figure;
      cell.from = link_to(told, f.step);
      cell.read_at = read_at(told, f.step);
    }
    if (!is_judged) continue;
    cell.judgement = f.judgement;
    cell.limit = f.limit;
  }
}

/// The pitch of recordings tells the dial where no test of its own does.
void read_dial(const Told& told, GridReading& grid) {
  for (const StepFigure& f : told.result.step_figures) {
    const auto hz = named_frequency_hz(f.step);
    if (f.figure.id != "dial_error" || !hz) continue;
    GridBand* band = band_at(grid, *hz, false);
    if (band == nullptr || band->cells[kDialColumn].figure) continue;
    band->cells[kDialColumn].figure = f.figure;
    band->cells[kDialColumn].from = link_to(told, f.step);
    band->cells[kDialColumn].read_at = read_at(told, f.step);
    grid.has_test[kDialColumn] = true;
  }
}

}  // namespace

Hearing GridBand::hearing() const {
  const auto& f = cells[kSensitivityColumn].figure;
  return !f ? Hearing::unknown : f->bound == Bound::lower ? Hearing::deaf : Hearing::hears;
}

bool GridReading::is_to_do(std::size_t band, std::size_t column) const {
  const GridBand& b = bands[band];
  return has_test[column] && tests[column] != 0 && !b.cells[column].figure &&
         (b.hearing() != Hearing::deaf || kGridColumns[column].hookup == GridHookup::transmitter);
}

std::vector<TriedBand> GridReading::tried() const {
  std::vector<TriedBand> all;
  for (const GridBand& b : bands) all.push_back({b.frequency_hz, b.hearing()});
  return all;
}

GridReading read_grid(const Evidence& evidence) {
  GridReading grid;
  const nlohmann::json& own = own_settings(evidence.settings, kGridSettings);
  try {
    if (own.contains(kGridParts)) grid.parts = band_parts_from_json(own.at(kGridParts));
    grid.is_by_band = own.value(kGridFillBy, "test") == "band";
  } catch (const nlohmann::json::exception& error) {
    refuse_damaged(error);
  }
  const std::vector<Told> all = evaluated(evidence);
  // How far off the dial is may have been read anywhere: that alone makes no row.
  for (const bool adds_bands : {true, false})
    for (const Told& told : all)
      if ((told.column != kDialColumn) == adds_bands) read(told, adds_bands, grid);
  for (const Told& told : all)
    if (told.column == kSensitivityColumn) read_dial(told, grid);
  std::stable_sort(grid.bands.begin(), grid.bands.end(), [](const GridBand& a, const GridBand& b) {
    return a.frequency_hz < b.frequency_hz;
  });
  return grid;
}

}  // namespace heron

#include "core/method/receiver/grid_compare.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/compare.h"
#include "core/method/place_name.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr int kRoomForTwoPx = 1800;

/// Where nothing was heard at the most, or the other way round; empty where both are figures.
std::string bound_words(std::size_t column, const Figure& now, const Figure& then) {
  if (now.bound == Bound::none && then.bound == Bound::none) return "";
  if (column != kSensitivityColumn) return "a bound";
  if (now.bound == then.bound) return "both deaf";
  return now.bound != Bound::none ? "deaf, was not" : "hears, was deaf";
}

/// "better by 1.7 ± 0.6"; of what is neither better nor worse its change.
std::string change_of(std::size_t column, const Figure& now, const Figure& then, bool is_on_same) {
  if (now.convention != then.convention || now.unit != then.unit) return "not alike";
  if (std::string words = bound_words(column, now, then); !words.empty()) return words;
  if (column == kDialColumn) {
    const Figure change = change_of_error(now, then, is_on_same);
    return change_words(change, change.value < 0.0, false);
  }
  const Figure change = change_between(now, then, is_on_same);
  if (column == kIndicatorColumn) return change_words(change, std::nullopt, false);
  const bool is_more_better = column == kGainColumn || column == kOutputColumn;
  return change_words(change, (change.value > 0.0) == is_more_better, false);
}

bool is_in_both(const ComparedGrid& with, const GridReading& now, std::size_t column) {
  return now.has_test[column] && with.then.has_test[column];
}

}  // namespace

const GridBand* ComparedGrid::band(const GridBand& now) const {
  const auto found = std::find_if(then.bands.begin(), then.bands.end(), [&](const GridBand& b) {
    return is_same_band(b.frequency_hz, now.frequency_hz);
  });
  return found == then.bands.end() ? nullptr : &*found;
}

std::optional<double> margin_then(const ComparedGrid& with, const GridBand& now,
                                  std::size_t column) {
  const GridBand* b = with.band(now);
  const GridCell& here = now.cells[column];
  // What is judged is another figure there than what is shown.
  if (b == nullptr || !here.limit || *kGridColumns[column].judged != '\0') return std::nullopt;
  const auto& figure = b->cells[column].figure;
  if (!figure || !here.figure || figure->unit != here.limit->unit ||
      figure->convention != here.figure->convention)
    return std::nullopt;
  Limit limit = *here.limit;
  limit.convention = figure->convention;  // levels of the generator are all PD
  return judge(*figure, limit).margin;
}

void add_columns_then(const ComparedGrid& with, const GridReading& now, ResultTable& table) {
  // Behind its own figures, before what all of a row says together.
  auto at = std::find_if(table.columns.begin(), table.columns.end(),
                         [](const TableColumn& c) {
                           return c.kind == CellKind::parts || c.kind == CellKind::verdict;
                         }) -
            table.columns.begin();
  for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
    if (!with.then.has_test[c]) continue;
    table.columns.insert(table.columns.begin() + at,
                         TableColumn{std::string("then_") + kGridColumns[c].method,
                                     std::string("Then: ") + kGridColumns[c].head, CellKind::figure,
                                     164, kRoomForTwoPx});
    for (std::size_t i = 0; i < now.bands.size(); ++i) {
      const GridBand* b = with.band(now.bands[i]);
      TableCell cell;
      if (b != nullptr && b->cells[c].figure) cell.text = figure_cell(*b->cells[c].figure, 1);
      table.rows[i].cells.insert(table.rows[i].cells.begin() + at, std::move(cell));
    }
    for (ResultTable::Row& row : table.rows)
      if (row.is_foot) row.cells.insert(row.cells.begin() + at, TableCell{});
    ++at;
  }
  table.note += " Then: " + with.name + "; a ring on the margin line is its margin at this limit.";
}

ResultTable grid_comparison(const ComparedGrid& with, const GridReading& now) {
  ResultTable t;
  t.title = "Compared with " + with.name;
  t.tab = "compared";
  t.columns = {{"band", "Band", CellKind::name, 104}};
  for (std::size_t c = 0; c < kGridColumns.size(); ++c)
    if (is_in_both(with, now, c))
      t.columns.push_back({kGridColumns[c].method, kGridColumns[c].head, CellKind::text, -1});
  for (std::size_t i = 0; i < now.bands.size(); ++i) {
    const GridBand& here = now.bands[i];
    const GridBand* there = with.band(here);
    ResultTable::Row row{i, {{here.name}}};
    for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
      if (!is_in_both(with, now, c)) continue;
      TableCell cell;
      if (there != nullptr && here.cells[c].figure && there->cells[c].figure)
        cell.text = change_of(c, *here.cells[c].figure, *there->cells[c].figure, with.is_on_same);
      row.cells.push_back(std::move(cell));
    }
    t.rows.push_back(std::move(row));
  }
  t.note =
      "Then: " + with.name + ". " +
      (with.is_on_same ? "Both were read in the same way: what they are off by in common cancels."
                       : "Read in different ways: nothing cancels.") +
      " Not alike: read at different input points.";
  return t;
}

}  // namespace heron

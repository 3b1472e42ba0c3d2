#include "core/method/receiver/grid_order.h"

#include <algorithm>
#include <fmt/format.h>

namespace heron {
namespace {

constexpr int kChangeMinutes = 4;  // of a hook-up
constexpr std::size_t kShownEntries = 3;

std::string counted(std::size_t n, const char* one, const char* many) {
  return fmt::format("{} {}", n, n == 1 ? one : many);
}

/// "12 min, 1 change"
std::string cost_words(int minutes, int changes) {
  return fmt::format("{} min, {}", minutes,
                     changes == 0
                         ? std::string("no change")
                         : counted(static_cast<std::size_t>(changes), "change", "changes"));
}

/// What a receiver is fed with and read by is there already; anything else is hooked up for it.
bool is_hooked_up_for(GridHookup hookup) {
  return hookup != GridHookup::audio && hookup != GridHookup::none;
}

}  // namespace

std::vector<GridPlace> GridOrder::to_do(bool is_by_band) const {
  const std::size_t outer = is_by_band ? grid_.bands.size() : kGridColumns.size();
  const std::size_t inner = is_by_band ? kGridColumns.size() : grid_.bands.size();
  std::vector<GridPlace> all;
  for (std::size_t o = 0; o < outer; ++o)
    for (std::size_t i = 0; i < inner; ++i) {
      const GridPlace at = is_by_band ? GridPlace{o, i} : GridPlace{i, o};
      if (grid_.is_to_do(at.band, at.column)) all.push_back(at);
    }
  return all;
}

std::optional<GridPlace> GridOrder::next() const {
  const std::vector<Group> all = ranked();
  return all.empty() ? std::nullopt : std::optional(all.front().places.front());
}

bool GridOrder::decides(GridPlace at) const {
  const auto& judged = grid_.bands[at.band].cells[kSensitivityColumn].judgement;
  return at.column == kGainColumn && judged && judged->verdict != Verdict::pass;
}

GridOrder::Cost GridOrder::cost(const std::vector<GridPlace>& order) {
  Cost sum;
  GridHookup before = GridHookup::none;
  for (const GridPlace at : order) {
    const GridColumn& c = kGridColumns[at.column];
    if (before != GridHookup::none && before != c.hookup) {
      sum.minutes += kChangeMinutes;
      ++sum.changes;
    }
    before = c.hookup;
    sum.minutes += c.minutes;
  }
  return sum;
}

/// "S9, 7.1 and 14.2 MHz"; of many bands how many.
NextList::Entry GridOrder::entry(const Group& group) const {
  const std::vector<GridPlace>& places = group.places;
  const GridColumn& c = kGridColumns[places.front().column];
  const auto name = [&](std::size_t i) { return grid_.bands[places[i].band].name; };
  const auto number = [&](std::size_t i) { return name(i).substr(0, name(i).find(' ')); };
  const std::string bands = places.size() == 1   ? name(0)
                            : places.size() == 2 ? number(0) + " and " + name(1)
                                                 : counted(places.size(), "band", "bands");
  const bool is_one_band = std::all_of(places.begin(), places.end(),
                                       [&](GridPlace p) { return p.band == places.front().band; });
  NextList::Entry e;
  e.what = std::string(c.what) + ", " + (is_one_band ? name(0) : bands);
  for (std::size_t i = 1; is_one_band && i < places.size(); ++i)
    e.what.insert(e.what.rfind(", "), std::string(", ") + kGridColumns[places[i].column].what);
  e.why = group.why;
  e.cost = fmt::format("{} min", cost(places).minutes);
  e.opens = CellLink{grid_.tests[places.front().column], c.step_of(name(0))};
  return e;
}

void GridOrder::add_missing_test(NextList& list) const {
  for (const std::size_t c : {kSensitivityColumn, kGainColumn, kIndicatorColumn})
    if (!grid_.has_test[c]) {
      list.entries.push_back({kGridColumns[c].what, "no test of it yet", "", std::nullopt});
      return;
    }
}

std::vector<GridOrder::Group> GridOrder::ranked() const {
  std::vector<Group> all;
  std::vector<GridPlace> left = to_do(grid_.is_by_band);
  const auto take = [&](const auto& is_wanted, std::string why) {
    Group group{{}, std::move(why)};
    std::copy_if(left.begin(), left.end(), std::back_inserter(group.places), is_wanted);
    std::erase_if(left, is_wanted);
    if (!group.places.empty()) all.push_back(std::move(group));
  };
  // What decides something stands before what only fills the grid.
  take([&](GridPlace p) { return decides(p); }, "tells a loss in front from one behind");
  take([](GridPlace p) { return p.column == kSensitivityColumn; }, "says whether it hears");
  while (!left.empty()) {
    const GridPlace first = left.front();
    if (grid_.is_by_band)
      take([&](GridPlace p) { return p.band == first.band; }, "fills this band");
    else
      take([&](GridPlace p) { return p.column == first.column; },
           is_hooked_up_for(kGridColumns[first.column].hookup)
               ? fmt::format("and {} min to change the hook-up", kChangeMinutes)
               : std::string("on the hook-up of sensitivity"));
  }
  return all;
}

std::optional<NextList> GridOrder::list() const {
  NextList list;
  list.head = "Measure next";
  for (const Group& group : ranked())
    if (list.entries.size() < kShownEntries) list.entries.push_back(entry(group));
  const Cost by_test = cost(to_do(false));
  const Cost by_band = cost(to_do(true));
  if (by_test.minutes > 0) {
    const Cost& chosen = grid_.is_by_band ? by_band : by_test;
    list.cost = cost_words(chosen.minutes, chosen.changes);
    list.foot = fmt::format("By test {} min, by band {} min", by_test.minutes, by_band.minutes);
  } else {
    add_missing_test(list);
  }
  return list.entries.empty() ? std::nullopt : std::optional(std::move(list));
}

std::string GridOrder::left_of_column(std::size_t column) const {
  std::size_t cells = 0;
  for (std::size_t b = 0; b < grid_.bands.size(); ++b)
    if (grid_.is_to_do(b, column)) ++cells;
  if (cells == 0) return "";
  const GridColumn& c = kGridColumns[column];
  return counted(cells, "cell", "cells") +
         fmt::format(", {}{} min", cells * static_cast<std::size_t>(c.minutes),
                     is_hooked_up_for(c.hookup) ? fmt::format(" + {}", kChangeMinutes) : "");
}

std::string GridOrder::left_of_band(std::size_t band) const {
  int minutes = 0;
  for (std::size_t c = 0; c < kGridColumns.size(); ++c)
    if (grid_.is_to_do(band, c)) minutes += kGridColumns[c].minutes;
  return minutes == 0 ? "" : fmt::format("{} min left", minutes);
}

}  // namespace heron

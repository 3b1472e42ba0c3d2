#include "core/method/receiver/grid_order.h"

#include <algorithm>
#include <fmt/format.h>

namespace heron {
namespace {

constexpr int kChangeMinutes = 4;  // of a hook-up

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
  const std::vector<GridPlace> all = to_do(grid_.is_by_band);
  const auto deciding =
      std::find_if(all.begin(), all.end(), [&](GridPlace at) { return decides(at); });
  if (deciding != all.end()) return *deciding;
  return all.empty() ? std::nullopt : std::optional(all.front());
}

bool GridOrder::decides(GridPlace at) const {
  const auto& judged = grid_.bands[at.band].cells[kSensitivityColumn].judgement;
  return at.column == kGainColumn && judged && judged->verdict != Verdict::pass;
}

int GridOrder::minutes(bool is_by_band) const {
  int sum = 0;
  GridHookup before = GridHookup::none;
  for (const GridPlace at : to_do(is_by_band)) {
    const GridColumn& c = kGridColumns[at.column];
    if (before != GridHookup::none && before != c.hookup) sum += kChangeMinutes;
    before = c.hookup;
    sum += c.minutes;
  }
  return sum;
}

std::string GridOrder::cost_words() const {
  const int by_test = minutes(false);
  if (by_test == 0) return "";
  return fmt::format("by test {} min, by band {} min", by_test, minutes(true));
}

std::optional<std::size_t> GridOrder::missing_test() const {
  for (const std::size_t c : {kSensitivityColumn, kGainColumn, kIndicatorColumn})
    if (!grid_.has_test[c]) return c;
  return std::nullopt;
}

}  // namespace heron

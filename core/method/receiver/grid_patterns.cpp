#include "core/method/receiver/grid_patterns.h"

#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr double kBetweenDb = 0.5;  // standard, what bands of one set differ by anyhow

}  // namespace

std::optional<double> GridPatterns::middle(std::size_t column) const {
  std::vector<double> all;
  for (const GridBand& b : grid_.bands)
    if (const auto& f = b.cells[column].figure; f && f->bound == Bound::none)
      all.push_back(f->value);
  return all.size() >= 3 ? std::optional(median_of(all)) : std::nullopt;
}

std::optional<std::pair<double, double>> GridPatterns::lack(const GridBand& b, std::size_t column,
                                                            double sign) const {
  const auto mid = middle(column);
  const auto& f = b.cells[column].figure;
  if (!mid || !f || f->bound != Bound::none) return std::nullopt;
  // What all bands have in common cancels against their middle.
  return std::pair(sign * (f->value - *mid), 2.0 * std::hypot(f->independent_u(), kBetweenDb));
}

std::optional<double> GridPatterns::departs(const GridBand& b, std::size_t column) const {
  const auto& f = b.cells[column].figure;
  if (!f || !f->unit.starts_with("dB") || remarks(b).empty()) return std::nullopt;
  const auto by = lack(b, column, 1.0);
  return by && std::abs(by->first) > by->second ? std::optional(by->first) : std::nullopt;
}

std::vector<Remark> GridPatterns::remarks(const GridBand& b) const {
  std::vector<Remark> all;
  const auto hears = lack(b, kSensitivityColumn, 1.0);
  const auto sends = lack(b, kOutputColumn, -1.0);
  const auto gain = lack(b, kGainColumn, -1.0);
  const bool is_weak = hears && hears->first > hears->second;
  if (sends) {
    const bool is_weak_out = sends->first > sends->second;
    if (is_weak && is_weak_out &&
        std::abs(hears->first - sends->first) <= std::hypot(hears->second, sends->second)) {
      all.push_back(
          {"both_ways", Severity::note,
           fmt::format("{} lacks {} dB receiving and {} dB transmitting: that points to "
                       "what both ways share.",
                       b.name, number_text(hears->first, 1), number_text(sends->first, 1)),
           "Look at its filter, relay and antenna path"});
      return all;
    }
    if (is_weak_out && !is_weak)
      all.push_back(
          {"one_way", Severity::note,
           fmt::format("{} lacks {} dB transmitting only.", b.name, number_text(sends->first, 1)),
           "Look at its transmit path"});
  }
  if (!gain || !hears) return all;
  const bool lacks_gain = gain->first > gain->second;
  if (is_weak && lacks_gain)
    all.push_back({"front_loss", Severity::note,
                   fmt::format("{} lacks {} dB of sensitivity and {} dB of gain: loss before the "
                               "first stage.",
                               b.name, number_text(hears->first, 1), number_text(gain->first, 1)),
                   "Align its front end before judging the first stage"});
  else if (lacks_gain && !is_weak)
    all.push_back({"behind_loss", Severity::note,
                   fmt::format("{} lacks {} dB of gain and no sensitivity: loss behind the first "
                               "stage.",
                               b.name, number_text(gain->first, 1)),
                   ""});
  return all;
}

}  // namespace heron

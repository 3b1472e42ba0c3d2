#include "core/method/amplifier/gain_compare.h"

#include <cmath>
#include <fmt/format.h>

#include "core/method/amplifier/gain_plot.h"
#include "core/method/compare.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

class Comparison {
 public:
  explicit Comparison(bool is_on_same) : is_on_same_(is_on_same) {}

  void add(const std::string& what, const std::optional<Figure>& now,
           const std::optional<Figure>& then, bool is_more_better = true) {
    // Two bounds say nothing of each other.
    if (!now || !then || (now->bound != Bound::none && then->bound != Bound::none)) return;
    GainChange c{what, *now, *then, {}, is_more_better};
    c.change = change_between(*now, *then, is_on_same_);
    if (c.change.unit == "dBm") c.change.unit = "dB";
    all.push_back(std::move(c));
  }

  std::vector<GainChange> all;

 private:
  bool is_on_same_;
};

}  // namespace

std::vector<GainChange> compare_gain(const Amplification& now, const Amplification& then,
                                     bool is_on_same) {
  Comparison c(is_on_same);
  c.add("Small-signal gain", now.gain, then.gain);
  c.add("1 dB point", now.one_db_out, then.one_db_out);
  c.add("Output at rated drive", now.at_rated, then.at_rated);
  c.add("Quiescent current", now.idle, then.idle, false);
  if (now.most_efficient && then.most_efficient)
    c.add("Highest efficiency", now.rows[*now.most_efficient].efficiency,
          then.rows[*then.most_efficient].efficiency);
  for (auto i = now.rising.rbegin(); i != now.rising.rend(); ++i) {
    const DrivenRow& row = now.rows[*i];
    const auto out = then.curve.output_at(row.input->value);
    if (!out || then.rising.empty()) continue;
    Figure there = *then.rows[then.rising.back()].output;
    there.value = *out;
    c.add("Output, " + row.label, row.output, there);
  }
  return c.all;
}

std::string change_words(const GainChange& c) {
  if (is_no_difference(c.change)) return "no difference";
  Figure size = c.change;
  size.value = std::abs(size.value);
  const FormattedFigure f = format_figure(size, Rounding::compact, 2);
  const bool is_better = (c.change.value > 0.0) == c.is_more_better;
  // What a bound leaves open may be more.
  const bool is_least = c.change.bound != Bound::none;
  return fmt::format("{} by {}{}{} {}", is_better ? "better" : "worse", is_least ? "at least " : "",
                     f.value, f.uncertainty.empty() ? "" : " \u00b1 " + f.uncertainty,
                     c.change.unit);
}

ResultTable comparison_table(const std::vector<GainChange>& changes, const std::string& then,
                             bool is_on_same) {
  ResultTable t;
  t.title = "Compared with " + then;
  t.view = kGainView;
  t.tab = "Compared";
  t.columns = {{"what", "Figure", CellKind::name, 190},
               {"now", "Now", CellKind::figure, 130},
               {"then", "Then", CellKind::figure, 130},
               {"change", "Change", CellKind::text, -1}};
  for (const GainChange& c : changes) {
    const auto cell = [](const Figure& f) {
      const FormattedFigure text = format_figure(f, Rounding::compact, 1);
      return TableCell{
          text.shown() + (text.uncertainty.empty() ? "" : " \u00b1 " + text.uncertainty),
          std::nullopt, false, f};
    };
    t.rows.push_back(
        {std::nullopt,
         {{c.what + ", " + c.now.unit}, cell(c.now), cell(c.then), {change_words(c)}}});
  }
  t.note =
      "Then: " + then + ". " +
      (is_on_same
           ? "Both were read in the same way: what drive and output are off by in common cancels."
           : "Read in different ways: nothing cancels.");
  return t;
}

}  // namespace heron

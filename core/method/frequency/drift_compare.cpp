#include "core/method/frequency/drift_compare.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {
namespace {

std::string change_words(const DriftChange& c) {
  if (is_no_difference(c.change)) return "no difference";
  Figure size = c.change;
  size.value = std::abs(size.value);
  const double before = c.is_size ? std::abs(c.then.value) : c.then.value;
  const double after = c.is_size ? std::abs(c.now.value) : c.now.value;
  return fmt::format("{} by {}", after < before ? "less" : "more",
                     figure_text(size, Rounding::compact));
}

}  // namespace

std::vector<DriftChange> compare_drift(const Drift& now, const Drift& then, bool is_on_same) {
  std::vector<DriftChange> all;
  const auto add = [&](const char* what, const std::optional<Figure>& here,
                       const std::optional<Figure>& there, bool is_size) {
    if (!here || !there) return;
    DriftChange c{what, *here, *there, {}, is_size};
    Figure a = *here;
    Figure b = *there;
    if (!is_on_same)
      for (Figure* f : {&a, &b})
        for (Contribution& part : f->contributions) part.scope = Scope::independent;
    c.change = difference(a, b);
    all.push_back(std::move(c));
  };
  add("Time to settle", now.settle, then.settle, false);
  add("Error once settled", now.error, then.error, true);
  add("Drift at the end", now.fit.rate_per_h, then.fit.rate_per_h, true);
  add("Per kelvin", now.per_kelvin, then.per_kelvin, true);
  return all;
}

ResultTable drift_comparison(const std::vector<DriftChange>& changes, const std::string& then) {
  ResultTable t;
  t.title = "Compared with " + then;
  t.tab = "compared";
  t.columns = {{"what", "Figure", CellKind::name, 190},
               {"now", "Now", CellKind::figure, 130},
               {"then", "Then", CellKind::figure, 130},
               {"change", "Change", CellKind::text, -1}};
  for (const DriftChange& c : changes) {
    const bool has_sign = c.is_size;
    t.rows.push_back({std::nullopt,
                      {{c.what + ", " + c.now.unit},
                       {figure_cell(c.now, 2, has_sign), std::nullopt, false, c.now},
                       {figure_cell(c.then, 2, has_sign), std::nullopt, false, c.then},
                       {change_words(c)}}});
  }
  t.note = "Then: " + then + ". A change counts when it is larger than its \u00b1.";
  return t;
}

std::optional<Remark> changed_remark(const std::vector<DriftChange>& changes) {
  if (changes.empty()) return std::nullopt;
  std::string words;
  for (const DriftChange& c : changes) {
    if (is_no_difference(c.change)) continue;
    std::string what = c.what;
    what.front() = words.empty() ? what.front() : static_cast<char>(std::tolower(what.front()));
    words += (words.empty() ? "" : "; ") + what + ": " + change_words(c);
  }
  if (words.empty())
    return Remark{"no_change", Severity::note,
                  "Nothing changed by more than its \u00b1 against the other record.", ""};
  return Remark{"changed", Severity::note, words + " than in the other record.", ""};
}

}  // namespace heron

#include "core/method/receiver/receiver_grid.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/quantity_setting.h"
#include "core/method/receiver/grid_compare.h"
#include "core/method/receiver/grid_order.h"
#include "core/method/receiver/grid_patterns.h"
#include "core/method/receiver/grid_table.h"
#include "core/method/receiver/sensitivity_settings.h"
#include "core/method/receiver/shared_parts.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kGridSpanDb = 20.0;

class ReceiverGrid {
 public:
  explicit ReceiverGrid(const Evidence& evidence)
      : evidence_(evidence), grid_(read_grid(evidence)), order_(grid_), patterns_(grid_) {
    if (evidence.compared == nullptr) return;
    compared_ = ComparedGrid{read_grid(*evidence.compared), evidence.compared_name,
                             evidence.is_compared_on_same};
  }

  Result result() const {
    Result r;
    r.method = "receiver";
    r.remarks = remarks();
    for (const GridBand& b : grid_.bands) r.items.push_back({b.name, std::nullopt});
    r.tables.push_back(grid_table(grid_, order_, patterns_, compared_ ? &*compared_ : nullptr));
    if (compared_ && !grid_.bands.empty()) r.tables.push_back(grid_comparison(*compared_, grid_));
    if (grid_.bands.empty()) {
      Plot nothing;
      nothing.title = "Receiver grid";
      nothing.panels.push_back({});
      nothing.empty_words =
          "Nothing measured yet. Add a test of sensitivity, signal indicator, conversion gain, "
          "frequency accuracy or output power, and call its steps by their bands: each band is a "
          "row here.";
      r.plots.push_back(std::move(nothing));
      return r;
    }
    add_facts(r);
    add_answers(r);
    r.next = order_.list();
    return r;
  }

 private:
  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    for (std::size_t i = 0; i < grid_.bands.size(); ++i) {
      const GridBand& b = grid_.bands[i];
      if (b.hearing() == Hearing::deaf)
        all.push_back(deaf_remark(b.name, b.frequency_hz, grid_.parts, grid_.tried()));
      const std::vector<Remark> ways = patterns_.remarks(b);
      all.insert(all.end(), ways.begin(), ways.end());
    }
    return all;
  }

  std::optional<Limit> sensitivity_limit_here() const {
    std::optional<Limit> limit;
    for (const Neighbour& n : evidence_.neighbours)
      if (n.method == "sensitivity" && n.evidence != nullptr) limit = n.evidence->limit;
    return limit;
  }

  std::size_t count(Hearing which) const {
    return static_cast<std::size_t>(
        std::count_if(grid_.bands.begin(), grid_.bands.end(),
                      [&](const GridBand& b) { return b.hearing() == which; }));
  }

  void add_facts(Result& r) const {
    std::size_t measured = 0;
    std::size_t all = 0;
    for (const GridBand& b : grid_.bands)
      for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
        if (!grid_.has_column(c)) continue;
        ++all;
        if (b.cells[c].figure) ++measured;
      }
    const std::size_t heard = count(Hearing::hears);
    const std::size_t tried = heard + count(Hearing::deaf);
    r.facts.push_back({"Bands that hear",
                       tried == 0 ? "not measured" : fmt::format("{} of {}", heard, tried), ""});
    r.facts.push_back({"Measured", fmt::format("{} of {} cells", measured, all), ""});
    for (const Neighbour& n : evidence_.neighbours) {
      if (n.method != "sensitivity" || n.evidence == nullptr) continue;
      const ReceiverPlan plan = receiver_plan(*n.evidence);
      r.facts.push_back({"Input point", plan.point.place, plan.point.impedance});
      r.facts.push_back(
          {"Mode", plan.mode,
           plan.bandwidth_hz ? frequency_text(*plan.bandwidth_hz) : "bandwidth not known"});
      break;
    }
    if (compared_) {
      // What the bands share stands among the settings.
      const auto comma = compared_->name.find(", ");
      r.facts.push_back({"Compared with", compared_->name.substr(0, comma),
                         comma == std::string::npos ? "" : compared_->name.substr(comma + 2)});
      return;
    }
    r.facts.push_back(
        {"Shared parts",
         grid_.parts.empty() ? "not entered" : fmt::format("of {} bands", grid_.parts.size()),
         grid_.parts.empty() ? "among the settings" : ""});
  }

  void add_answers(Result& r) const {
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < grid_.bands.size(); ++i)
      if (grid_.bands[i].cells[kSensitivityColumn].figure) order.push_back(i);
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      const bool deaf_a = grid_.bands[a].hearing() == Hearing::deaf;
      const bool deaf_b = grid_.bands[b].hearing() == Hearing::deaf;
      if (deaf_a != deaf_b) return deaf_b;
      return grid_.bands[a].cells[kSensitivityColumn].figure->value >
             grid_.bands[b].cells[kSensitivityColumn].figure->value;
    });
    for (const std::size_t i : order) {
      const GridBand& b = grid_.bands[i];
      Answer a;
      a.figure = *b.cells[kSensitivityColumn].figure;
      a.where = b.name;
      a.head = (i == order.front() ? "Weakest, " : "") + b.name;
      a.label = "level for 10 dB (S+N)/N";
      a.judgement = b.cells[kSensitivityColumn].judgement;
      a.limit = sensitivity_limit_here();
      a.margin_span = kGridSpanDb;
      a.sentence = a.judgement ? verdict_sentence(*a.judgement, "dB")
                               : "No limit is chosen, so nothing is judged.";
      a.step = i;
      r.answers.push_back(std::move(a));
    }
    if (r.answers.empty()) return;
    r.figures.push_back(r.answers.front().figure);
    r.headline_id = r.figures.front().id;
  }

  const Evidence& evidence_;
  GridReading grid_;
  GridOrder order_;
  GridPatterns patterns_;
  std::optional<ComparedGrid> compared_;
};

Result evaluate_grid(const Evidence& evidence) {
  return ReceiverGrid(evidence).result();
}

json usual_grid_settings() {
  return {{kGridParts, json::array()}, {kGridFillBy, "test"}};
}

std::string parts_words(const Evidence& evidence) {
  return band_parts_words(own_settings(evidence.settings, kGridSettings), kGridParts);
}

}  // namespace

const Method& receiver_grid_method() {
  static const Method method{
      .id = "receiver",
      .step_head = "Band",
      .settings_key = kGridSettings,
      .settings = {band_parts_setting(kGridParts),
                   {.kind = SettingField::Kind::choice,
                    .key = kGridFillBy,
                    .head = "Filled by",
                    .hint = "Which cell is next: one test on all bands, or all tests on one band.",
                    .choices = {{"test", "by test"}, {"band", "by band"}},
                    .is_switch = true}},
      .usual_settings = usual_grid_settings,
      .setting_words = parts_words,
      .sees = {"sensitivity", "indicator", "reference", "conversion", "output"},
      .is_joint = true,
      .is_calculated = true,
      .compares_tests = true,
      .evaluate = evaluate_grid};
  return method;
}

}  // namespace heron

#include "core/method/receiver/receiver_grid.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/quantity_setting.h"
#include "core/method/receiver/grid_compare.h"
#include "core/method/receiver/grid_order.h"
#include "core/method/receiver/sensitivity_settings.h"
#include "core/method/receiver/shared_parts.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/median.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kGridSpanDb = 20.0;
constexpr int kAttenuatorFromPx = 1440;

class ReceiverGrid {
 public:
  explicit ReceiverGrid(const Evidence& evidence)
      : evidence_(evidence), grid_(read_grid(evidence)), order_(grid_) {
    if (evidence.compared == nullptr) return;
    compared_ = ComparedGrid{read_grid(*evidence.compared), evidence.compared_name,
                             sensitivity_limit_here(), evidence.is_compared_on_same};
  }

  Result result() const {
    Result r;
    r.method = "receiver";
    r.remarks = remarks();
    for (const GridBand& b : grid_.bands) r.items.push_back({b.name, std::nullopt});
    r.tables.push_back(table());
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
    add_next(r);
    return r;
  }

 private:
  /// The middle of a column, where enough of it is measured.
  std::optional<double> middle(std::size_t column) const {
    std::vector<double> all;
    for (const GridBand& b : grid_.bands)
      if (const auto& f = b.cells[column].figure; f && f->bound == Bound::none)
        all.push_back(f->value);
    return all.size() >= 3 ? std::optional(median_of(all)) : std::nullopt;
  }

  /// How much worse than the middle, with its U; nullopt where that is not known.
  std::optional<std::pair<double, double>> lack(const GridBand& b, std::size_t column,
                                                double sign) const {
    const auto mid = middle(column);
    const auto& f = b.cells[column].figure;
    if (!mid || !f || f->bound != Bound::none) return std::nullopt;
    // What all bands have in common cancels against their middle.
    return std::pair(sign * (f->value - *mid), 2.0 * std::hypot(f->independent_u(), kBetweenDb));
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    for (std::size_t i = 0; i < grid_.bands.size(); ++i) {
      if (grid_.bands[i].hearing() == Hearing::deaf) tell_deaf(grid_.bands[i], all);
      tell_ways(grid_.bands[i], all);
    }
    return all;
  }

  void tell_deaf(const GridBand& b, std::vector<Remark>& all) const {
    std::vector<TriedBand> tried;
    for (const GridBand& other : grid_.bands)
      tried.push_back({other.frequency_hz, other.hearing()});
    all.push_back(deaf_remark(b.name, b.frequency_hz, grid_.parts, tried));
  }

  /// Weak both ways by the same points to what both use; weak one way to that way.
  void tell_ways(const GridBand& b, std::vector<Remark>& all) const {
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
        return;
      }
      if (is_weak_out && !is_weak)
        all.push_back(
            {"one_way", Severity::note,
             fmt::format("{} lacks {} dB transmitting only.", b.name, number_text(sends->first, 1)),
             "Look at its transmit path"});
    }
    if (!gain || !hears) return;
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
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Receiver grid";
    t.tab = "grid";
    t.margin_span = kGridSpanDb;
    t.columns = {{"band", "Band", CellKind::name, 104}};
    for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
      if (!grid_.has_column(c)) continue;
      t.columns.push_back(
          {kGridColumns[c].method, kGridColumns[c].head, CellKind::figure, 108, 0, 100});
    }
    const bool has_attenuator = std::any_of(grid_.bands.begin(), grid_.bands.end(),
                                            [](const GridBand& b) { return b.attenuator; });
    if (has_attenuator)
      t.columns.push_back(
          {"attenuator", "Attenuator, dB", CellKind::figure, 118, kAttenuatorFromPx});
    t.columns.push_back({"margin", "Sensitivity", CellKind::margin, -1});
    t.columns.push_back({"verdict", "Worst of all", CellKind::verdict, 120, 0, 112});
    const auto next = order_.next();
    for (std::size_t i = 0; i < grid_.bands.size(); ++i) {
      const GridBand& b = grid_.bands[i];
      ResultTable::Row row{i, {{b.name}}};
      if (b.hearing() == Hearing::deaf) {
        row.cells.front().tag = "deaf";
        row.cells.front().tag_is = Verdict::fail;
      }
      std::optional<Judgement> worst;
      bool is_whole = true;
      for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
        if (!grid_.has_column(c)) continue;
        const GridCell& cell = b.cells[c];
        if (!cell.figure) {
          TableCell missing;
          if (grid_.is_to_do(i, c)) {
            const bool is_next = next == GridPlace{i, c};
            missing.text = is_next ? "measure next" : "to do";
            missing.is_deciding = is_next;
            missing.opens = CellLink{grid_.tests[c], kGridColumns[c].step_of(b.name)};
          }
          row.cells.push_back(std::move(missing));
          is_whole = false;
          continue;
        }
        const bool is_bad = cell.judgement && cell.judgement->verdict != Verdict::pass;
        TableCell shown{figure_cell(*cell.figure, 1), std::nullopt, is_bad, cell.figure};
        if (cell.from && cell.from->test != 0) shown.opens = cell.from;
        row.cells.push_back(std::move(shown));
        if (cell.judgement && (!worst || is_worse(*cell.judgement, *worst))) worst = cell.judgement;
      }
      if (has_attenuator)
        row.cells.push_back({b.attenuator ? figure_cell(*b.attenuator, 1) : std::string(),
                             std::nullopt, false, b.attenuator});
      row.cells.push_back({b.cells[kSensitivityColumn].judgement
                               ? number_text(b.cells[kSensitivityColumn].judgement->margin, 1, true)
                               : std::string(),
                           b.cells[kSensitivityColumn].judgement});
      if (compared_) row.cells.back().before = margin_then(*compared_, b);
      if (worst && worst->verdict == Verdict::pass && !is_whole)
        worst->verdict = Verdict::incomplete;
      row.cells.push_back(verdict_cell(worst, worst.has_value(), false));
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Each figure is that of its own test: Return opens it there. Worst of all: of all that was "
        "measured on the band.";
    if (compared_) add_columns_then(*compared_, grid_, t);
    return t;
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

  /// With what it would decide, or what either order costs.
  void add_next(Result& r) const {
    FigureCard card;
    card.head = "Measure next";
    if (const auto next = order_.next()) {
      const auto& [band, column] = *next;
      card.value = fmt::format("{}, {}", kGridColumns[column].what, grid_.bands[band].name);
      card.caption = order_.decides({band, column}) ? "tells a loss in front from one behind"
                                                    : order_.cost_words();
    } else if (const auto missing = order_.missing_test()) {
      card.value = kGridColumns[*missing].what;
      card.caption = "no test of it yet";
    } else {
      return;
    }
    r.figure_cards.push_back(std::move(card));
  }

  static constexpr double kBetweenDb = 0.5;  ///< standard, what bands of one set differ by anyhow
  const Evidence& evidence_;
  GridReading grid_;
  GridOrder order_;
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
                    .choices = {{"test", "test, over all bands"}, {"band", "band, in all tests"}}}},
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

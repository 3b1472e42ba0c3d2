#include "core/method/receiver/receiver_grid.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

#include "core/method/place_name.h"
#include "core/method/quantity_setting.h"
#include "core/method/receiver/sensitivity_settings.h"
#include "core/method/receiver/shared_parts.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/median.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr const char* kGridSettings = "receiver";
constexpr const char* kParts = "parts";
constexpr double kGridSpanDb = 20.0;

/// A column: which figures of which test it shows. The first one ranks the bands.
struct GridColumn {
  const char* method;
  const char* figure;  ///< its id
  const char* judged;  ///< whose verdict counts; empty = its own
  const char* head;
  const char* what;  ///< "S9"
  double factor;     ///< of what is shown
};
constexpr std::array<GridColumn, 5> kGridColumns{
    {{"sensitivity", "sensitivity", "", "For 10 dB, dBm", "Sensitivity", 1.0},
     {"indicator", "s9_level", "s9_error", "S9 at, dBm", "S9", 1.0},
     {"reference", "", "", "Dial, ppm", "Dial", 1.0},
     {"conversion", "conversion_gain", "", "IF gain, dB", "Conversion gain", 1.0},
     {"output", "output", "", "Output, dBm", "Output power", 1.0}}};

constexpr std::size_t kDialColumn = 2;

struct GridCell {
  std::optional<Figure> figure;
  std::optional<Judgement> judgement;
};
struct GridBand {
  std::string name;
  double frequency_hz = 0.0;
  std::array<GridCell, kGridColumns.size()> cells;
  Hearing hearing() const {
    const auto& f = cells[0].figure;
    return !f ? Hearing::unknown : f->bound == Bound::lower ? Hearing::deaf : Hearing::hears;
  }
};

class ReceiverGrid {
 public:
  explicit ReceiverGrid(const Evidence& evidence) : evidence_(evidence) {
    const json& own = own_settings(evidence.settings, kGridSettings);
    try {
      if (own.contains(kParts)) parts_ = band_parts_from_json(own.at(kParts));
    } catch (const json::exception& error) {
      refuse_damaged(error);
    }
    // How far off the dial is may have been read anywhere: that alone makes no row.
    for (const bool adds_bands : {true, false})
      for (const Neighbour& n : evidence.neighbours)
        for (std::size_t c = 0; c < kGridColumns.size(); ++c)
          if (n.method == kGridColumns[c].method && (c != kDialColumn) == adds_bands)
            read(n, c, adds_bands);
    std::stable_sort(bands_.begin(), bands_.end(), [](const GridBand& a, const GridBand& b) {
      return a.frequency_hz < b.frequency_hz;
    });
  }

  Result result() const {
    Result r;
    r.method = "receiver";
    r.remarks = remarks();
    for (const GridBand& b : bands_) r.items.push_back({b.name, std::nullopt});
    r.tables.push_back(table());
    if (bands_.empty()) {
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
  GridBand* band_at(double hz, bool adds) {
    for (GridBand& b : bands_)
      if (is_same_band(b.frequency_hz, hz)) return &b;
    if (!adds) return nullptr;
    bands_.push_back({frequency_text(hz), hz, {}});
    return &bands_.back();
  }

  /// The last figure of a kind on each band; its verdict may be told of another one.
  void read(const Neighbour& n, std::size_t column, bool adds_bands) {
    const Method* method = find_method(n.method);
    if (method == nullptr || n.evidence == nullptr) return;
    const GridColumn& c = kGridColumns[column];
    const Result of = method->evaluate(*n.evidence);
    has_test_[column] = true;
    for (const StepFigure& f : of.step_figures) {
      const auto hz = named_frequency_hz(f.step);
      if (!hz) continue;
      const bool is_shown = *c.figure == '\0' || f.figure.id == c.figure;
      const bool is_judged = *c.judged == '\0' ? is_shown : f.figure.id == c.judged;
      if (!is_shown && !is_judged) continue;
      GridBand* band = band_at(*hz, adds_bands);
      if (band == nullptr) continue;
      GridCell& cell = band->cells[column];
      if (is_shown) cell.figure = f.figure;
      if (is_judged) cell.judgement = f.judgement;
    }
  }

  /// The middle of a column, where enough of it is measured.
  std::optional<double> middle(std::size_t column) const {
    std::vector<double> all;
    for (const GridBand& b : bands_)
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
    for (std::size_t i = 0; i < bands_.size(); ++i) {
      if (bands_[i].hearing() == Hearing::deaf) tell_deaf(bands_[i], all);
      tell_ways(bands_[i], all);
    }
    return all;
  }

  void tell_deaf(const GridBand& b, std::vector<Remark>& all) const {
    std::vector<Hearing> hears;
    std::optional<std::size_t> own;
    for (std::size_t k = 0; k < parts_.size(); ++k) {
      Hearing h = Hearing::unknown;
      for (const GridBand& other : bands_)
        if (is_same_band(other.frequency_hz, parts_[k].frequency_hz)) h = other.hearing();
      hears.push_back(h);
      if (is_same_band(b.frequency_hz, parts_[k].frequency_hz)) own = k;
    }
    if (!own) {
      // Without a table of what it uses nothing is guessed.
      all.push_back({"deaf", Severity::note, b.name + " hears nothing.",
                     "Enter what the bands share, to see what it alone uses"});
      return;
    }
    all.push_back(
        {"suspect", Severity::note,
         b.name + " hears nothing. " + suspect_words(b.name, suspects_of(*own, parts_, hears)),
         "Check these parts, then read the band again"});
  }

  /// Weak both ways by the same points to what both use; weak one way to that way.
  void tell_ways(const GridBand& b, std::vector<Remark>& all) const {
    const auto hears = lack(b, 0, 1.0);
    const auto sends = lack(b, 4, -1.0);
    const auto gain = lack(b, 3, -1.0);
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
      // What no test is about has no column, but the two that every receiver has.
      if (c > 1 && !has_test_[c]) continue;
      t.columns.push_back(
          {kGridColumns[c].method, kGridColumns[c].head, CellKind::figure, 108, 0, 100});
    }
    t.columns.push_back({"margin", "Sensitivity", CellKind::margin, -1});
    t.columns.push_back({"verdict", "Worst of all", CellKind::verdict, 120, 0, 112});
    for (std::size_t i = 0; i < bands_.size(); ++i) {
      const GridBand& b = bands_[i];
      ResultTable::Row row{i, {{b.name}}};
      if (b.hearing() == Hearing::deaf) row.cells.front().tag = "deaf";
      std::optional<Judgement> worst;
      bool is_whole = true;
      for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
        if (c > 1 && !has_test_[c]) continue;
        const GridCell& cell = b.cells[c];
        if (!cell.figure) {
          row.cells.push_back({});
          is_whole = false;
          continue;
        }
        const bool is_bad = cell.judgement && cell.judgement->verdict != Verdict::pass;
        row.cells.push_back({figure_cell(*cell.figure, 1), std::nullopt, is_bad, cell.figure});
        if (cell.judgement && (!worst || is_worse(*cell.judgement, *worst))) worst = cell.judgement;
      }
      row.cells.push_back({b.cells[0].judgement ? number_text(b.cells[0].judgement->margin, 1, true)
                                                : std::string(),
                           b.cells[0].judgement});
      if (worst && worst->verdict == Verdict::pass && !is_whole)
        worst->verdict = Verdict::incomplete;
      row.cells.push_back(verdict_cell(worst, worst.has_value(), false));
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Each figure is that of its own test; what is not right stands out. Worst of all: of "
        "all that was measured on the band.";
    return t;
  }

  std::size_t count(Hearing which) const {
    return static_cast<std::size_t>(std::count_if(
        bands_.begin(), bands_.end(), [&](const GridBand& b) { return b.hearing() == which; }));
  }

  void add_facts(Result& r) const {
    std::size_t measured = 0;
    std::size_t all = 0;
    for (const GridBand& b : bands_)
      for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
        if (c > 1 && !has_test_[c]) continue;
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
    r.facts.push_back({"Shared parts",
                       parts_.empty() ? "not entered" : fmt::format("of {} bands", parts_.size()),
                       parts_.empty() ? "among the settings" : ""});
  }

  void add_answers(Result& r) const {
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < bands_.size(); ++i)
      if (bands_[i].cells[0].figure) order.push_back(i);
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      const bool deaf_a = bands_[a].hearing() == Hearing::deaf;
      const bool deaf_b = bands_[b].hearing() == Hearing::deaf;
      if (deaf_a != deaf_b) return deaf_b;
      return bands_[a].cells[0].figure->value > bands_[b].cells[0].figure->value;
    });
    for (const std::size_t i : order) {
      const GridBand& b = bands_[i];
      Answer a;
      a.figure = *b.cells[0].figure;
      a.where = b.name;
      a.head = (i == order.front() ? "Weakest, " : "") + b.name;
      a.label = "level for 10 dB (S+N)/N";
      a.judgement = b.cells[0].judgement;
      for (const Neighbour& n : evidence_.neighbours)
        if (n.method == "sensitivity" && n.evidence != nullptr) a.limit = n.evidence->limit;
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

  /// What would decide most: a weak band without what tells loss in front from loss behind.
  void add_next(Result& r) const {
    const auto missing = [&](std::size_t column, bool only_weak) -> const GridBand* {
      for (const GridBand& b : bands_) {
        const bool is_weak = b.cells[0].judgement && b.cells[0].judgement->verdict != Verdict::pass;
        if (!b.cells[column].figure && b.hearing() != Hearing::deaf && (is_weak || !only_weak))
          return &b;
      }
      return nullptr;
    };
    FigureCard card;
    card.head = "Measure next";
    if (const GridBand* b = missing(0, false)) {
      card.value = "Sensitivity";
      card.caption = b->name + ": whether it hears at all";
    } else if (const GridBand* weak = missing(3, true)) {
      card.value = "IF gain";
      card.caption = weak->name + ": tells a loss in front from one behind";
    } else if (const GridBand* s9 = missing(1, false)) {
      card.value = "Signal indicator";
      card.caption = s9->name + ", with the generator as it stands";
    } else {
      return;
    }
    r.figure_cards.push_back(std::move(card));
  }

  static constexpr double kBetweenDb = 0.5;  ///< standard, what bands of one set differ by anyhow
  const Evidence& evidence_;
  std::vector<BandParts> parts_;
  std::vector<GridBand> bands_;
  std::array<bool, kGridColumns.size()> has_test_{};
};

Result evaluate_grid(const Evidence& evidence) {
  return ReceiverGrid(evidence).result();
}

json usual_grid_settings() {
  return {{kParts, json::array()}};
}

std::string parts_words(const Evidence& evidence) {
  const json& own = own_settings(evidence.settings, kGridSettings);
  const std::size_t n = own.contains(kParts) ? own.at(kParts).size() : 0;
  return n == 0 ? "not entered" : std::to_string(n) + (n == 1 ? " band" : " bands");
}

}  // namespace

const Method& receiver_grid_method() {
  static const Method method{
      .id = "receiver",
      .step_head = "Band",
      .settings_key = kGridSettings,
      .settings =
          {{.kind = SettingField::Kind::text,
            .key = kParts,
            .head = "What the bands share",
            .hint = "A line each: \u201c21.2 MHz: X6, coil E, switch 3\u201d. A part that no "
                    "band with a response uses is suspect when a band is deaf.",
            .text = {
                .parse = [](const std::string& text) { return to_json(parse_band_parts(text)); },
                .written =
                    [](const json& kept) { return band_parts_text(band_parts_from_json(kept)); },
                .understood =
                    [](const json& kept) {
                      return std::to_string(kept.size()) + (kept.size() == 1 ? " band" : " bands");
                    }}}},
      .usual_settings = usual_grid_settings,
      .setting_words = parts_words,
      .sees = {"sensitivity", "indicator", "reference", "conversion", "output"},
      .is_joint = true,
      .is_calculated = true,
      .evaluate = evaluate_grid};
  return method;
}

}  // namespace heron

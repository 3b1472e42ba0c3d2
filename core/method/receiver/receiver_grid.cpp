#include "core/method/receiver/receiver_grid.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

#include "core/method/frequency/reference_error.h"
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
  int minutes;       ///< that one band takes
  int hookup;        ///< those of one number need no change between them
};
constexpr std::array<GridColumn, 5> kGridColumns{
    {{"sensitivity", "sensitivity", "", "For 10 dB, dBm", "Sensitivity", 1.0, 3, 1},
     {"indicator", "s9_level", "s9_error", "S9 at, dBm", "S9", 1.0, 2, 1},
     {"reference", "", "", "Dial, ppm", "Dial", 1.0, 1, 1},
     {"conversion", "conversion_gain", "", "IF gain, dB", "Conversion gain", 1.0, 2, 2},
     {"output", "output", "", "Output, dBm", "Output power", 1.0, 1, 3}}};

constexpr std::size_t kDialColumn = 2;
constexpr std::size_t kGainColumn = 3;
constexpr int kChangeMinutes = 4;  ///< of a hook-up
constexpr const char* kFillBy = "fill_by";

struct GridCell {
  std::optional<Figure> figure;
  std::optional<Judgement> judgement;
  std::optional<CellLink> from;
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
    // The pitch of its recordings tells the dial where no test of its own does.
    for (const Neighbour& n : evidence.neighbours)
      if (n.method == kGridColumns[0].method) read_dial(n);
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
    tests_[column] = n.test;
    for (const StepFigure& f : of.step_figures) {
      const auto hz = named_frequency_hz(f.step);
      if (!hz) continue;
      const bool is_shown = *c.figure == '\0' || f.figure.id == c.figure;
      const bool is_judged = *c.judged == '\0' ? is_shown : f.figure.id == c.judged;
      if (!is_shown && !is_judged) continue;
      GridBand* band = band_at(*hz, adds_bands);
      if (band == nullptr) continue;
      GridCell& cell = band->cells[column];
      if (is_shown) {
        // A band's own error is told in hertz.
        cell.figure = column == kDialColumn && f.figure.unit == "Hz" ? relative_error(f.figure, *hz)
                                                                     : f.figure;
        cell.from = CellLink{n.test, f.step};
      }
      if (is_judged) cell.judgement = f.judgement;
    }
  }

  void read_dial(const Neighbour& n) {
    const Method* method = find_method(n.method);
    if (method == nullptr || n.evidence == nullptr) return;
    for (const StepFigure& f : method->evaluate(*n.evidence).step_figures) {
      const auto hz = named_frequency_hz(f.step);
      if (f.figure.id != "dial_error" || !hz) continue;
      GridBand* band = band_at(*hz, false);
      if (band == nullptr || band->cells[kDialColumn].figure) continue;
      band->cells[kDialColumn].figure = f.figure;
      band->cells[kDialColumn].from = CellLink{n.test, f.step};
      has_test_[kDialColumn] = true;
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
    for (const BandParts& p : parts_) {
      Hearing h = Hearing::unknown;
      for (const GridBand& other : bands_)
        if (is_same_band(other.frequency_hz, p.frequency_hz)) h = other.hearing();
      hears.push_back(h);
    }
    all.push_back(deaf_remark(b.name, b.frequency_hz, parts_, hears));
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
    const auto next = next_cell();
    for (std::size_t i = 0; i < bands_.size(); ++i) {
      const GridBand& b = bands_[i];
      ResultTable::Row row{i, {{b.name}}};
      if (b.hearing() == Hearing::deaf) {
        row.cells.front().tag = "deaf";
        row.cells.front().tag_is = Verdict::fail;
      }
      std::optional<Judgement> worst;
      bool is_whole = true;
      for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
        if (c > 1 && !has_test_[c]) continue;
        const GridCell& cell = b.cells[c];
        if (!cell.figure) {
          TableCell missing;
          if (is_to_do(i, c)) {
            const bool is_next = next == std::pair(i, c);
            missing.text = is_next ? "measure next" : "to do";
            missing.is_deciding = is_next;
            missing.opens = CellLink{tests_[c], b.name};
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
      row.cells.push_back({b.cells[0].judgement ? number_text(b.cells[0].judgement->margin, 1, true)
                                                : std::string(),
                           b.cells[0].judgement});
      if (worst && worst->verdict == Verdict::pass && !is_whole)
        worst->verdict = Verdict::incomplete;
      row.cells.push_back(verdict_cell(worst, worst.has_value(), false));
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Each figure is that of its own test: Return opens it there. Worst of all: of all that was "
        "measured on the band.";
    return t;
  }

  /// Of a deaf band nothing more can be measured before it hears.
  bool is_to_do(std::size_t band, std::size_t column) const {
    const GridBand& b = bands_[band];
    return has_test_[column] && tests_[column] != 0 && !b.cells[column].figure &&
           (b.hearing() != Hearing::deaf || kGridColumns[column].hookup == 3);
  }

  /// In the direction that is filled: a test over all bands, or a band in all tests.
  std::optional<std::pair<std::size_t, std::size_t>> next_cell() const {
    for (std::size_t band = 0; band < bands_.size(); ++band)
      if (is_to_do(band, kGainColumn) && decides(band, kGainColumn))
        return std::pair(band, kGainColumn);
    const bool is_by_band = fills_by_band();
    const std::size_t outer = is_by_band ? bands_.size() : kGridColumns.size();
    const std::size_t inner = is_by_band ? kGridColumns.size() : bands_.size();
    for (std::size_t o = 0; o < outer; ++o)
      for (std::size_t n = 0; n < inner; ++n) {
        const std::size_t band = is_by_band ? o : n;
        const std::size_t column = is_by_band ? n : o;
        if (is_to_do(band, column)) return std::pair(band, column);
      }
    return std::nullopt;
  }

  bool fills_by_band() const {
    return own_settings(evidence_.settings, kGridSettings).value(kFillBy, "test") == "band";
  }

  /// Minutes and changes of the hook-up for what is to do, in an order.
  std::pair<int, int> cost(bool is_by_band) const {
    int minutes = 0;
    int changes = 0;
    int hookup = 0;
    const auto take = [&](std::size_t band, std::size_t column) {
      if (!is_to_do(band, column)) return;
      const GridColumn& c = kGridColumns[column];
      if (hookup != 0 && hookup != c.hookup) ++changes;
      hookup = c.hookup;
      minutes += c.minutes;
    };
    if (is_by_band)
      for (std::size_t b = 0; b < bands_.size(); ++b)
        for (std::size_t c = 0; c < kGridColumns.size(); ++c) take(b, c);
    else
      for (std::size_t c = 0; c < kGridColumns.size(); ++c)
        for (std::size_t b = 0; b < bands_.size(); ++b) take(b, c);
    return {minutes + changes * kChangeMinutes, changes};
  }

  std::string cost_words() const {
    const auto by_test = cost(false);
    const auto by_band = cost(true);
    if (by_test.first == 0) return "";
    return fmt::format("by test {} min, by band {} min", by_test.first, by_band.first);
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

  /// With what it would decide, or what either order costs.
  void add_next(Result& r) const {
    FigureCard card;
    card.head = "Measure next";
    if (const auto next = next_cell()) {
      const auto& [band, column] = *next;
      card.value = fmt::format("{}, {}", kGridColumns[column].what, bands_[band].name);
      card.caption = decides(band, column) ? "tells a loss in front from one behind" : cost_words();
    } else if (const auto missing = missing_test()) {
      card.value = kGridColumns[*missing].what;
      card.caption = "no test of it yet";
    } else {
      return;
    }
    r.figure_cards.push_back(std::move(card));
  }

  /// Gain of a weak band, where loss in front and loss behind are to be told apart.
  bool decides(std::size_t band, std::size_t column) const {
    const GridBand& b = bands_[band];
    return column == kGainColumn && b.cells[0].judgement &&
           b.cells[0].judgement->verdict != Verdict::pass;
  }

  /// Of the three that tell where a receiver loses.
  std::optional<std::size_t> missing_test() const {
    for (const std::size_t c : {std::size_t{0}, kGainColumn, std::size_t{1}})
      if (!has_test_[c]) return c;
    return std::nullopt;
  }

  static constexpr double kBetweenDb = 0.5;  ///< standard, what bands of one set differ by anyhow
  const Evidence& evidence_;
  std::vector<BandParts> parts_;
  std::vector<GridBand> bands_;
  std::array<bool, kGridColumns.size()> has_test_{};
  std::array<long long, kGridColumns.size()> tests_{};  ///< the last of each
};

Result evaluate_grid(const Evidence& evidence) {
  return ReceiverGrid(evidence).result();
}

json usual_grid_settings() {
  return {{kParts, json::array()}, {kFillBy, "test"}};
}

std::string parts_words(const Evidence& evidence) {
  return band_parts_words(own_settings(evidence.settings, kGridSettings), kParts);
}

}  // namespace

const Method& receiver_grid_method() {
  static const Method method{
      .id = "receiver",
      .step_head = "Band",
      .settings_key = kGridSettings,
      .settings = {band_parts_setting(kParts),
                   {.kind = SettingField::Kind::choice,
                    .key = kFillBy,
                    .head = "Filled by",
                    .hint = "Which cell is next: one test on all bands, or all tests on one band.",
                    .choices = {{"test", "test, over all bands"}, {"band", "band, in all tests"}}}},
      .usual_settings = usual_grid_settings,
      .setting_words = parts_words,
      .sees = {"sensitivity", "indicator", "reference", "conversion", "output"},
      .is_joint = true,
      .is_calculated = true,
      .evaluate = evaluate_grid};
  return method;
}

}  // namespace heron

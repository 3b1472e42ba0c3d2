#include "core/method/frequency/stability_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <set>

#include "core/method/frequency/stability_settings.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kPpb = 1e9;
constexpr double kConfidence = 0.95;
constexpr double kSeenOver = 1.4142;  ///< of the counter's line: 3 dB
constexpr double kLeastDegrees = 2.0;
constexpr std::size_t kMostRows = 7;
constexpr double kUneven = 0.2;  ///< of a step, that a reading may be late

/// One averaging time as it is shown.
struct Octave {
  StabilityPoint point;
  Figure figure;  ///< ppb; of a time deviation ns
  std::pair<double, double> interval;
  double counter = 0.0;  ///< its own line, same unit
  std::optional<Judgement> judgement;
  double independent = 0.0;  ///< samples
  bool is_shown() const { return point.degrees >= kLeastDegrees; }
};

/// Readings at even steps, NaN where one is missing. A long pause is as good as a longer one:
/// nothing is told across it.
std::vector<double> even_readings(const DriftRecord& record, double nominal_hz, double tau0_s) {
  constexpr double kLongestPause = 1000.0;  // steps
  std::vector<double> all;
  double skipped = 0.0;
  for (const DriftSample& s : record.samples) {
    const double place =
        std::round((s.seconds - record.samples.front().seconds) / tau0_s) - skipped;
    const double pause = place - static_cast<double>(all.size());
    if (pause > kLongestPause) skipped += pause - kLongestPause;
    const auto at = static_cast<std::size_t>(
        std::max(0.0, std::min(place, static_cast<double>(all.size()) + kLongestPause)));
    if (at >= all.size()) all.resize(at + 1, std::numeric_limits<double>::quiet_NaN());
    all[at] = s.error_hz / nominal_hz;
  }
  return all;
}

/// The smallest step between two readings that are not the same.
double last_digit_hz(const DriftRecord& record) {
  std::vector<double> values;
  constexpr std::size_t kEnough = 4000;
  for (std::size_t i = 0; i < std::min(record.samples.size(), kEnough); ++i)
    values.push_back(record.samples[i].error_hz);
  std::sort(values.begin(), values.end());
  double least = 1e300;
  const double range = values.empty() ? 0.0 : values.back() - values.front();
  for (std::size_t i = 1; i < values.size(); ++i) {
    const double step = values[i] - values[i - 1];
    if (step > 1e-6 * range) least = std::min(least, step);
  }
  return least < 1e300 ? least : 0.0;
}

class StabilityResult {
 public:
  explicit StabilityResult(const Evidence& evidence)
      : evidence_(evidence),
        plan_(stability_plan(evidence)),
        record_(stability_record(evidence, plan_)) {
    work_out();
  }

  Result result() const {
    Result r;
    r.method = "stability";
    r.remarks = remarks_;
    for (const std::size_t i : rows_) r.items.push_back({tau_text(octaves_[i]), std::nullopt});
    r.tables.push_back(table());
    r.plots.push_back(plot());
    add_answer(r);
    for (const Octave& o : octaves_)
      if (o.is_shown())
        r.step_figures.push_back({tau_text(o), o.figure, std::nullopt, o.judgement});
    if (!record_.samples.empty() && nominal() > 0.0) {
      r.conditions.emplace_back("Nominal", frequency_text(nominal()));
      r.conditions.emplace_back("Record",
                                fmt::format("{} readings every {} s", record_.samples.size(),
                                            number_text(tau0_s_, tau0_s_ < 10.0 ? 2 : 0)));
      r.conditions.emplace_back("Estimator", std::string(estimator_name(plan_.estimator)));
    }
    return r;
  }

 private:
  bool is_time() const { return plan_.estimator == Estimator::time; }
  double nominal() const { return plan_.reference.nominal_hz.value_or(0.0); }
  std::string unit() const { return is_time() ? "ns" : "ppb"; }

  void say(const char* code, Severity severity, std::string text, std::string action = {}) {
    remarks_.push_back({code, severity, std::move(text), std::move(action)});
  }

  void work_out() {
    remarks_ = record_.remarks;
    if (record_.samples.empty()) return;
    if (nominal() <= 0.0) {
      say("nominal", Severity::caution,
          "What the frequency should be is not known: nothing is worked out.",
          "Type the nominal frequency among the settings");
      return;
    }
    tau0_s_ = record_.even_step_s();
    if (!(tau0_s_ > 0.0) || record_.typed == record_.samples.size()) {
      say("uneven", Severity::caution,
          "Readings by hand have no even steps: scatter over an averaging time needs a log.",
          "Log a counter, or add a file");
      return;
    }
    tell_uneven();
    const PhaseRecord phase =
        PhaseRecord::of_frequency(even_readings(record_, nominal(), tau0_s_), tau0_s_);
    const auto more = phase.remarks();
    remarks_.insert(remarks_.end(), more.begin(), more.end());
    resolution_hz_ = plan_.resolution_hz.value_or(last_digit_hz(record_));
    for (const StabilityPoint& p : phase.at(plan_.estimator, taus(phase.samples())))
      octaves_.push_back(octave_of(p));
    choose_rows();
    tell_counter();
  }

  /// Octaves, and the ends of the limit's range.
  std::vector<std::size_t> taus(std::size_t samples) const {
    const auto octaves = averages_of(Averages::octaves, samples);
    std::set<std::size_t> all(octaves.begin(), octaves.end());
    for (const double end : {plan_.limit_from_s, plan_.limit_to_s}) {
      const double m = std::round(end / tau0_s_);
      if (plan_.limit && m >= 1.0 && m <= static_cast<double>(octaves.empty() ? 0 : octaves.back()))
        all.insert(static_cast<std::size_t>(m));
    }
    return {all.begin(), all.end()};
  }

  void tell_uneven() {
    std::size_t off = 0;
    for (std::size_t i = 1; i < record_.samples.size(); ++i) {
      const double steps = (record_.samples[i].seconds - record_.samples[i - 1].seconds) / tau0_s_;
      if (std::abs(steps - std::round(steps)) > kUneven) ++off;
    }
    if (static_cast<double>(off) > 0.05 * static_cast<double>(record_.samples.size()))
      say("uneven", Severity::caution,
          fmt::format("{} of {} readings are not at even steps of {} s: they are taken as if they "
                      "were.",
                      off, record_.samples.size(), number_text(tau0_s_, 2)),
          "Let an instrument log at even times");
  }

  /// A reading is one count off at most: that scatter falls as more of them are averaged.
  double counter_line(double tau_s) const {
    if (resolution_hz_ <= 0.0) return 0.0;
    const double one = resolution_hz_ / nominal() / std::sqrt(12.0) * std::sqrt(tau0_s_ / tau_s);
    return is_time() ? one * tau_s / std::sqrt(3.0) * kPpb : one * kPpb;
  }

  Octave octave_of(const StabilityPoint& p) const {
    Octave o;
    o.point = p;
    o.interval = confidence_interval(p, kConfidence);
    o.interval.first *= kPpb;
    o.interval.second *= kPpb;
    o.counter = counter_line(p.tau_s);
    o.independent = static_cast<double>(record_.samples.size()) / static_cast<double>(p.m);
    o.figure.id = "scatter";
    o.figure.label = "Scatter over " + tau_text(o);
    o.figure.value = p.value * kPpb;
    o.figure.unit = unit();
    // What it may be more than this counts for a limit.
    o.figure.contributions = {
        {"finite record", (o.interval.second - o.figure.value) / 2.0, Scope::independent}};
    if (o.counter > 0.0 && o.figure.value < kSeenOver * o.counter) o.figure.bound = Bound::upper;
    const bool is_limited = plan_.limit && !is_time() && p.tau_s >= plan_.limit_from_s * 0.999 &&
                            p.tau_s <= plan_.limit_to_s * 1.001;
    if (is_limited && o.is_shown()) o.judgement = judge(o.figure, *plan_.limit);
    return o;
  }

  std::optional<std::size_t> worst(bool is_bound) const {
    std::optional<std::size_t> found;
    for (std::size_t i = 0; i < octaves_.size(); ++i) {
      const Octave& o = octaves_[i];
      if (!o.is_shown() || (o.figure.bound != Bound::none) != is_bound) continue;
      if (plan_.limit && !is_time() && !o.judgement) continue;
      if (!found || o.figure.value > octaves_[*found].figure.value) found = i;
    }
    return found;
  }

  /// Thinned, but with the worst and the ends of the limit among them.
  void choose_rows() {
    std::set<std::size_t> chosen;
    for (const auto w : {worst(false), worst(true)})
      if (w) chosen.insert(*w);
    std::optional<std::size_t> first;
    std::optional<std::size_t> last;
    for (std::size_t i = 0; i < octaves_.size(); ++i) {
      if (!octaves_[i].judgement) continue;
      if (!first) first = i;
      last = i;
    }
    for (const auto end : {first, last})
      if (end) chosen.insert(*end);
    const auto shown = static_cast<std::size_t>(std::count_if(
        octaves_.begin(), octaves_.end(), [](const Octave& o) { return o.is_shown(); }));
    for (std::size_t every = std::max<std::size_t>(1, (shown + kMostRows - 1) / kMostRows), i = 0;
         i < octaves_.size() && chosen.size() < kMostRows; i += every)
      if (octaves_[i].is_shown()) chosen.insert(i);
    rows_.assign(chosen.begin(), chosen.end());
  }

  void tell_counter() {
    const auto hidden = std::count_if(octaves_.begin(), octaves_.end(), [](const Octave& o) {
      return o.is_shown() && o.figure.bound != Bound::none;
    });
    if (octaves_.empty())
      say("short", Severity::caution, "The record is too short for one difference.",
          "Log three readings at least");
    else if (hidden > 0)
      say("counter_line", Severity::note,
          fmt::format("Over {} of {} averaging times the counter\u2019s own resolution of {} hides "
                      "the device: there this test could not have shown less.",
                      hidden, octaves_.size(), engineering_text(resolution_hz_, "Hz", 2)),
          "Lengthen the gate, or multiply the frequency before counting");
    const auto first_few = std::find_if(octaves_.begin(), octaves_.end(),
                                        [](const Octave& o) { return !o.is_shown(); });
    if (first_few != octaves_.end())
      say("few", Severity::note,
          fmt::format("From {} on the record has too few independent samples: nothing is drawn "
                      "there.",
                      tau_text(*first_few)));
    if (plan_.limit && !is_time() && !octaves_.empty() &&
        octaves_.back().point.tau_s < plan_.limit_to_s * 0.999)
      say("limit_beyond", Severity::caution,
          fmt::format("The limit reaches to {}, the record to {}.", seconds_text(plan_.limit_to_s),
                      tau_text(octaves_.back())),
          "Log longer");
  }

  static std::string seconds_text(double s) {
    return s < 10.0 && s != std::round(s) ? number_text(s, 2) + " s" : number_text(s, 0) + " s";
  }
  static std::string tau_text(const Octave& o) { return seconds_text(o.point.tau_s); }

  static std::string value_text(double v) {
    if (!(v > 0.0)) return number_text(v, 2);
    return number_text(v, std::clamp(2 - static_cast<int>(std::floor(std::log10(v))) - 1, 0, 6));
  }

  /// One digit more than the value: near a long record both ends are close to it.
  static std::string interval_text(const Octave& o) {
    const double v = std::max(o.interval.first, 1e-12);
    const int decimals = std::clamp(2 - static_cast<int>(std::floor(std::log10(v))), 0, 6);
    return number_text(o.interval.first, decimals) + " to " +
           number_text(o.interval.second, decimals);
  }

  double band_hz() const { return plan_.band_hz.value_or(nominal()); }

  ResultTable table() const {
    ResultTable t;
    t.title = "Averaging times";
    t.tab = "scatter";
    t.margin_unit = "ppb";
    t.margin_span = plan_.limit ? plan_.limit->span : 1.0;
    t.columns = {{"tau", "Over", CellKind::name, 82},
                 {"scatter", "Scatter, " + unit(), CellKind::figure, 96},
                 {"interval", "95 %, low to high", CellKind::figure, 130},
                 {"n", "Samples", CellKind::figure, 70, 1440},
                 {"noise", "Noise", CellKind::text, 120},
                 {"counter", "Counter", CellKind::figure, 72, 1200},
                 {"hz", is_time() ? "" : "Hz", CellKind::figure, 66, 1200},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
    for (std::size_t k = 0; k < rows_.size(); ++k) {
      const Octave& o = octaves_[rows_[k]];
      const bool is_bound = o.figure.bound != Bound::none;
      ResultTable::Row row{k, {}};
      row.cells = {{tau_text(o)},
                   {(is_bound ? "\u2264 " : "") + value_text(o.figure.value), std::nullopt,
                    o.judgement.has_value(), o.figure},
                   {interval_text(o)},
                   {number_text(std::floor(o.independent), 0)},
                   {std::string(noise_name(o.point.noise))},
                   {o.counter > 0.0 ? value_text(o.counter) : std::string()},
                   {is_time() ? std::string() : value_text(o.figure.value * band_hz() / kPpb)},
                   {o.judgement ? value_text(o.judgement->margin) : std::string(), o.judgement},
                   o.judgement ? verdict_cell(o.judgement, true, false) : TableCell{"no limit"}};
      if (!o.judgement && !plan_.limit) row.cells.back() = verdict_cell(std::nullopt, true, false);
      t.rows.push_back(std::move(row));
    }
    t.note =
        fmt::format("Scatter: {} deviation of the frequency over an averaging time{}. Hz at {}.",
                    std::string(estimator_name(plan_.estimator)), is_time() ? ", as time" : "",
                    frequency_text(band_hz()));
    return t;
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Scatter over averaging time";
    plot.x = {"s", "", true};
    plot.empty_words =
        "Nothing to work out yet. Log a counter for an hour, or drop a CSV file with time and "
        "frequency. The log of a drift test in this evaluation is used too.";
    PlotPanel main{{"Scatter, " + unit(), "", true}, {}};
    PlotPanel slopes{{"Slope", ""}, {}};
    PlotLayer line{PlotLayer::Kind::trace, estimator_short(), 1, true, {}};
    PlotLayer counter{PlotLayer::Kind::guide, "Counter", 1, true, {}};
    double least = 1e300;
    double most = 0.0;
    std::size_t row = 0;
    for (std::size_t i = 0; i < octaves_.size(); ++i) {
      const Octave& o = octaves_[i];
      if (!o.is_shown()) continue;
      while (row < rows_.size() && rows_[row] < i) ++row;
      PlotPoint p{o.point.tau_s, o.figure.value};
      p.interval = o.interval;
      p.bound = o.figure.bound;
      if (row < rows_.size() && rows_[row] == i) p.step = row;
      line.points.push_back(p);
      if (o.counter > 0.0) counter.points.push_back({o.point.tau_s, o.counter});
      least = std::min({least, o.interval.first, o.counter > 0.0 ? o.counter : o.interval.first});
      most = std::max(most, o.interval.second);
    }
    if (!line.points.empty()) {
      add_limit(main, least, most);
      if (!counter.points.empty()) main.layers.push_back(std::move(counter));
      plot.x.range = std::pair(line.points.front().x / 1.3, line.points.back().x * 1.3);
      main.y.range = std::pair(least / 1.5, most * 2.0);
      slopes.layers.push_back(slope_layer(line));
      slopes.y.range = std::pair(-1.25, 1.25);
      slopes.y.title =
          is_time() ? "Slope: 0 white phase, \u00bd white, 1 flicker, 1\u00bd walk"
                    : "Slope: \u22121 phase, \u2212\u00bd white, 0 flicker, \u00bd walk, 1 drift";
      if (is_time()) slopes.y.range = std::pair(-0.75, 1.75);
      main.layers.push_back(std::move(line));
    }
    plot.panels.push_back(std::move(main));
    if (!slopes.layers.empty()) plot.panels.push_back(std::move(slopes));
    return plot;
  }

  std::string estimator_short() const { return stability_setting_words(evidence_); }

  void add_limit(PlotPanel& main, double& least, double& most) const {
    if (!plan_.limit || is_time()) return;
    PlotLayer limit{
        PlotLayer::Kind::limit, value_text(plan_.limit->value) + " ppb at most", 1, true, {}};
    limit.ends_at_points = true;
    limit.points = {{std::max(plan_.limit_from_s, tau0_s_), plan_.limit->value},
                    {plan_.limit_to_s, plan_.limit->value}};
    least = std::min(least, plan_.limit->value);
    most = std::max(most, plan_.limit->value);
    main.layers.push_back(std::move(limit));
  }

  /// Between neighbours, in the middle of them.
  static PlotLayer slope_layer(const PlotLayer& line) {
    PlotLayer slopes{PlotLayer::Kind::trace, "", 3, true, {}};
    for (std::size_t i = 1; i < line.points.size(); ++i) {
      const PlotPoint& a = line.points[i - 1];
      const PlotPoint& b = line.points[i];
      PlotPoint p{std::sqrt(a.x * b.x), std::log(b.y / a.y) / std::log(b.x / a.x)};
      if (a.bound != Bound::none || b.bound != Bound::none) p.bound = Bound::upper;
      slopes.points.push_back(p);
    }
    return slopes;
  }

  void add_answer(Result& r) const {
    const auto seen = worst(false);
    const auto hidden = worst(true);
    const auto first = seen ? seen : hidden;
    if (!first) return;
    const Octave& o = octaves_[*first];
    Answer a;
    a.figure = o.figure;
    a.where = tau_text(o);
    a.head = "Most scatter, over " + tau_text(o);
    a.label = fmt::format("{}, {}", estimator_short(), std::string(noise_name(o.point.noise)));
    a.margin_span = plan_.limit ? plan_.limit->span : 1.0;
    if (o.judgement) {
      a.limit = plan_.limit;
      a.judgement = o.judgement;
      a.sentence = verdict_sentence(*o.judgement, unit());
    } else {
      a.sentence = is_time() ? "A limit is of frequency: it does not judge time."
                             : "No limit is chosen, so nothing is judged.";
    }
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      a.step = i;
      r.answers.push_back(a);
    }
    // The row that says it is chosen first.
    const auto row = std::find(rows_.begin(), rows_.end(), *first);
    std::rotate(r.answers.begin(), r.answers.begin() + (row - rows_.begin()), r.answers.end());
    r.figures.push_back(o.figure);
    r.headline_id = o.figure.id;
    if (!seen || !hidden) return;
    const Octave& bound = octaves_[*hidden];
    FigureCard card;
    card.head = "Hidden by the counter, over " + tau_text(bound);
    card.value = "\u2264 " + value_text(bound.figure.value) + " " + unit();
    card.caption = "the counter\u2019s own line is " + value_text(bound.counter) + " " + unit();
    card.judgement = bound.judgement;
    card.margin_span = a.margin_span;
    r.figure_cards.push_back(std::move(card));
  }

  const Evidence& evidence_;
  StabilityPlan plan_;
  DriftRecord record_;
  double tau0_s_ = 0.0;
  double resolution_hz_ = 0.0;
  std::vector<Octave> octaves_;
  std::vector<std::size_t> rows_;  ///< of the octaves, those in the table
  std::vector<Remark> remarks_;
};

}  // namespace

Result evaluate_stability(const Evidence& evidence) {
  return StabilityResult(evidence).result();
}

}  // namespace heron

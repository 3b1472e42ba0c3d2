#include "core/method/frequency/adjust_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/frequency/adjust_settings.h"
#include "core/method/frequency/adjusting.h"
#include "core/method/frequency/drift.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/frequency/hands_off.h"
#include "core/method/frequency/reference_error.h"
#include "core/method/live_quantity.h"
#include "core/method/measure/whole_answer.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kHistoryS = 100.0;
constexpr double kUsualTolerancePpm = 0.5;
constexpr std::size_t kBandsToCheck = 2;

/// One row, as relative errors.
struct AdjustRow {
  double nominal_hz = 0.0;
  std::optional<double> setting;
  std::optional<double> found_ppm;
  std::optional<double> adjusted_ppm;
  std::optional<double> checked_ppm;
};

class AdjustResult {
 public:
  explicit AdjustResult(const Evidence& evidence)
      : evidence_(evidence), plan_(adjust_plan(evidence)) {
    for (const EvidenceStep& s : evidence.steps) rows_.push_back(row_of(s));
    if (!plan_.nominal_hz) return;
    DriftReference reference;
    reference.nominal_hz = plan_.nominal_hz;
    Evidence logged = evidence;
    for (EvidenceStep& s : logged.steps) s.readings.clear();
    record_ = drift_record(logged, reference);
    hands_ = watch_hands(record_.samples, record_.events);
    find_errors();
    find_next_setting();
  }

  Result result() const {
    Result r;
    r.method = "adjust";
    r.remarks = remarks();
    r.tables.push_back(table());
    r.plots.push_back(empty_plot());
    if (!record_.samples.empty()) r.needle = needle();
    add_answer(r);
    add_next_card(r);
    if (!plan_.original.empty()) r.conditions.emplace_back("Original setting", plan_.original);
    if (!plan_.renewed.empty()) r.conditions.emplace_back("New setting", plan_.renewed);
    if (plan_.has_shift) r.conditions.emplace_back("Zero shifted by", hz(-plan_.shift_hz) + " Hz");
    return r;
  }

 private:
  AdjustRow row_of(const EvidenceStep& s) const {
    AdjustRow row;
    const Condition* f = find_condition(s.conditions, "frequency");
    row.nominal_hz = f != nullptr ? f->value : plan_.nominal_hz.value_or(0.0);
    if (const Condition* n = find_condition(s.conditions, kSettingCondition))
      row.setting = n->value;
    const auto error = [&](ReadingRole role) -> std::optional<double> {
      const Reading* r = find_reading(s.readings, kCountedFrequency, role);
      if (r == nullptr || row.nominal_hz <= 0.0) return std::nullopt;
      return (r->value - row.nominal_hz) / row.nominal_hz * kPerMillion;
    };
    row.found_ppm = error(ReadingRole::before);
    row.adjusted_ppm = error(ReadingRole::at);
    row.checked_ppm = error(ReadingRole::after);
    return row;
  }

  double nominal() const { return plan_.nominal_hz.value_or(1.0); }
  double to_hz(double ppm) const { return ppm * nominal() / kPerMillion; }
  double to_ppm(double in_hz) const { return in_hz / nominal() * kPerMillion; }
  static std::string hz(double value) { return number_text(value, 1, true); }
  double tolerance_hz() const {
    return to_hz(plan_.limit ? plan_.limit->value : kUsualTolerancePpm);
  }

  Figure with_source(double ppm, double u_ppm, const char* label) const {
    Figure f;
    f.id = "frequency_error";
    f.label = label;
    f.unit = "ppm";
    f.value = ppm;
    f.contributions = {{"scatter of the readings", u_ppm, Scope::independent}};
    if (plan_.source_ppm && *plan_.source_ppm > 0.0)
      f.contributions.push_back(
          {"accuracy of the source", u_rectangular(*plan_.source_ppm), Scope::common});
    return f;
  }

  std::optional<Figure> mean_of(std::optional<double> AdjustRow::* which, const char* label) const {
    std::vector<double> all;
    for (const AdjustRow& row : rows_)
      if (row.*which) all.push_back(*(row.*which));
    if (all.empty()) return std::nullopt;
    double mean = 0.0;
    for (const double v : all) mean += v / static_cast<double>(all.size());
    double square = 0.0;
    for (const double v : all) square += (v - mean) * (v - mean);
    const auto n = static_cast<double>(all.size());
    return with_source(mean, all.size() > 1 ? std::sqrt(square / (n - 1.0) / n) : 0.0, label);
  }

  void find_errors() {
    found_ = mean_of(&AdjustRow::found_ppm, "As found");
    checked_ = mean_of(&AdjustRow::checked_ppm, "After adjusting");
    // What it will be when it is warm and closed.
    std::optional<double> now_hz;
    double u_hz = 0.0;
    if (hands_.mean) {
      now_hz = hands_.mean->value;
      u_hz = hands_.mean->u();
    }
    for (auto row = rows_.rbegin(); row != rows_.rend() && !now_hz; ++row)
      if (row->adjusted_ppm) now_hz = to_hz(*row->adjusted_ppm);
    if (!now_hz) return;
    Figure f = with_source(to_ppm(*now_hz + plan_.shift_hz), to_ppm(u_hz), "Settled, predicted");
    if (plan_.u_shift_hz > 0.0)
      f.contributions.push_back(
          {"shift of the zero", to_ppm(plan_.u_shift_hz) / 2.0, Scope::independent});
    predicted_ = std::move(f);
  }

  void find_next_setting() {
    std::vector<SettingPair> pairs;
    for (const AdjustRow& row : rows_)
      if (row.setting && row.adjusted_ppm)
        pairs.push_back({*row.setting, nominal() + to_hz(*row.adjusted_ppm)});
    if (pairs.size() < 2) return;
    try {
      next_ = next_setting(pairs, nominal() - plan_.shift_hz);
    } catch (const InputError& error) {
      next_refusal_ = error.what_happened();
    }
  }

  std::size_t bands_checked() const {
    std::vector<double> bands;
    for (const AdjustRow& row : rows_)
      if (row.checked_ppm && std::find(bands.begin(), bands.end(), row.nominal_hz) == bands.end())
        bands.push_back(row.nominal_hz);
    return bands.size();
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    const auto say = [&](const char* code, Severity severity, std::string text,
                         std::string todo = {}) {
      all.push_back({code, severity, std::move(text), std::move(todo)});
    };
    if (const auto other = other_limit_remark(evidence_, "reference")) all.push_back(*other);
    if (!plan_.nominal_hz) {
      say("nominal", Severity::caution,
          "What the frequency should be is not known: nothing is worked out.",
          "Type the nominal frequency among the settings");
      return all;
    }
    if (plan_.original.empty() && (predicted_ || found_))
      say("original", Severity::caution, "The original setting is not recorded.",
          "Write it down among the settings before anything is turned");
    if (predicted_ && !plan_.source_ppm)
      say("source_unknown", Severity::caution,
          "How far off the counter may be is not known: this tells changes, not accuracy.",
          "Type the \u00b1 of the source among the settings");
    if (predicted_ && plan_.source_ppm) {
      const double u_outside = 2.0 * u_rectangular(*plan_.source_ppm);
      if (std::abs(predicted_->value) < u_outside)
        say("finer", Severity::note,
            fmt::format("{} Hz lies inside the \u00b1 {} Hz of the reference value: finer turning "
                        "is not known to be better.",
                        hz(to_hz(predicted_->value)), number_text(to_hz(u_outside), 1)));
      if (plan_.limit) tell_counter(say);
    }
    if (!plan_.has_shift && predicted_)
      say("no_shift", Severity::note,
          "Nothing is known of how it changes when it is closed and warm: zero is where the "
          "counter "
          "reads nominal.",
          "Type the shift, or log its drift in this evaluation");
    if (predicted_ && bands_checked() < kBandsToCheck)
      say("recheck", Severity::note,
          fmt::format(
              "{} re-checked with the case closed: two bands are needed before it is judged.",
              bands_checked() == 0 ? "Nothing is" : "One band is"),
          "Close the case, wait, and read on two bands");
    if (predicted_ && checked_ && plan_.has_shift) {
      const Figure off = difference(*checked_, *predicted_);
      if (!is_no_difference(off))
        say("shifted", Severity::caution,
            fmt::format("Closed it is {} Hz from what was predicted.", hz(to_hz(off.value))),
            "Let it warm longer, or correct the shift and adjust again");
    }
    if (!next_refusal_.empty()) say("settings", Severity::caution, next_refusal_ + ".");
    return all;
  }

  template <class Say>
  void tell_counter(const Say& say) const {
    const double u = u_rectangular(*plan_.source_ppm);
    const bool is_good = is_sufficient(u, plan_.limit->value);
    say("counter", is_good ? Severity::note : Severity::caution,
        fmt::format("Counter {}: u {} ppm, a third of \u00b1 {} ppm is {}.",
                    is_good ? "good enough" : "not good enough", number_text(u, 3),
                    number_text(plan_.limit->value, 2), number_text(plan_.limit->value / 3.0, 3)),
        is_good ? "" : "Use a better timebase, or a wider limit");
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Found, adjusted, re-checked";
    t.tab = record_.samples.empty() ? "errors" : "needle";
    t.margin_unit = "ppm";
    t.margin_span = plan_.limit ? plan_.limit->span : 0.5;
    t.columns = {{"row", "Reading", CellKind::name, 150},
                 {"nominal", "Nominal", CellKind::figure, 96, 1440},
                 {"setting", "Setting", CellKind::figure, 66},
                 {"found", "Found, ppm", CellKind::figure, 92},
                 {"adjusted", "Adjusted, ppm", CellKind::figure, 104},
                 {"checked", "Closed, ppm", CellKind::figure, 92},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
    const auto ppm = [](const std::optional<double>& v) {
      return v ? number_text(*v, 3, true) : std::string();
    };
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const AdjustRow& row = rows_[i];
      // A log is seen in the needle.
      const EvidenceStep& step = evidence_.steps[i];
      if (!step.series.empty() && step.readings.empty()) continue;
      std::optional<Judgement> judged;
      if (row.checked_ppm && plan_.limit && plan_.source_ppm)
        judged = judge(with_source(*row.checked_ppm, 0.0, "After adjusting"), *plan_.limit);
      ResultTable::Row to{i, {}};
      to.cells = {{evidence_.steps[i].label},
                  {row.nominal_hz > 0.0 ? frequency_text(row.nominal_hz) : std::string()},
                  {row.setting ? fmt::format("{:.10g}", *row.setting) : std::string()},
                  {ppm(row.found_ppm)},
                  {ppm(row.adjusted_ppm)},
                  {ppm(row.checked_ppm), std::nullopt, judged.has_value()},
                  {judged ? number_text(judged->margin, 2, true) : std::string(), judged},
                  verdict_cell(judged, row.checked_ppm.has_value(), evidence_.steps[i].is_damaged)};
      t.rows.push_back(std::move(to));
    }
    t.note =
        "Found: closed and warm, before anything was turned. Adjusted: hands off. Closed: the "
        "re-check, which is what is judged.";
    return t;
  }

  Plot empty_plot() const {
    Plot plot;
    plot.title = "Error by setting";
    plot.x = {"step", ""};
    plot.empty_words =
        "Nothing read yet. Start the log: the needle shows the error while you turn, Space says "
        "when the tool is on. Or type what was found, adjusted and re-checked into the grid below.";
    PlotPanel main{{"Error, Hz", ""}, {}};
    PlotLayer settings{PlotLayer::Kind::trace, "settings", 1, false, {}};
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const AdjustRow& row = rows_[i];
      if (!row.setting || !row.adjusted_ppm) continue;
      PlotPoint p{*row.setting, to_hz(*row.adjusted_ppm) + plan_.shift_hz};
      p.step = i;
      settings.points.push_back(p);
    }
    if (!settings.points.empty() && plan_.nominal_hz) {
      for (const double side : {1.0, -1.0}) {
        PlotLayer limit{PlotLayer::Kind::limit, side > 0.0 ? "limit" : "", 1, true, {}};
        double low = settings.points.front().x;
        double high = low;
        for (const PlotPoint& p : settings.points) {
          low = std::min(low, p.x);
          high = std::max(high, p.x);
        }
        limit.points = {{low, side * tolerance_hz()}, {high, side * tolerance_hz()}};
        if (plan_.limit) main.layers.push_back(std::move(limit));
      }
      main.layers.push_back(std::move(settings));
    }
    plot.panels.push_back(std::move(main));
    return plot;
  }

  void add_answer(Result& r) const {
    const bool is_checked = checked_ && bands_checked() >= kBandsToCheck;
    const std::optional<Figure>& shown = is_checked ? checked_ : predicted_ ? predicted_ : found_;
    if (!shown) return;
    Answer a;
    a.figure = *shown;
    a.head = shown->label;
    a.where = "all readings";
    a.label =
        found_ ? "As found " + number_text(found_->value, 2, true) + " ppm" : error_words(*shown);
    a.margin_span = plan_.limit ? plan_.limit->span : 0.5;
    if (plan_.limit) a.limit = plan_.limit;
    if (plan_.limit && plan_.source_ppm) {
      Judgement j = judge(*shown, *plan_.limit);
      // Only the closed case is judged.
      if (!is_checked) j.verdict = Verdict::incomplete;
      a.judgement = j;
    }
    if (!is_checked)
      a.sentence = "To re-check: judged once the case is closed again.";
    else if (!plan_.source_ppm)
      a.sentence = "The source is not known: it is not judged.";
    else
      a.sentence = a.judgement ? verdict_sentence(*a.judgement, "ppm")
                               : "No limit is chosen, so nothing is judged.";
    answer_all_steps(r, a, 0, std::max<std::size_t>(1, rows_.size()));
    r.figures.push_back(*shown);
    r.headline_id = shown->id;
    for (const auto& f : {found_, predicted_, checked_})
      if (f) r.step_figures.push_back({"all readings", *f, std::nullopt, std::nullopt});
  }

  void add_next_card(Result& r) const {
    if (!next_) return;
    FigureCard card;
    card.head = "Next setting";
    card.value = std::to_string(next_->next);
    card.caption =
        fmt::format("leaves {} Hz, closest possible \u00b1 {} Hz",
                    number_text(next_->residual_hz, 2, true), number_text(next_->closest_hz, 2));
    r.figure_cards.push_back(std::move(card));
  }

  Needle needle() const {
    Needle n;
    n.tolerance = tolerance_hz();
    n.u_zero = plan_.u_shift_hz;
    n.reads_right = plan_.has_shift ? std::optional(plan_.shift_hz) : std::nullopt;
    if (found_) n.original = to_hz(found_->value);
    const double now = *hands_.last_hz + plan_.shift_hz;
    const bool is_off = hands_.state == HandsOff::State::hands_off;
    n.value = is_off && hands_.mean ? hands_.mean->value + plan_.shift_hz : now;
    n.readout = hz(*n.value);
    n.state = hands_.state == HandsOff::State::tool_on    ? Needle::State::tool_on
              : hands_.state == HandsOff::State::settling ? Needle::State::settling
                                                          : Needle::State::hands_off;
    if (predicted_)
      n.caption = fmt::format("settled, case closed \u00b1 {} Hz",
                              number_text(to_hz(predicted_->expanded()), 1));
    say_state(n);
    say_order(n);
    add_facts(n);
    add_history(n);
    add_steps(n);
    return n;
  }

  void say_state(Needle& n) const {
    switch (hands_.state) {
      case HandsOff::State::tool_on:
        n.state_words = "Tool on";
        n.state_caption = "not counted; Space when you let go";
        if (hands_.jump) n.let_go_value = *n.value + hands_.jump->value;
        break;
      case HandsOff::State::settling:
        n.state_words = "Settling";
        n.state_caption = "the first seconds do not count";
        break;
      case HandsOff::State::hands_off:
      case HandsOff::State::none:
        n.state_words = "Hands off";
        n.state_caption = fmt::format("{} readings counted", hands_.stretches.back().counted);
        break;
    }
  }

  void say_order(Needle& n) const {
    if (hands_.state == HandsOff::State::tool_on) {
      // No advice under the tool, but where to aim.
      n.order = hands_.jump ? "Aim at " + hz(-hands_.jump->value) : "Turn";
      n.order_caption = hands_.jump ? "letting go adds " + hz(hands_.jump->value) + " Hz"
                                    : "the jump on letting go is not learnt yet";
      return;
    }
    if (hands_.state == HandsOff::State::settling) {
      n.order = "Wait";
      return;
    }
    const double off = *n.value;
    if (hands_.finest_hz && std::abs(off) < *hands_.finest_hz) {
      n.order = "Leave it";
      n.order_caption =
          fmt::format("less than your \u00b1 {} Hz", number_text(*hands_.finest_hz, 1));
      return;
    }
    // Nobody is asked for less than what it is compared with.
    const double u_outside = plan_.source_ppm ? to_hz(2.0 * u_rectangular(*plan_.source_ppm)) : 0.0;
    if (std::abs(off) < std::min(u_outside, n.tolerance)) {
      n.order = "Leave it";
      n.order_caption =
          fmt::format("inside the \u00b1 {} Hz of the source", number_text(u_outside, 1));
      return;
    }
    if (std::abs(off) < 0.05 * n.tolerance) {
      n.order = "Leave it";
      n.order_caption = "well inside the limit";
      return;
    }
    n.order = fmt::format("{} {} Hz", off > 0.0 ? "Down" : "Up", number_text(std::abs(off), 1));
    n.order_caption =
        std::abs(off) < n.tolerance ? "inside the limit already" : "outside the limit";
  }

  void add_facts(Needle& n) const {
    n.facts.push_back({"Original setting",
                       found_ ? hz(to_hz(found_->value)) + " Hz" : std::string("not read"),
                       plan_.original.empty() ? "write it down first" : plan_.original});
    n.facts.push_back({"New setting",
                       predicted_ ? hz(to_hz(predicted_->value)) + " Hz" : std::string("\u2013"),
                       plan_.renewed.empty() ? "not noted yet" : plan_.renewed});
    n.facts.push_back({"Zero shifted by",
                       plan_.has_shift ? fmt::format("{} \u00b1 {} Hz", hz(-plan_.shift_hz),
                                                     number_text(plan_.u_shift_hz, 1))
                                       : std::string("not known"),
                       !plan_.has_shift           ? "open and closed alike"
                       : plan_.is_shift_of_record ? "from the drift record"
                                                  : "as typed"});
    const auto jumps = std::count_if(hands_.stretches.begin(), hands_.stretches.end(),
                                     [](const HandStretch& s) { return s.jump_hz.has_value(); });
    n.facts.push_back({"Jump on letting go",
                       hands_.jump ? fmt::format("{} \u00b1 {} Hz", hz(hands_.jump->value),
                                                 number_text(hands_.jump->expanded(), 1))
                                   : std::string("not learnt"),
                       jumps == 1 ? "learnt once" : fmt::format("learnt from {} times", jumps)});
    n.facts.push_back({"Finest by hand",
                       hands_.finest_hz
                           ? fmt::format("\u00b1 {} Hz", number_text(*hands_.finest_hz, 1))
                           : std::string("not known"),
                       hands_.finest_hz ? "spread of the jumps" : "let go three times"});
  }

  void add_history(Needle& n) const {
    const double end = record_.samples.back().seconds;
    for (const HandStretch& s : hands_.stretches) {
      if (s.to_s < end - kHistoryS) continue;
      Needle::Stretch to{std::max(s.from_s - end, -kHistoryS), s.to_s - end, s.is_tool, {}};
      to.word = s.is_tool ? "tool on" : s.jump_hz ? "jump " + hz(*s.jump_hz) : "hands off";
      n.stretches.push_back(to);
    }
    for (const DriftSample& s : record_.samples) {
      if (s.seconds < end - kHistoryS) continue;
      const auto in = std::find_if(
          hands_.stretches.begin(), hands_.stretches.end(),
          [&](const HandStretch& h) { return s.seconds >= h.from_s && s.seconds <= h.to_s; });
      const bool is_tool = in != hands_.stretches.end() && in->is_tool;
      n.history.push_back({s.seconds - end, s.error_hz + plan_.shift_hz, !is_tool});
    }
  }

  void add_steps(Needle& n) const {
    const bool is_adjusted = !plan_.renewed.empty();
    const std::size_t checked = bands_checked();
    const auto state = [](bool is_done, bool is_now) {
      return is_done  ? Needle::StepState::done
             : is_now ? Needle::StepState::now
                      : Needle::StepState::open;
    };
    n.steps.push_back({"Found", found_ ? hz(to_hz(found_->value)) + " Hz" : "type it below",
                       state(found_.has_value(), !found_)});
    n.steps.push_back(
        {"Adjust", "hands off, case open", state(is_adjusted || checked > 0, found_.has_value())});
    n.steps.push_back({"Wait", "no tool, let it warm", state(checked > 0, is_adjusted)});
    n.steps.push_back({"Close the case", "right way up", state(checked > 0, is_adjusted)});
    n.steps.push_back(
        {"Re-check two bands",
         predicted_ ? fmt::format("expect {} ppm", number_text(predicted_->value, 2, true)) : "",
         state(checked >= kBandsToCheck, checked == 1)});
  }

  const Evidence& evidence_;
  AdjustPlan plan_;
  std::vector<AdjustRow> rows_;
  DriftRecord record_;
  HandsOff hands_;
  std::optional<Figure> found_;
  std::optional<Figure> predicted_;
  std::optional<Figure> checked_;
  std::optional<Adjustment> next_;
  std::string next_refusal_;
};

}  // namespace

Result evaluate_adjust(const Evidence& evidence) {
  return AdjustResult(evidence).result();
}

}  // namespace heron

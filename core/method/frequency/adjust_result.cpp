#include "core/method/frequency/adjust_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/frequency/adjust_needle.h"
#include "core/method/frequency/adjust_state.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/measure/whole_answer.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

class AdjustResult {
 public:
  explicit AdjustResult(const Evidence& evidence)
      : evidence_(evidence), s_(adjust_state(evidence)) {}

  Result result() const {
    Result r;
    r.method = "adjust";
    r.remarks = remarks();
    r.tables.push_back(table());
    r.plots.push_back(plot());
    if (!s_.record.samples.empty()) r.needle = adjust_needle(s_);
    add_answer(r);
    add_next_card(r);
    if (!s_.plan.original.empty()) r.conditions.emplace_back("Original setting", s_.plan.original);
    if (!s_.plan.renewed.empty()) r.conditions.emplace_back("New setting", s_.plan.renewed);
    if (s_.plan.has_shift)
      r.conditions.emplace_back("Zero shifted by", hz(-s_.plan.shift_hz) + " Hz");
    return r;
  }

 private:
  static std::string hz(double value) { return number_text(value, 1, true); }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    const auto say = [&](const char* code, Severity severity, std::string text,
                         std::string todo = {}) {
      all.push_back({code, severity, std::move(text), std::move(todo)});
    };
    if (const auto other = other_limit_remark(evidence_, "reference")) all.push_back(*other);
    if (!s_.plan.nominal_hz) {
      say("nominal", Severity::caution,
          "What the frequency should be is not known: nothing is worked out.",
          "Type the nominal frequency among the settings");
      return all;
    }
    if (s_.plan.original.empty() && (s_.predicted || s_.found))
      say("original", Severity::caution, "The original setting is not recorded.",
          "Write it down among the settings before anything is turned");
    if (s_.predicted && !s_.plan.source_ppm)
      say("source_unknown", Severity::caution,
          "How far off the counter may be is not known: this tells changes, not accuracy.",
          "Type the \u00b1 of the source among the settings");
    if (s_.predicted && s_.plan.source_ppm) {
      const double u_outside = 2.0 * u_rectangular(*s_.plan.source_ppm);
      if (std::abs(s_.predicted->value) < u_outside)
        say("finer", Severity::note,
            fmt::format("{} Hz lies inside the \u00b1 {} Hz of the reference value: finer turning "
                        "is not known to be better.",
                        hz(s_.to_hz(s_.predicted->value)), number_text(s_.to_hz(u_outside), 1)));
      if (s_.plan.limit) tell_counter(say);
    }
    if (!s_.plan.has_shift && s_.predicted)
      say("no_shift", Severity::note,
          "Nothing is known of how it changes when it is closed and warm: zero is where the "
          "counter "
          "reads nominal.",
          "Type the shift, or log its drift in this evaluation");
    if (s_.predicted && s_.bands_checked() < AdjustState::kBandsToCheck)
      say("recheck", Severity::note,
          fmt::format(
              "{} re-checked with the case closed: two bands are needed before it is judged.",
              s_.bands_checked() == 0 ? "Nothing is" : "One band is"),
          "Close the case, wait, and read on two bands");
    if (s_.bands_checked() >= AdjustState::kBandsToCheck) tell_power_cycle(say);
    if (s_.plan.is_shift_of_check)
      say("shift_of_check", Severity::note,
          fmt::format("Zero is shifted by {} Hz: so much closing the case did the last time.",
                      hz(-s_.plan.shift_hz)));
    if (s_.predicted && s_.checked && s_.plan.has_shift && !s_.plan.is_shift_of_check) {
      const Figure off = difference(*s_.checked, *s_.predicted);
      if (!is_no_difference(off))
        say("shifted", Severity::caution,
            fmt::format("Closed it is {} Hz from what was predicted.", hz(s_.to_hz(off.value))),
            "Let it warm longer, or correct the shift and adjust again");
    }
    if (!s_.next_refusal.empty()) say("settings", Severity::caution, s_.next_refusal + ".");
    return all;
  }

  template <class Say>
  void tell_power_cycle(const Say& say) const {
    constexpr double kOtherSetting = 0.75;
    if (s_.needs_power_cycle())
      say("power_cycle", Severity::note,
          "Whether it keeps the new setting when it is switched off is not known.",
          "Save it, switch off and on, read again, and say so among the settings");
    const auto off = s_.steps_off();
    if (off && std::abs(*off) > kOtherSetting)
      say("not_kept", Severity::caution,
          fmt::format("After power off it reads {} steps from the setting it was left at.",
                      number_text(*off, 1, true)),
          "Look at the setting: it may not have been saved");
  }

  template <class Say>
  void tell_counter(const Say& say) const {
    const double u = u_rectangular(*s_.plan.source_ppm);
    const bool is_good = is_sufficient(u, s_.plan.limit->value);
    say("counter", is_good ? Severity::note : Severity::caution,
        fmt::format("Counter {}: u {} ppm, a third of \u00b1 {} ppm is {}.",
                    is_good ? "good enough" : "not good enough", number_text(u, 3),
                    number_text(s_.plan.limit->value, 2),
                    number_text(s_.plan.limit->value / 3.0, 3)),
        is_good ? "" : "Use a better timebase, or a wider limit");
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Found, adjusted, re-checked";
    t.tab = s_.record.samples.empty() ? "errors" : "needle";
    t.margin_unit = "ppm";
    t.margin_span = s_.plan.limit ? s_.plan.limit->span : 0.5;
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
    for (std::size_t i = 0; i < s_.rows.size(); ++i) {
      const AdjustRow& row = s_.rows[i];
      // A log is seen in the needle.
      const EvidenceStep& step = evidence_.steps[i];
      if (!step.series.empty() && step.readings.empty()) continue;
      std::optional<Judgement> judged;
      if (row.checked_ppm && s_.plan.limit && s_.plan.source_ppm)
        judged = judge(s_.with_source(*row.checked_ppm, 0.0, "After adjusting"), *s_.plan.limit);
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

  Plot plot() const {
    Plot plot;
    plot.title = "Error by setting";
    plot.x = {"step", ""};
    plot.empty_words =
        "Nothing read yet. Start the log: the needle shows the error while you turn, Space says "
        "when the tool is on. Or type what was found, adjusted and re-checked into the grid below.";
    PlotPanel main{{"Error, Hz", ""}, {}};
    PlotLayer settings{PlotLayer::Kind::trace, "settings", 1, false, {}};
    for (std::size_t i = 0; i < s_.rows.size(); ++i) {
      const AdjustRow& row = s_.rows[i];
      if (!row.setting || !row.adjusted_ppm) continue;
      PlotPoint p{*row.setting, s_.to_hz(*row.adjusted_ppm) + s_.plan.shift_hz};
      p.step = i;
      settings.points.push_back(p);
    }
    if (!settings.points.empty() && s_.plan.nominal_hz) {
      for (const double side : {1.0, -1.0}) {
        PlotLayer limit{PlotLayer::Kind::limit, side > 0.0 ? "limit" : "", 1, true, {}};
        double low = settings.points.front().x;
        double high = low;
        for (const PlotPoint& p : settings.points) {
          low = std::min(low, p.x);
          high = std::max(high, p.x);
        }
        limit.points = {{low, side * s_.tolerance_hz()}, {high, side * s_.tolerance_hz()}};
        if (s_.plan.limit) main.layers.push_back(std::move(limit));
      }
      main.layers.push_back(std::move(settings));
    }
    plot.panels.push_back(std::move(main));
    return plot;
  }

  void add_answer(Result& r) const {
    const bool is_read = s_.checked && s_.bands_checked() >= AdjustState::kBandsToCheck;
    const bool is_checked = s_.checked && s_.is_checked();
    const std::optional<Figure>& shown = is_read        ? s_.checked
                                         : s_.predicted ? s_.predicted
                                                        : s_.found;
    if (!shown) return;
    Answer a;
    a.figure = *shown;
    a.head = shown->label;
    a.where = "all readings";
    a.label = s_.found ? "As found " + number_text(s_.found->value, 2, true) + " ppm"
                       : error_words(*shown);
    a.margin_span = s_.plan.limit ? s_.plan.limit->span : 0.5;
    if (s_.plan.limit) a.limit = s_.plan.limit;
    if (s_.plan.limit && s_.plan.source_ppm) {
      Judgement j = judge(*shown, *s_.plan.limit);
      // Only the closed case is judged.
      if (!is_checked) j.verdict = Verdict::incomplete;
      a.judgement = j;
    }
    if (is_read && !is_checked)
      a.sentence = "1 step left: save, switch off and on, and read again.";
    else if (!is_checked)
      a.sentence = "To re-check: judged once the case is closed again.";
    else if (!s_.plan.source_ppm)
      a.sentence = "The source is not known: it is not judged.";
    else
      a.sentence = a.judgement ? verdict_sentence(*a.judgement, "ppm")
                               : "No limit is chosen, so nothing is judged.";
    answer_all_steps(r, a, 0, std::max<std::size_t>(1, s_.rows.size()));
    r.figures.push_back(*shown);
    r.headline_id = shown->id;
    for (const auto& f : {s_.found, s_.predicted, s_.checked})
      if (f) r.step_figures.push_back({"all readings", *f, std::nullopt, std::nullopt});
  }

  void add_next_card(Result& r) const {
    if (!s_.next) return;
    FigureCard card;
    card.head = "Next setting";
    card.value = std::to_string(s_.next->next);
    card.caption = fmt::format("leaves {} Hz, closest possible \u00b1 {} Hz",
                               number_text(s_.next->residual_hz, 2, true),
                               number_text(s_.next->closest_hz, 2));
    r.figure_cards.push_back(std::move(card));
  }

  const Evidence& evidence_;
  AdjustState s_;
};

}  // namespace

Result evaluate_adjust(const Evidence& evidence) {
  return AdjustResult(evidence).result();
}

}  // namespace heron

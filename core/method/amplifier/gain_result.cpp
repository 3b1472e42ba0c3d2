#include "core/method/amplifier/gain_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/amplifier/band_markers.h"
#include "core/method/amplifier/gain_case.h"
#include "core/method/amplifier/gain_harmonics.h"
#include "core/method/amplifier/gain_plot.h"
#include "core/method/amplifier/gain_run.h"
#include "core/method/amplifier/gain_tables.h"
#include "core/method/amplifier/gain_take.h"
#include "core/method/measure/whole_answer.h"
#include "core/quantity/drive_label.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

class GainResult {
 public:
  explicit GainResult(const Evidence& evidence)
      : c_(evidence), evidence_(evidence), plan_(c_.plan), a_(c_.amplifier) {}

  Result result() const {
    Result r;
    r.method = "gain";
    r.remarks = a_.remarks;
    r.tables = gain_tables(c_);
    r.plots = gain_plots(c_, note(), empty_words());
    for (const Plot& p : r.plots) r.views.push_back(p.view);
    add_answers(r);
    add_cards(r);
    add_expected(r);
    add_figures(r);
    if (a_.frequency_hz) r.carrier_hz = a_.frequency_hz;
    for (const DrivenRow& row : a_.rows) r.step_outputs.push_back(row.output);
    add_conditions(r);
    if (!c_.changes.empty())
      r.remarks.push_back({"compared", Severity::note,
                           fmt::format("{} against {}: {}.", c_.changes.front().what,
                                       evidence_.compared_name, change_words(c_.changes.front())),
                           ""});
    if (evidence_.limit && !plan_.compression_limit && evidence_.limit->unit != "dB")
      r.remarks.push_back(
          {"limit_unit", Severity::caution,
           "The limit is in " + evidence_.limit->unit + ": it judges no 1 dB point.",
           "Choose a limit in W or dBm, or in dB of the gain"});
    add_linear(r);
    add_stop(r);
    sort_remarks(r.remarks);
    return r;
  }

 private:
  /// Up to where products of two tones keep to their limit: compression alone does not say that.
  void add_linear(Result& r) const {
    if (!evidence_.linear_output) return;
    const Figure& f = *evidence_.linear_output;
    const std::string out = figure_text(in_watts(f), Rounding::compact) + " PEP";
    std::string text = f.bound == Bound::lower
                           ? fmt::format("Linear by products ({}): at least {}", f.label,
                                         watts_text(f.value) + " PEP")
                           : fmt::format("Linear by products ({}): up to {}", f.label, out);
    if (a_.linear_out)
      text += fmt::format("; by compression of {} dB {} {}",
                          number_text(plan_.linear_to_db, plan_.linear_to_db < 1.0 ? 1 : 0),
                          a_.linear_out->bound == Bound::lower ? "at least" : "up to",
                          watts_text(a_.linear_out->value));
    r.remarks.push_back({"linear_output", Severity::note, text + ".", ""});
    r.figures.push_back(f);
  }
  /// Why the lowest planned step above those that were measured should not be keyed.
  void add_stop(Result& r) const {
    if (a_.rising.empty()) return;
    const double highest = a_.rows[a_.rising.back()].input->value;
    const DrivenRow* next = nullptr;
    for (const DrivenRow& row : a_.rows)
      if (!row.is_taken() && row.input_dbm && *row.input_dbm > highest + kSameDriveDb &&
          (next == nullptr || *row.input_dbm < *next->input_dbm))
        next = &row;
    if (next == nullptr) return;
    if (const std::string why = stop_before(c_, next->label); !why.empty())
      r.remarks.push_back({"stop", Severity::caution,
                           fmt::format("{} is not measured: {}.", next->label, why),
                           "Raise what limits it, or plan no harder step"});
  }

  /// Frequency, supply and temperatures, for all of them.
  std::string note() const {
    std::string note;
    const auto add = [&](const std::string& words) {
      note += (note.empty() ? "" : " \u00b7 ") + words;
    };
    if (a_.frequency_hz) add(megahertz_text(*a_.frequency_hz));
    if (plan_.nominal_v) add(number_text(*plan_.nominal_v, 1) + " V");
    double least = 1e300;
    double most = -1e300;
    for (const DrivenRow& row : a_.rows) {
      if (!row.temperature_c) continue;
      least = std::min(least, *row.temperature_c);
      most = std::max(most, *row.temperature_c);
    }
    if (least < most)
      add(fmt::format("case {} to {} \u00b0C", number_text(least, 0), number_text(most, 0)));
    return note;
  }

  static std::string empty_words() {
    return "Nothing read yet. Begin with the first power checks, then drive it from far below its "
           "rating upwards: type drive, output, volts and amperes of each step into the grid "
           "below.";
  }

  /// Of a figure that was taken at too few volts.
  std::string sagged_words(const Answer& a, double volts) const {
    const double margin = a.judgement->margin;
    return fmt::format("{} dB {} the limit, at {} V of {} V: it counts as at least that.",
                       number_text(std::abs(margin), 2), margin < 0.0 ? "below" : "above",
                       number_text(volts, 1), number_text(*plan_.nominal_v, 1));
  }

  Limit limit_of(double dbm) const {
    Limit limit{
        "", Sense::at_least,  c_.settings.is_in_watts ? to_watt(Dbm{dbm}).value : dbm, c_.unit(),
        "", kGainMarginSpanDb};
    limit.value = std::round(limit.value * 100.0) / 100.0;
    return limit;
  }

  /// The 1 dB point where it has a limit or was reached; else small-signal gain.
  std::optional<Answer> main_answer() const {
    if (!a_.gain) return std::nullopt;
    Answer a;
    a.where = a_.frequency_hz ? megahertz_text(*a_.frequency_hz) : "all steps";
    a.margin_span = kGainMarginSpanDb;
    const bool is_reached = a_.one_db_out && a_.one_db_out->bound == Bound::none;
    if (a_.one_db_out && (plan_.compression_limit || is_reached) &&
        !(a_.gain_judgement && !plan_.compression_limit)) {
      a.figure = *a_.one_db_out;
      a.shown = c_.shown(*a_.one_db_out);
      a.head = "1 dB compression";
      a.label = c_.settings.is_in_watts ? number_text(a_.one_db_out->value, 1, true) + " dBm"
                                        : watts_text(a_.one_db_out->value) + " out";
      if (a_.one_db_in) a.label += ", for " + watts_text(a_.one_db_in->value) + " of drive";
      if (plan_.compression_limit) {
        a.limit = limit_of(plan_.compression_limit->value);
        a.limit->name = plan_.compression_limit->name;
        a.judgement = a_.one_db_judgement;
        a.sentence = plan_.is_sagged(a_.one_db_v) ? sagged_words(a, *a_.one_db_v)
                                                  : verdict_sentence(*a.judgement, "dB");
      } else {
        a.sentence = "No limit is chosen, so it is not judged.";
      }
      if (!is_reached)
        a.sentence = "It was not reached: the highest output that was measured." +
                     (a.judgement ? " " + a.sentence : std::string());
      return a;
    }
    a.figure = *a_.gain;
    a.head = "Small-signal gain";
    a.label = a_.curve.is_fitted() ? "from all steps"
              : a_.curve.flat_steps() > 1
                  ? fmt::format("mean of {} steps that agree", a_.curve.flat_steps())
                  : "of the lowest step";
    if (a_.gain_judgement) {
      a.limit = Limit{"specified", Sense::at_least,  *plan_.specified_gain_db, "dB",
                      "",          kGainMarginSpanDb};
      a.judgement = a_.gain_judgement;
      a.sentence = verdict_sentence(*a.judgement, "dB");
    } else {
      a.sentence = "No gain is specified, so it is not judged.";
    }
    return a;
  }

  void add_answers(Result& r) const {
    const auto answer = main_answer();
    if (!answer) return;
    // All steps ask the same; the one nearest to the answer is shown first.
    std::size_t first = a_.rising.back();
    if (a_.one_db_in)
      first =
          *std::min_element(a_.rising.begin(), a_.rising.end(), [&](std::size_t x, std::size_t y) {
            return std::abs(a_.rows[x].input->value - a_.one_db_in->value) <
                   std::abs(a_.rows[y].input->value - a_.one_db_in->value);
          });
    answer_all_steps(r, *answer, first, a_.rows.size());
  }

  void add_cards(Result& r) const {
    if (a_.at_rated && plan_.rated_output_dbm) {
      FigureCard card;
      card.head = "Output for " + watts_text(*plan_.rated_input_dbm) + " of drive";
      card.value = figure_text(in_watts(*a_.at_rated), Rounding::compact);
      card.caption = "rated " + watts_text(*plan_.rated_output_dbm);
      if (plan_.is_sagged(a_.rated_v)) card.caption += ", at " + number_text(*a_.rated_v, 1) + " V";
      card.judgement = a_.rated_judgement;
      card.margin_span = kGainMarginSpanDb;
      card.view = kGainView;
      r.figure_cards.push_back(card);
    } else if (a_.gain && a_.one_db_out && a_.one_db_out->bound == Bound::none) {
      FigureCard card;
      card.head = "Small-signal gain";
      card.value = figure_text(*a_.gain, Rounding::compact);
      card.caption = plan_.specified_gain_db
                         ? "specified " + number_text(*plan_.specified_gain_db, 1) + " dB"
                         : "no gain is specified";
      card.judgement = a_.gain_judgement;
      card.margin_span = kGainMarginSpanDb;
      card.view = kGainView;
      r.figure_cards.push_back(card);
    }
    if (a_.most_efficient) {
      const DrivenRow& best = a_.rows[*a_.most_efficient];
      FigureCard card;
      card.head = "Highest efficiency";
      card.value = figure_text(*best.efficiency, Rounding::compact);
      card.caption = fmt::format("at {} of drive, {} of heat", best.label,
                                 engineering_text(best.heat->value, "W", 2));
      card.view = kHeatView;
      r.figure_cards.push_back(card);
    }
    if (auto card = harmonic_filters(c_)) {
      card->view = kHarmonicsView;
      r.cards.push_back(std::move(*card));
    }
  }

  /// What the instrument should show at each step, before and after it is read.
  void add_expected(Result& r) const {
    for (std::size_t i = 0; i < a_.rows.size(); ++i) {
      const DrivenRow& row = a_.rows[i];
      std::optional<double> expected = row.expected_dbm;
      if (!expected && row.input_dbm && a_.gain) expected = *row.input_dbm + a_.gain->value;
      if (!expected) continue;
      const double hz =
          a_.frequency_hz.value_or(evidence_.drive ? evidence_.drive->frequency_hz : 0.0);
      const std::string meter = shown_words(*expected, evidence_, hz);
      const std::string level =
          meter.empty() ? figure_words(*expected) : meter + " (" + figure_words(*expected) + ")";
      StepRemarks said{i, "", {}};
      if (row.output) {
        const double off = row.output->value - *expected;
        said.remarks.push_back(
            {"expected", Severity::note,
             fmt::format("{}: expected {}, it is {} dB {}.", row.label, level,
                         number_text(std::abs(off), 2), off < 0.0 ? "less" : "more"),
             ""});
      } else {
        said.remarks.push_back(
            {"expected", Severity::note, fmt::format("{}: expect {}.", row.label, level), ""});
      }
      r.step_remarks.push_back(std::move(said));
    }
  }

  std::string figure_words(double dbm) const {
    return number_text(dbm, 2, true) + " dBm, " + watts_text(dbm);
  }

  void add_figures(Result& r) const {
    const auto add = [&](const std::string& step, const std::optional<Figure>& f,
                         const std::optional<Judgement>& j = std::nullopt,
                         const std::optional<Limit>& limit = std::nullopt) {
      if (f) r.step_figures.push_back({step, *f, limit, j});
    };
    const auto at_least = [](std::optional<double> value,
                             const char* unit) -> std::optional<Limit> {
      if (!value) return std::nullopt;
      return Limit{"", Sense::at_least, *value, unit, "", kGainMarginSpanDb};
    };
    add("all", a_.gain, a_.gain_judgement, at_least(plan_.specified_gain_db, "dB"));
    add("all", a_.one_db_out, a_.one_db_judgement, plan_.compression_limit);
    add("all", a_.one_db_in);
    if (plan_.linear_to_db != 1.0) add("all", a_.linear_out);
    add("all", a_.at_rated, a_.rated_judgement, at_least(plan_.rated_output_dbm, "dBm"));
    add("all", a_.idle);
    add("all", a_.needed_a);
    for (const std::size_t i : a_.rising) {
      const DrivenRow& row = a_.rows[i];
      for (const auto* f : {&row.output, &row.gain, &row.compression, &row.volts, &row.amperes,
                            &row.efficiency, &row.added_efficiency, &row.heat})
        add(row.label, *f);
    }
  }

  void add_conditions(Result& r) const {
    r.conditions.emplace_back("Specified", gain_setting_words(evidence_));
    if (plan_.nominal_v)
      r.conditions.emplace_back(
          "Supply",
          number_text(*plan_.nominal_v, 1) + " V" +
              (plan_.supply_limit_a ? ", stops at " + number_text(*plan_.supply_limit_a, 1) + " A"
                                    : ""));
    if (a_.idle) r.conditions.emplace_back("Quiescent current", figure_text(*a_.idle));
    if (c_.settings.is_one_meter)
      r.conditions.emplace_back("Drive and output", "one meter, device bypassed, then in line");
    if (a_.linear_out && a_.linear_out->bound == Bound::none)
      r.conditions.emplace_back(
          fmt::format("Linear within {} dB", number_text(plan_.linear_to_db, 1)),
          "up to " + watts_text(a_.linear_out->value, a_.linear_out->u()));
  }

  GainCase c_;
  const Evidence& evidence_;
  const AmplifierPlan& plan_;
  const Amplification& a_;
};

}  // namespace

Result evaluate_gain(const Evidence& evidence) {
  return GainResult(evidence).result();
}

}  // namespace heron

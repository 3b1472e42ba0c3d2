#include "core/method/phase_noise/noise_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/whole_answer.h"
#include "core/method/phase_noise/noise_figures.h"
#include "core/method/phase_noise/noise_integral.h"
#include "core/method/phase_noise/noise_plot.h"
#include "core/method/phase_noise/noise_states.h"
#include "core/method/place_name.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kPerRad = 180.0 / std::numbers::pi;
constexpr double kMainsHz[] = {50.0, 60.0};

/// What makes a line at an offset, as far as its place says: multiples of the mains, or of another
/// line.
std::string line_words(const NoiseSpur& line, const std::vector<NoiseSpur>& all) {
  constexpr double kNearHz = 0.6;
  for (const double mains : kMainsHz) {
    const double n = std::round(line.offset_hz / mains);
    if (n >= 1.0 && n <= 20.0 && std::abs(line.offset_hz - n * mains) < kNearHz)
      return fmt::format("mains {} Hz \u00d7 {}", static_cast<int>(mains), static_cast<int>(n));
  }
  for (const NoiseSpur& first : all) {
    const double n = std::round(line.offset_hz / first.offset_hz);
    if (n >= 2.0 && n <= 6.0 && first.offset_hz > 1e3 &&
        std::abs(line.offset_hz - n * first.offset_hz) < 1e-3 * line.offset_hz)
      return fmt::format("{} \u00d7 {}", static_cast<int>(n), frequency_text(first.offset_hz));
  }
  return line.is_one_sided ? "on one side only" : "";
}

class NoiseResult {
 public:
  explicit NoiseResult(const Evidence& evidence)
      : evidence_(evidence),
        plan_(noise_plan(evidence)),
        states_(noise_states(evidence, plan_, state_of_step)) {
    const NoiseState* after = states_.after();
    if (after == nullptr) return;
    counted_ = {std::max(plan_.low_hz.value_or(0.0), after->curve.low_hz()),
                std::min(plan_.high_hz.value_or(1e300), after->curve.high_hz())};
    if (counted_.second > counted_.first * 1.0001)
      now_ = integrate(after->curve, counted_.first, counted_.second);
    if (const NoiseState* before = states_.before()) {
      try {
        comparison_ = compare_noise(before->curve, after->curve, plan_.repeats_db);
      } catch (const InputError& error) {
        states_.remarks.push_back(
            {"unlike", Severity::caution, error.what_happened(), error.advice});
      }
      try {
        then_ = integrate(before->curve, counted_.first, counted_.second);
      } catch (const InputError&) {
        then_.reset();  // it does not reach over the counted range
      }
    }
    const int first = static_cast<int>(std::ceil(std::log10(after->curve.low_hz()) - 1e-9));
    const int last = static_cast<int>(std::floor(std::log10(after->curve.high_hz()) + 1e-9));
    for (int k = first; k <= last; ++k) decades_.push_back(std::pow(10.0, k));
  }

  Result result() const {
    Result r;
    r.method = "phase_noise";
    r.remarks = remarks();
    r.plots.push_back(
        noise_plot(states_, comparison_ ? &*comparison_ : nullptr, counted_, plan_.shows_am));
    const NoiseState* after = states_.after();
    for (const double hz : decades_)
      r.items.push_back({frequency_text(hz), after != nullptr && !after->steps.empty()
                                                 ? std::optional(after->steps.front())
                                                 : std::nullopt});
    r.tables.push_back(decade_table());
    r.tables.push_back(line_table());
    if (after == nullptr) return r;
    if (now_) add_answers(r);
    add_conditions(r);
    if (after->carrier_hz) r.carrier_hz = after->carrier_hz;
    return r;
  }

 private:
  void add_answers(Result& r) const {
    const NoiseState& after = *states_.after();
    Answer a;
    a.figure = rms_figure(*now_, plan_);
    a.where = states_.all.size() > 1 ? after.name : "all recordings";
    a.head = "RMS phase";
    if (states_.scaled_hz) a.head += ", " + frequency_text(*states_.scaled_hz);
    a.label = frequency_text(counted_.first) + " to " + frequency_text(counted_.second);
    if (then_) {
      const Figure before = rms_figure(*then_, plan_);
      a.label += "; " + states_.before()->name + " " + format_figure(before).shown() + "\u00b0";
    }
    a.margin_span = plan_.limit ? plan_.limit->span : 1.0;
    if (plan_.limit) {
      a.limit = plan_.limit;
      a.judgement = judge(a.figure, *plan_.limit);
    }
    const std::string changed = comparison_ ? change_sentence(*comparison_) : std::string();
    if (!changed.empty()) {
      a.sentence = changed + ".";
      a.sentence.front() = static_cast<char>(std::toupper(a.sentence.front()));
    } else if (a.judgement) {
      a.sentence = verdict_sentence(*a.judgement, "\u00b0");
    } else {
      a.sentence = "No limit is chosen, so nothing is judged.";
    }
    answer_all_steps(r, a, 0, std::max<std::size_t>(1, decades_.size()));
    r.figures.push_back(a.figure);
    r.headline_id = a.figure.id;
    r.step_figures.push_back({a.where, a.figure, plan_.limit, a.judgement});
    add_residual_fm(r, after);
    if (states_.scaled_hz) {
      Figure jitter;
      jitter.id = "jitter";
      jitter.label = "Jitter";
      jitter.unit = "ps";
      jitter.value = 1e12 * now_->jitter_s(*states_.scaled_hz);
      jitter.bound = now_->bound;
      jitter.contributions = {
          {"RMS phase", a.figure.u() / a.figure.value * jitter.value, Scope::independent}};
      r.step_figures.push_back({a.where, jitter});
    }
  }

  void add_residual_fm(Result& r, const NoiseState& after) const {
    if (plan_.fm_low_hz < after.curve.low_hz() || plan_.fm_high_hz > after.curve.high_hz()) return;
    const Figure f =
        residual_fm_figure(integrate(after.curve, plan_.fm_low_hz, plan_.fm_high_hz), plan_);
    FigureCard card;
    card.head = "Residual FM, " + frequency_text(plan_.fm_low_hz) + " to " +
                frequency_text(plan_.fm_high_hz);
    card.value = figure_text(f, Rounding::compact);
    card.caption = "no limit is set";
    if (plan_.fm_limit_hz) {
      Limit limit{"own limit", Sense::at_most, *plan_.fm_limit_hz, "Hz", "", *plan_.fm_limit_hz};
      card.judgement = judge(f, limit);
      card.margin_span = *plan_.fm_limit_hz;
      card.caption = "limit " + frequency_text(*plan_.fm_limit_hz);
    }
    r.figure_cards.push_back(card);
    r.step_figures.push_back({after.name, f, std::nullopt, card.judgement});
  }

  void add_conditions(Result& r) const {
    const NoiseState& after = *states_.after();
    if (states_.scaled_hz)
      r.conditions.emplace_back("Told for", frequency_text(*states_.scaled_hz));
    if (after.carrier_hz && after.factor != 1.0)
      r.conditions.emplace_back(
          "Measured at",
          fmt::format("{}, \u00d7 {}", frequency_text(*after.carrier_hz),
                      number_text(after.factor, after.factor == std::round(after.factor) ? 0 : 3)));
    r.conditions.emplace_back(
        "Counted", frequency_text(counted_.first) + " to " + frequency_text(counted_.second));
    if (now_ && now_->with_spurs_rms_rad > now_->rms_rad * 1.005)
      r.conditions.emplace_back("RMS with its lines",
                                number_text(now_->with_spurs_rms_rad * kPerRad, 2) + "\u00b0");
    if (now_ && states_.scaled_hz)
      r.conditions.emplace_back("Jitter",
                                engineering_text(now_->jitter_s(*states_.scaled_hz), "s", 2));
    if (states_.floor) r.conditions.emplace_back("The instrument\u2019s own noise", "subtracted");
  }

  /// The bin nearest to an offset.
  const NoiseDifference* difference_at(double hz) const {
    if (!comparison_) return nullptr;
    const NoiseDifference* best = nullptr;
    for (const NoiseDifference& d : comparison_->differences)
      if (best == nullptr ||
          std::abs(std::log(d.offset_hz / hz)) < std::abs(std::log(best->offset_hz / hz)))
        best = &d;
    return best != nullptr && std::abs(std::log10(best->offset_hz / hz)) < 0.1 ? best : nullptr;
  }

  NoiseChange change_at(double hz) const {
    for (const NoiseRange& r : comparison_->ranges)
      if (hz >= r.low_hz * 0.99 && hz <= r.high_hz * 1.01) return r.change;
    return NoiseChange::unknown;
  }

  void add_difference(double hz, ResultTable::Row& row) const {
    const NoiseDifference* d = difference_at(hz);
    // Of two bounds nothing can be said.
    if (d == nullptr || (d->is_before_hidden && d->is_after_hidden)) {
      row.cells.push_back({});
      row.cells.push_back({d != nullptr ? "hidden" : ""});
      return;
    }
    Figure f;
    f.id = "difference";
    f.label = "Difference at " + frequency_text(hz);
    f.unit = "dB";
    f.value = d->delta_db;
    f.bound = d->is_after_hidden ? Bound::upper : d->is_before_hidden ? Bound::lower : Bound::none;
    if (d->has_u) f.contributions = {{"scatter and repeatability", d->u_db, Scope::independent}};
    row.cells.push_back({figure_cell(f, 1, true), std::nullopt, false, f});
    const NoiseChange change = change_at(hz);
    row.cells.push_back(
        {d->is_bound() && change == NoiseChange::unknown ? "hidden" : change_word(change)});
    row.cells.back().is_deciding = change == NoiseChange::better || change == NoiseChange::worse;
  }

  ResultTable decade_table() const {
    ResultTable t;
    t.title = "Phase noise by decade";
    t.tab = "decades";
    const NoiseState* after = states_.after();
    const NoiseState* before = states_.before();
    const bool two = before != nullptr && comparison_.has_value();
    t.columns = {{"offset", "At offset", CellKind::name, 92}};
    if (two) t.columns.push_back({"before", before->name + ", dBc/Hz", CellKind::figure, 112});
    t.columns.push_back(
        {"after", two ? after->name + ", dBc/Hz" : "L(f), dBc/Hz", CellKind::figure, 126});
    if (two) {
      t.columns.push_back({"difference", "Difference, dB", CellKind::figure, 110});
      t.columns.push_back({"changed", "What changed", CellKind::text, 108});
    }
    t.columns.push_back({"slope", "Slope, dB/dec", CellKind::figure, 98, 1200});
    t.columns.push_back({"share", "RMS\u00b2 share", CellKind::text, -1, 1200});
    if (after == nullptr) return t;
    const std::vector<NoiseSlope> slopes = slopes_of(after->curve);
    for (std::size_t i = 0; i < decades_.size(); ++i) {
      const double hz = decades_[i];
      const auto here = curve_at(after->curve.points, hz);
      ResultTable::Row row{i, {}};
      row.cells.push_back({frequency_text(hz)});
      const auto then = two ? curve_at(before->curve.points, hz) : std::nullopt;
      if (two) row.cells.push_back({then ? number_text(then->l_dbc_hz, 1) : std::string()});
      TableCell now;
      if (here) {
        const Figure f = level_figure(*here, plan_);
        now = {figure_cell(f, 1), std::nullopt, false, f};
      }
      row.cells.push_back(now);
      if (two) {
        add_difference(hz, row);
      }
      const auto slope = std::find_if(slopes.begin(), slopes.end(), [&](const NoiseSlope& s) {
        return std::abs(s.low_hz - hz) < 0.01 * hz;
      });
      row.cells.push_back(
          {slope != slopes.end() ? number_text(slope->db_per_decade, 0, true) : std::string()});
      row.cells.push_back({share_below(hz)});
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Slope: in the decade above. RMS\u00b2 share: what the decade below adds to the square of "
        "the counted RMS phase.";
    return t;
  }

  std::string share_below(double hz) const {
    if (!now_) return {};
    const double from = std::max(counted_.first, hz / 10.0);
    const double to = std::min(counted_.second, hz);
    if (to <= from * 1.0001) return "not counted";
    const double part = integrate(states_.after()->curve, from, to).rms_rad / now_->rms_rad;
    return number_text(100.0 * part * part, 0) + " %";
  }

  ResultTable line_table() const {
    ResultTable t;
    t.title = "Lines, dBc";
    t.tab = "lines";
    const NoiseState* after = states_.after();
    const NoiseState* before = states_.before();
    t.columns = {{"offset", "Offset", CellKind::name, 110},
                 {"what", "What it is", CellKind::text, 190}};
    if (before != nullptr)
      t.columns.push_back({"before", before->name + ", dBc", CellKind::figure, 110});
    t.columns.push_back(
        {"after", after != nullptr ? after->name + ", dBc" : "dBc", CellKind::figure, 120});
    if (before != nullptr) t.columns.push_back({"changed", "What changed", CellKind::text, -1});
    t.columns.back().width = -1;
    if (after == nullptr) return t;
    struct Line {
      NoiseSpur spur;
      const NoiseSpur* before = nullptr;
      bool is_lost = false;
    };
    std::vector<Line> lines;
    for (const NoiseSpur& s : after->curve.spurs) lines.push_back({s});
    if (before != nullptr) {
      for (const NoiseSpur& s : before->curve.spurs) {
        Line* same = nullptr;
        for (Line& l : lines)
          if (!l.is_lost && is_same_line(l.spur, s)) same = &l;
        if (same != nullptr)
          same->before = &s;
        else
          lines.push_back({s, &s, true});
      }
    }
    std::sort(lines.begin(), lines.end(),
              [](const Line& a, const Line& b) { return a.spur.offset_hz < b.spur.offset_hz; });
    for (const Line& l : lines) {
      ResultTable::Row row{std::nullopt, {}};
      row.cells.push_back({frequency_text(std::round(l.spur.offset_hz * 10.0) / 10.0)});
      row.cells.push_back({line_words(l.spur, after->curve.spurs)});
      if (before != nullptr)
        row.cells.push_back(
            {l.before != nullptr ? number_text(l.before->rf_level_dbc(), 1) : std::string()});
      row.cells.push_back({l.is_lost ? std::string() : number_text(l.spur.rf_level_dbc(), 1)});
      if (before != nullptr) {
        const double d = l.before != nullptr ? l.spur.level_dbc - l.before->level_dbc : 0.0;
        const double u = l.before != nullptr
                             ? 2.0 * std::hypot(l.spur.u_db, l.before->u_db,
                                                std::numbers::sqrt2 * plan_.repeats_db)
                             : 0.0;
        // What a curve could not have shown is neither gained nor lost.
        const bool is_shown = shows_line(l.is_lost ? after->curve : before->curve, l.spur);
        row.cells.push_back({l.is_lost ? std::string(is_shown ? "lost" : "hidden after")
                             : l.before == nullptr
                                 ? std::string(is_shown ? "gained" : "hidden before")
                             : std::abs(d) <= u ? std::string("no difference")
                                                : number_text(d, 1, true) + " dB"});
      }
      t.rows.push_back(std::move(row));
    }
    t.note =
        "At radio frequency, each sideband. A line on one side only is half phase, half amplitude.";
    return t;
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all = states_.remarks;
    const auto say = [&](const char* code, Severity severity, std::string text, std::string todo) {
      all.push_back({code, severity, std::move(text), std::move(todo)});
    };
    const NoiseState* after = states_.after();
    if (after == nullptr) return all;
    if (evidence_.limit && evidence_.limit->unit != "\u00b0")
      say("limit_unit", Severity::caution,
          "The limit is in " + evidence_.limit->unit + ": it judges no RMS phase.",
          "Choose a limit in degrees");
    if ((plan_.low_hz && *plan_.low_hz < after->curve.low_hz() * 0.999) ||
        (plan_.high_hz && *plan_.high_hz > after->curve.high_hz() * 1.001))
      say("range_cut", Severity::caution,
          fmt::format("The curve has {} to {}: only that is counted.",
                      frequency_text(after->curve.low_hz()),
                      frequency_text(after->curve.high_hz())),
          "Record longer for lower offsets, faster for higher ones");
    if (!states_.scaled_hz)
      say("carrier", Severity::note,
          "The carrier\u2019s radio frequency is not known: jitter is not told.",
          "Type it among the settings, or in the name of the step");
    if (comparison_)
      for (const Remark& r : comparison_->remarks) all.push_back(r);
    tell_mains(say);
    tell_multiplier(say);
    tell_hidden_change(say);
    if (after->is_typed)
      say("typed", Severity::note,
          "Points read off a screen are taken as \u00b1 1.4 dB, and straight between them.", "");
    return all;
  }

  template <class Say>
  void tell_mains(const Say& say) const {
    if (!comparison_ || states_.before() == nullptr) return;
    // What a change did not touch comes in elsewhere.
    const NoiseSpur* kept = nullptr;
    double before_db = 0.0;
    for (const NoiseSpur& s : states_.after()->curve.spurs)
      for (const NoiseSpur& b : states_.before()->curve.spurs)
        if (is_same_line(b, s) && line_words(s, {}).starts_with("mains") &&
            std::abs(b.level_dbc - s.level_dbc) < 1.0 &&
            (kept == nullptr || s.level_dbc > kept->level_dbc)) {
          kept = &s;
          before_db = b.level_dbc;
        }
    if (kept == nullptr) return;
    say("mains_kept", Severity::note,
        fmt::format("{} stayed at {} dBc, before {}: it enters beside what was changed.",
                    frequency_text(std::round(kept->offset_hz)), number_text(kept->level_dbc, 1),
                    number_text(before_db, 1)),
        "Look at the reference\u2019s supply, at magnetic fields and at ground loops");
  }

  /// Two states at different carriers: what was calculated from the lower one, and measured.
  template <class Say>
  void tell_multiplier(const Say& say) const {
    const NoiseState* before = states_.before();
    const NoiseState* after = states_.after();
    if (before == nullptr || !comparison_ || before->factor <= 1.5 || after->factor != 1.0) return;
    const NoiseRange* below = nullptr;
    const NoiseRange* above = nullptr;
    for (const NoiseRange& r : comparison_->ranges) {
      if (r.change == NoiseChange::better) below = &r;
      if (r.change == NoiseChange::worse) above = &r;
    }
    if (below != nullptr)
      say("instrument_limited", Severity::caution,
          fmt::format(
              "From {} to {} it is up to {} dB below what \u00d7 {} makes of {}: there that "
              "one shows the instrument, not the device.",
              frequency_text(below->low_hz), frequency_text(below->high_hz),
              number_text(-below->delta_db_min, 1), number_text(before->factor, 0), before->name),
          "Measure after the multiplication, where the device stands higher over the instrument");
    if (above != nullptr)
      say("multiplier_adds", Severity::note,
          fmt::format("The multiplier adds up to {} dB from {} to {}.",
                      number_text(above->delta_db_max, 1), frequency_text(above->low_hz),
                      frequency_text(above->high_hz)),
          "");
  }

  /// The same change at two carriers: what shows after a multiplication and not before it was
  /// hidden by the instrument there.
  template <class Say>
  void tell_hidden_change(const Say& say) const {
    const NoiseState* after = states_.after();
    const NoiseState* before = states_.before();
    if (before == nullptr || !comparison_ || !is_same_carrier(*before, *after)) return;
    const auto at_lower = [&](const NoiseState& of) -> const NoiseState* {
      for (const NoiseState& s : states_.all)
        if (s.carrier_hz && of.carrier_hz && *s.carrier_hz < 0.7 * *of.carrier_hz &&
            lower_case(without_frequency(s.name)) == lower_case(without_frequency(of.name)))
          return &s;
      return nullptr;
    };
    const NoiseState* low_before = at_lower(*before);
    const NoiseState* low_after = at_lower(*after);
    if (low_before == nullptr || low_after == nullptr || !is_same_carrier(*low_before, *low_after))
      return;
    NoiseComparison low;
    try {
      low = compare_noise(low_before->curve, low_after->curve, plan_.repeats_db);
    } catch (const InputError&) {
      return;  // they share no offset
    }
    for (const NoiseRange& r : comparison_->ranges) {
      if (r.change != NoiseChange::better && r.change != NoiseChange::worse) continue;
      for (const NoiseRange& same : low.ranges) {
        const double from = std::max(r.low_hz, same.low_hz);
        const double to = std::min(r.high_hz, same.high_hz);
        if (same.change != NoiseChange::none || to < from * kWorthRatio) continue;
        say("instrument_limited", Severity::caution,
            fmt::format(
                "From {} to {} the change is up to {} dB at {} and none at {}: there the "
                "lower one shows the instrument, not the device.",
                frequency_text(from), frequency_text(to),
                number_text(std::max(std::abs(r.delta_db_min), std::abs(r.delta_db_max)), 1),
                frequency_text(*after->carrier_hz), frequency_text(*low_after->carrier_hz)),
            "Measure after the multiplication, where the device stands higher over the instrument");
        return;
      }
    }
  }

  static constexpr double kWorthRatio = 1.5;  ///< of a range's ends: a lone bin says nothing
  const Evidence& evidence_;
  NoisePlan plan_;
  NoiseStates states_;
  std::pair<double, double> counted_{1.0, 10.0};
  std::optional<NoiseIntegral> now_;
  std::optional<NoiseIntegral> then_;
  std::optional<NoiseComparison> comparison_;
  std::vector<double> decades_;
};

}  // namespace

Result evaluate_noise(const Evidence& evidence) {
  return NoiseResult(evidence).result();
}

}  // namespace heron

#include "core/method/amplifier/amplifier.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

#include "core/method/amplifier/amplifier_remarks.h"
#include "core/method/measure/dc_power.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

double watts(double dbm) {
  return to_watt(Dbm{dbm}).value;
}

Figure plain(const char* id, const char* label, const char* unit, double value) {
  Figure f;
  f.id = id;
  f.label = label;
  f.unit = unit;
  f.value = value;
  return f;
}

void add_dc(DrivenRow& row) {
  row.efficiency = dc_efficiency(row.output, row.volts, row.amperes);
  if (!row.efficiency) return;
  const double out = watts(row.output->value);
  const double in = watts(row.input->value);
  const double dc = row.volts->value * row.amperes->value;
  const double u_out = out * row.output->u() / kDbPerRelativePower;
  const double u_in = in * row.input->u() / kDbPerRelativePower;
  const auto figure = [&](const char* id, const char* label, const char* unit, double value,
                          double factor, double by_dc) {
    Figure f = plain(id, label, unit, value);
    const auto add = [&](const char* source, double u) {
      if (u != 0.0) f.contributions.push_back({source, std::abs(u), Scope::common});
    };
    add("output", factor * u_out);
    add("drive", factor * u_in);
    add("supply volts", by_dc * dc * relative_u(*row.volts));
    add("supply amperes", by_dc * dc * relative_u(*row.amperes));
    return f;
  };
  const double percent = 100.0 / dc;
  row.added_efficiency = figure("added_efficiency", "Power-added efficiency", "%",
                                (out - in) * percent, percent, (out - in) * percent / dc);
  row.heat = figure("heat", "Heat", "W", dc + in - out, 1.0, 1.0);
}

/// Why nothing can be worked out of what was read; empty if it can.
std::string refusal_of(const DrivenStep& s, const std::optional<Figure>& input,
                       const std::optional<double>& frequency_hz) {
  if (!s.refusal.empty()) return s.refusal;
  if (s.volts && s.volts->value <= 0.0) return "its supply volts are not more than 0";
  if (s.amperes && s.amperes->value < 0.0) return "its supply amperes are below 0";
  if (!s.output) return "";
  if (!input) return "its output was read, its drive was not";
  if (s.frequency_hz && frequency_hz &&
      std::abs(*s.frequency_hz - *frequency_hz) > 1e-3 * *frequency_hz)
    return fmt::format("it is at {}, the series at {}", frequency_text(*s.frequency_hz),
                       frequency_text(*frequency_hz));
  if (s.output->value < input->value)
    return fmt::format("its output, {} dBm, is below its drive, {} dBm",
                       number_text(s.output->value, 2, true), number_text(input->value, 2, true));
  return "";
}

DrivenRow row_of(const DrivenStep& s, const AmplifierPlan& plan,
                 const std::optional<double>& frequency_hz) {
  DrivenRow row;
  row.label = s.label;
  row.input = drive_between(s.input_before, s.input_after);
  row.input_dbm = row.input ? std::optional(row.input->value) : s.planned_dbm;
  if (s.input_before && s.input_after) row.creep_db = s.input_after->value - s.input_before->value;
  row.output = s.output;
  row.volts = s.volts;
  row.amperes = s.amperes;
  row.second_dbc = s.second_dbc;
  row.third_dbc = s.third_dbc;
  row.key_down_s = s.key_down_s;
  row.rest_s = s.rest_s;
  row.temperature_c = s.temperature_c;
  row.refusal = refusal_of(s, row.input, frequency_hz);
  if (!row.refusal.empty()) return row;
  if (row.volts) row.is_sagged = plan.is_sagged(row.volts->value);
  if (row.output && row.input) {
    row.gain = gain_figure(*row.output, *row.input);
    add_dc(row);
  }
  return row;
}

/// That most of the steps are at.
std::optional<double> usual_frequency(const std::vector<DrivenStep>& steps) {
  std::map<double, int> counts;
  for (const DrivenStep& s : steps)
    if (s.frequency_hz) ++counts[*s.frequency_hz];
  const auto most =
      std::max_element(counts.begin(), counts.end(),
                       [](const auto& a, const auto& b) { return a.second < b.second; });
  return most == counts.end() ? std::nullopt : std::optional(most->first);
}

/// Common parts of a figure as they are, the others as given.
Figure with_common_of(const Figure& from, Figure to, std::vector<Contribution> others) {
  for (const Contribution& c : from.contributions)
    if (c.scope == Scope::common) to.contributions.push_back(c);
  for (Contribution& c : others)
    if (c.u > 0.0) to.contributions.push_back(std::move(c));
  return to;
}

const DrivenRow& nearest_row(const Amplification& a, double input_dbm) {
  const std::size_t nearest =
      *std::min_element(a.rising.begin(), a.rising.end(), [&](std::size_t x, std::size_t y) {
        return std::abs(a.rows[x].input->value - input_dbm) <
               std::abs(a.rows[y].input->value - input_dbm);
      });
  return a.rows[nearest];
}

Figure level_figure(const char* id, const std::string& label, double dbm, const Figure& like) {
  Figure f = plain(id, "", "dBm", dbm);
  f.label = label;
  f.convention = like.convention;
  return f;
}

/// Output at so much compression; the highest output as a lower bound where it was not reached.
std::optional<Figure> output_down(const Amplification& a, double down_db, const char* id) {
  if (a.rising.size() < 2) return std::nullopt;
  const std::string label =
      number_text(down_db, down_db == std::floor(down_db) ? 0 : 1) + " dB compression point";
  const auto point = a.curve.at(down_db);
  if (point) {
    const Figure& like = *nearest_row(a, point->input_dbm).output;
    return with_common_of(like, level_figure(id, label, point->output_dbm, like),
                          {{"scatter of the readings", point->u_output_db, Scope::independent},
                           {"way between two steps", point->u_between_db, Scope::independent}});
  }
  const auto highest =
      std::max_element(a.rising.begin(), a.rising.end(), [&](std::size_t x, std::size_t y) {
        return a.rows[x].output->value < a.rows[y].output->value;
      });
  const Figure& like = *a.rows[*highest].output;
  Figure f = level_figure(id, label, like.value, like);
  f.contributions = like.contributions;
  f.bound = Bound::lower;
  return f;
}

/// Supply where the amplifier is driven so, between the steps beside it.
std::optional<double> volts_at(const Amplification& a, double input_dbm) {
  const DrivenRow* below = nullptr;
  for (const std::size_t i : a.rising) {
    const DrivenRow& r = a.rows[i];
    if (!r.volts) continue;
    if (r.input->value >= input_dbm) {
      if (below == nullptr) return r.volts->value;
      const double width = r.input->value - below->input->value;
      const double share = width > 0.0 ? (input_dbm - below->input->value) / width : 0.0;
      return below->volts->value + share * (r.volts->value - below->volts->value);
    }
    below = &r;
  }
  return below != nullptr ? std::optional(below->volts->value) : std::nullopt;
}

/// A figure taken at sagged supply counts only as "at least".
Judgement judge_at(Figure figure, Limit limit, bool is_at_sagged_supply) {
  if (is_at_sagged_supply) figure.bound = Bound::lower;
  limit.convention = figure.convention;
  limit.span = kGainMarginSpanDb;
  return judge(figure, limit);
}

void find_gain(Amplification& a, const AmplifierPlan& plan) {
  std::vector<DrivenLevel> levels;
  for (const std::size_t i : a.rising) {
    const DrivenRow& r = a.rows[i];
    levels.push_back({r.input->value, r.output->value, r.gain->independent_u()});
  }
  a.curve = CompressionCurve(levels);
  const DrivenRow& lowest = a.rows[a.rising.front()];
  Figure gain = plain("small_signal_gain", "Small-signal gain", "dB", a.curve.gain_db());
  a.gain = with_common_of(*lowest.gain, gain,
                          {{"scatter of the readings", a.curve.u_gain_db(), Scope::independent}});
  for (const std::size_t i : a.rising) {
    DrivenRow& r = a.rows[i];
    r.compression = plain("compression", "Compression", "dB", a.curve.gain_db() - r.gain->value);
    r.compression->contributions = {{"this step", r.gain->independent_u(), Scope::independent},
                                    {"small-signal gain", a.curve.u_gain_db(), Scope::independent}};
  }
  a.one_db_out = output_down(a, 1.0, "one_db_out");
  a.linear_out = output_down(a, plan.linear_to_db, "linear_out");
  if (const auto point = a.curve.at(1.0)) {
    const DrivenRow& near = nearest_row(a, point->input_dbm);
    a.one_db_in = with_common_of(
        *near.input,
        level_figure("one_db_in", "Drive at 1 dB compression", point->input_dbm, *near.input),
        {{"scatter of the readings", point->u_input_db, Scope::independent}});
    a.one_db_v = volts_at(a, point->input_dbm);
  } else {
    a.one_db_v = volts_at(a, a.rows[a.rising.back()].input->value);
  }
}

void find_rated(Amplification& a, const AmplifierPlan& plan) {
  if (!plan.rated_input_dbm) return;
  const auto out = a.curve.output_at(*plan.rated_input_dbm);
  if (!out) return;
  const DrivenRow& near = nearest_row(a, *plan.rated_input_dbm);
  const double slope =
      (*out - a.curve.output_at(*plan.rated_input_dbm - 0.1).value_or(*out - 0.1)) / 0.1;
  Figure f = level_figure("at_rated", "Output at rated drive", *out, *near.output);
  // What the drive is off by moves the output along the curve; what both are off by does so too.
  for (Contribution c : near.output->contributions) {
    if (c.scope != Scope::common) continue;
    for (const Contribution& in : near.input->contributions)
      if (in.scope == Scope::common && in.source == c.source) c.u = std::abs(c.u - slope * in.u);
    if (c.u > 0.0) f.contributions.push_back(c);
  }
  for (const Contribution& in : near.input->contributions) {
    const bool is_in_both = std::any_of(
        near.output->contributions.begin(), near.output->contributions.end(),
        [&](const Contribution& c) { return c.scope == Scope::common && c.source == in.source; });
    if (in.scope == Scope::common && !is_in_both && slope > 0.0)
      f.contributions.push_back({in.source, slope * in.u, Scope::common});
  }
  f.contributions.push_back({"reading", near.gain->independent_u(), Scope::independent});
  f.contributions.push_back({"small-signal gain", a.curve.u_gain_db(), Scope::independent});
  a.at_rated = std::move(f);
  a.rated_v = volts_at(a, *plan.rated_input_dbm);
}

void find_current(Amplification& a, const AmplifierPlan& plan) {
  std::vector<DrawnCurrent> drawn;
  for (const DrivenRow& r : a.rows) {
    if (!r.amperes || !r.refusal.empty()) continue;
    if (r.gain) {
      drawn.push_back({watts(r.output->value), r.amperes->value, r.amperes->u()});
    } else if (!r.output && !r.input_dbm) {
      // Neither drive nor output: it stands idle.
      a.idle = r.amperes;
      a.idle->label = "Quiescent current";
      drawn.push_back({0.0, r.amperes->value, r.amperes->u()});
    }
  }
  a.current = current_law(drawn);
  if (a.current && plan.rated_output_dbm) a.needed_a = a.current->at(watts(*plan.rated_output_dbm));
}

void judge_all(Amplification& a, const AmplifierPlan& plan) {
  if (a.one_db_out && plan.compression_limit)
    a.one_db_judgement =
        judge_at(*a.one_db_out, *plan.compression_limit, plan.is_sagged(a.one_db_v));
  const auto at_least = [](double value, const char* unit) {
    Limit limit;
    limit.sense = Sense::at_least;
    limit.value = value;
    limit.unit = unit;
    return limit;
  };
  if (a.gain && plan.specified_gain_db) {
    const DrivenRow& lowest = a.rows[a.rising.front()];
    a.gain_judgement = judge_at(*a.gain, at_least(*plan.specified_gain_db, "dB"), lowest.is_sagged);
  }
  if (a.at_rated && plan.rated_output_dbm)
    a.rated_judgement =
        judge_at(*a.at_rated, at_least(*plan.rated_output_dbm, "dBm"), plan.is_sagged(a.rated_v));
  const auto wanted = plan.wanted_gain_db();
  for (DrivenRow& r : a.rows) {
    if (r.input_dbm && wanted) {
      r.expected_dbm = *r.input_dbm + *wanted;
      if (plan.rated_output_dbm) r.expected_dbm = std::min(*r.expected_dbm, *plan.rated_output_dbm);
    }
    if (!r.gain || !wanted) continue;
    const bool is_beyond =
        plan.rated_output_dbm && r.input->value + *wanted > *plan.rated_output_dbm;
    r.judgement = is_beyond
                      ? judge_at(*r.output, at_least(*plan.rated_output_dbm, "dBm"), r.is_sagged)
                      : judge_at(*r.gain, at_least(*wanted, "dB"), r.is_sagged);
  }
}

}  // namespace

std::optional<double> AmplifierPlan::wanted_gain_db() const {
  if (specified_gain_db) return specified_gain_db;
  if (rated_input_dbm && rated_output_dbm) return *rated_output_dbm - *rated_input_dbm;
  return std::nullopt;
}

bool AmplifierPlan::is_sagged(const std::optional<double>& volts) const {
  return volts && nominal_v && *volts < (1.0 - kSagShare) * *nominal_v;
}

std::optional<Figure> drive_between(const std::optional<Figure>& before,
                                    const std::optional<Figure>& after) {
  if (!before || !after) return before ? before : after;
  Figure f = *before;
  const double creep = after->value - f.value;
  f.value += creep / 2.0;
  if (creep != 0.0)
    f.contributions.push_back(
        {"drive creep", std::abs(creep) / std::sqrt(12.0), Scope::independent});
  return f;
}

Figure gain_figure(const Figure& output, const Figure& input) {
  Figure gain = plain("gain", "Gain", "dB", output.value - input.value);
  const auto is_in = [](const Contribution& c, const Figure& other) {
    return c.scope == Scope::common &&
           std::any_of(other.contributions.begin(), other.contributions.end(),
                       [&](const Contribution& o) {
                         return o.scope == Scope::common && o.source == c.source && o.u == c.u;
                       });
  };
  for (const Contribution& c : output.contributions)
    if (!is_in(c, input)) gain.contributions.push_back(c);
  for (const Contribution& c : input.contributions)
    if (!is_in(c, output)) gain.contributions.push_back(c);
  return gain;
}

Amplification assess_amplifier(const std::vector<DrivenStep>& steps, const AmplifierPlan& plan) {
  Amplification a;
  a.frequency_hz = usual_frequency(steps);
  for (const DrivenStep& s : steps) a.rows.push_back(row_of(s, plan, a.frequency_hz));
  for (std::size_t i = 0; i < a.rows.size(); ++i)
    if (a.rows[i].gain) a.rising.push_back(i);
  const auto is_lower = [&](std::size_t x, std::size_t y) {
    return a.rows[x].input->value < a.rows[y].input->value;
  };
  const bool is_in_order = std::is_sorted(a.rising.begin(), a.rising.end(), is_lower) ||
                           std::is_sorted(a.rising.rbegin(), a.rising.rend(), is_lower);
  std::stable_sort(a.rising.begin(), a.rising.end(), is_lower);
  if (!a.rising.empty()) {
    find_gain(a, plan);
    find_rated(a, plan);
    for (const std::size_t i : a.rising)
      if (a.rows[i].efficiency &&
          (!a.most_efficient ||
           a.rows[i].efficiency->value > a.rows[*a.most_efficient].efficiency->value))
        a.most_efficient = i;
  }
  find_current(a, plan);
  judge_all(a, plan);
  a.remarks = amplifier_remarks(steps, a, plan, is_in_order);
  return a;
}

}  // namespace heron

#include "core/method/frequency/drift.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr std::size_t kMostMedians = 240;
constexpr std::size_t kLeastInMedian = 5;
constexpr std::size_t kSingly = 60;  ///< so few readings are joined as they are
constexpr double kChangeK = 1.0;     ///< of temperature, beside an event
constexpr double kAroundEventS = 600.0;
constexpr double kWarmsUp = 0.15;  ///< of its span, that a temperature may be beside its curve

/// Medians of blocks of those that count.
std::vector<Series::Sample> medians_of(const Drift& d) {
  const auto& samples = d.record.samples;
  const std::size_t block =
      samples.size() <= kSingly
          ? 1
          : std::max(kLeastInMedian, (samples.size() + kMostMedians - 1) / kMostMedians);
  std::vector<Series::Sample> all;
  for (std::size_t from = 0; from < samples.size(); from += block) {
    std::vector<double> values;
    double seconds = 0.0;
    for (std::size_t i = from; i < std::min(from + block, samples.size()); ++i) {
      if (d.fit.is_outlier[i]) continue;
      values.push_back(d.to_ppm(samples[i].error_hz));
      seconds += samples[i].seconds;
    }
    if (values.empty()) continue;
    seconds /= static_cast<double>(values.size());
    all.push_back({seconds, median_of(values)});
  }
  return all;
}

class Assessment {
 public:
  Assessment(const Evidence& evidence, const DriftPlan& plan) : plan_(plan) {
    d_.record = drift_record(evidence, plan.reference);
    d_.relative_to_hz = plan.reference.nominal_hz.value_or(0.0);
    d_.fit.is_outlier.assign(d_.record.samples.size(), false);
  }

  Drift assessed() {
    d_.remarks = d_.record.remarks;
    if (!plan_.reference.nominal_hz) {
      say("nominal", d_.record.samples.empty() ? Severity::note : Severity::caution,
          "What the frequency should be is not known: nothing is worked out.",
          "Type the nominal frequency among the settings");
      d_.record.samples.clear();
      d_.fit.is_outlier.clear();
      return std::move(d_);
    }
    if (d_.record.samples.empty()) return std::move(d_);
    d_.fit = fit_drift(d_.record.samples);
    d_.remarks.insert(d_.remarks.end(), d_.fit.remarks.begin(), d_.fit.remarks.end());
    d_.medians = medians_of(d_);
    d_.is_known = plan_.source_ppm.has_value();
    if (d_.fit.final_error) {
      add_error();
      add_settling();
      add_temperature();
    }
    add_bands();
    say_what_was_seen();
    return std::move(d_);
  }

 private:
  void say(const char* code, Severity severity, std::string text, std::string action = {}) {
    d_.remarks.push_back({code, severity, std::move(text), std::move(action)});
  }

  void add_error() {
    Figure f = *d_.fit.final_error;
    f.id = "frequency_error";
    f.label = "Error once settled";
    f.unit = "ppm";
    f.value = d_.to_ppm(f.value);
    for (Contribution& c : f.contributions) c.u = d_.to_ppm(c.u);
    if (plan_.source_ppm && *plan_.source_ppm > 0.0)
      f.contributions.push_back(
          {"accuracy of the source", u_rectangular(*plan_.source_ppm), Scope::common});
    if (d_.is_known && plan_.limit) d_.judgement = judge(f, *plan_.limit);
    d_.error = std::move(f);
  }

  void add_settling() {
    d_.settle_middle_ppm = plan_.is_round_nominal ? 0.0 : d_.to_ppm(d_.fit.final_error->value);
    d_.settle = d_.fit.settled_after(d_.record.samples, from_ppm(plan_.settle_ppm),
                                     from_ppm(d_.settle_middle_ppm));
    const bool is_steep = std::abs(d_.to_ppm(d_.fit.rate_per_h->value)) > plan_.settle_ppm;
    if (!d_.settle || (is_steep && !plan_.is_round_nominal)) {
      d_.settle.reset();
      say("not_settled", Severity::caution,
          fmt::format(
              "After {} it still moves by {} ppm/h: it has not settled within \u00b1 {} ppm.",
              duration_text(d_.record.span_s()),
              number_text(d_.to_ppm(d_.fit.rate_per_h->value), 2, true),
              number_text(plan_.settle_ppm, 2)),
          "Log longer");
    }
    if (d_.settle && plan_.settle_limit_s) {
      Limit limit;
      limit.name = "own limit";
      limit.sense = Sense::at_most;
      limit.value = *plan_.settle_limit_s / 60.0;
      limit.unit = "min";
      limit.span = limit.value;
      d_.settle_judgement = judge(*d_.settle, limit);
    }
  }

  void add_temperature() {
    const double span = d_.fit.temperature_span_k;
    if (d_.record.temperatures.empty()) return;
    if (span < plan_.least_span_k) {
      say("not_exercised", Severity::note,
          fmt::format("Temperature was not exercised: it stayed within {} K. This record could not "
                      "have shown what it does.",
                      number_text(span, 1)));
      return;
    }
    if (!d_.fit.per_kelvin_hz) return;
    Figure f = *d_.fit.per_kelvin_hz;
    f.id = "per_kelvin";
    f.label = "Per kelvin";
    f.unit = "ppm/K";
    f.value = d_.to_ppm(f.value);
    for (Contribution& c : f.contributions) c.u = d_.to_ppm(c.u);
    if (plan_.most_per_kelvin_ppm) {
      Limit limit;
      limit.name = "own limit";
      // A bound is of its size.
      limit.sense = f.bound != Bound::none ? Sense::at_most : Sense::within;
      limit.value = *plan_.most_per_kelvin_ppm;
      limit.unit = "ppm/K";
      limit.span = limit.value;
      d_.kelvin_judgement = judge(f, limit);
    }
    d_.per_kelvin = f;
    const bool is_bound = f.bound != Bound::none;
    const std::string said =
        number_text(f.value, std::max(2, decimals_for(f.value, Rounding::two_digits)));
    // Where both are in the curve, the ± says how well they are told apart.
    const bool are_both = d_.fit.warm_up && !is_bound;
    if (!are_both && does_warm_up())
      say("together", Severity::caution,
          fmt::format("Temperature rose by {} K as a warm-up does: whether it or the warm-up moves "
                      "the frequency cannot be told, {}.",
                      number_text(span, 1),
                      is_bound ? "up to " + said + " ppm/K"
                               : figure_cell(f, 3, true) + " ppm/K if it is all of it"),
          "Change the temperature once more when it has settled");
    else if (is_bound)
      say("no_tempco", Severity::note,
          fmt::format("Over {} K the frequency follows the temperature by {} ppm/K at most.",
                      number_text(span, 1), said));
    else
      say("tempco", Severity::note,
          fmt::format("Error follows the temperature: {} ppm/K.", figure_cell(f, 3, true)));
  }

  /// Whether the temperature itself is little but a smooth curve of time.
  bool does_warm_up() const {
    std::vector<DriftSample> as_record;
    for (const DriftSample& s : d_.record.samples)
      if (s.temperature_c) as_record.push_back({s.seconds, *s.temperature_c});
    return fit_drift(as_record).scatter_hz < kWarmsUp * d_.fit.temperature_span_k;
  }

  void add_bands() {
    const std::vector<double> at =
        plan_.bands_hz.empty() ? std::vector{d_.relative_to_hz} : plan_.bands_hz;
    const double first_ppm = d_.to_ppm(d_.fit.curve_hz.empty() ? d_.record.samples.front().error_hz
                                                               : d_.fit.curve_hz.front());
    double least = 1e300;
    double most = -1e300;
    for (const Series::Sample& m : d_.medians) {
      if (d_.settle && m.seconds < 60.0 * d_.settle->value) continue;
      least = std::min(least, m.value);
      most = std::max(most, m.value);
    }
    for (const double hz : at) {
      DriftBand b;
      b.frequency_hz = hz;
      b.start_hz = first_ppm * hz / kPerMillion;
      b.wander_hz = most > least ? (most - least) * hz / kPerMillion : 0.0;
      if (d_.error) {
        Figure f = error_on_band(*d_.error, hz);
        f.id = "settled";
        f.label = "Once settled";
        if (d_.is_known) b.judgement = judged_on_band(f, hz);
        b.settled = std::move(f);
      }
      d_.bands.push_back(std::move(b));
    }
  }

  std::optional<Judgement> judged_on_band(const Figure& f, double hz) const {
    if (!plan_.need_hz && !plan_.limit) return std::nullopt;
    Limit limit{
        "need", Sense::within, plan_.need_hz.value_or(0.0), "Hz", "", plan_.need_hz.value_or(0.0)};
    if (!plan_.need_hz) limit = limit_on_band(*plan_.limit, hz);
    return judge(f, limit);
  }

  void say_what_was_seen() {
    if (d_.fit.warm_up)
      say("warm_up", Severity::note,
          fmt::format("Warm-up: {} \u00b1 {} ppm with a time constant of {} min.",
                      number_text(d_.to_ppm(d_.fit.warm_up->amplitude_hz), 2, true),
                      number_text(2.0 * d_.to_ppm(d_.fit.warm_up->u_amplitude_hz), 2),
                      number_text(d_.fit.warm_up->tau_s / 60.0, 1)));
    const std::size_t out = d_.fit.outliers();
    if (out > 0)
      say("outliers", Severity::note,
          fmt::format("{} {} far from the curve and {} no weight.", out,
                      out == 1 ? "reading lies" : "readings lie", out == 1 ? "carries" : "carry"));
    if (d_.error && !d_.is_known)
      say("source_unknown", Severity::caution,
          "How far off the source may be is not known: this tells changes, not accuracy.",
          "Type the \u00b1 of the source among the settings");
    for (const DriftRecord::Moment& e : d_.record.events) {
      const double change = temperature_change_at(e.seconds);
      if (std::abs(change) >= kChangeK)
        say("two_changes", Severity::caution,
            fmt::format(
                "\u201c{}\u201d at {}: the temperature changed by {} K within ten minutes of "
                "it. What moved the frequency cannot be told.",
                e.text, duration_text(std::max(0.0, e.seconds)), number_text(change, 1, true)),
            "Change one thing at a time");
    }
    if (!d_.error || d_.bands.empty()) return;
    const auto worst = std::max_element(
        d_.bands.begin(), d_.bands.end(),
        [](const auto& a, const auto& b) { return a.frequency_hz < b.frequency_hz; });
    const bool is_sure = std::abs(d_.error->value) > d_.error->expanded();
    const bool is_bad = worst->judgement && worst->judgement->verdict != Verdict::pass;
    if (d_.is_known && is_sure && is_bad)
      say("trim", Severity::note,
          fmt::format(
              "{} it by {} ppm: on {} it is off by {} Hz.",
              d_.error->value > 0.0 ? "Trim the reference down" : "Trim the reference up",
              figure_cell({"", "", std::abs(d_.error->value), "", "", d_.error->contributions}, 2),
              frequency_text(worst->frequency_hz), number_text(worst->settled->value, 0, true)),
          "Adjust it when it has settled");
  }

  double temperature_change_at(double seconds) const {
    std::optional<double> least;
    std::optional<double> most;
    double first = 0.0;
    double last = 0.0;
    for (const Series::Sample& t : d_.record.temperatures) {
      if (std::abs(t.seconds - seconds) > kAroundEventS) continue;
      if (!least) first = t.value;
      last = t.value;
      least = std::min(least.value_or(t.value), t.value);
      most = std::max(most.value_or(t.value), t.value);
    }
    if (!least) return 0.0;
    return std::abs(last - first) > 0.5 * (*most - *least) ? last - first : *most - *least;
  }

  double from_ppm(double ppm) const { return ppm * d_.relative_to_hz / kPerMillion; }

  DriftPlan plan_;
  Drift d_;
};

}  // namespace

Drift assess_drift(const Evidence& evidence) {
  return Assessment(evidence, drift_plan(evidence)).assessed();
}

}  // namespace heron

#include "core/method/frequency/accuracy.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/two_peaks.h"

namespace heron {
namespace {

bool is_by_counter(const AccuracyPlan& plan) {
  return plan.way == AccuracyWay::counter;
}

std::string refusal_of(const AccuracyReading& r, const AccuracyPlan& plan) {
  if (!r.expected_hz)
    return is_by_counter(plan) ? "its nominal frequency is not known"
                               : "the frequency of its carrier is not known";
  if (!is_by_counter(plan) && !r.dial_hz) return "where the dial stood is not known";
  return "";
}

/// ppm of one reading.
Figure error_of(const AccuracyReading& r, const AccuracyPlan& plan) {
  if (is_by_counter(plan)) return counted_error(*r.read_hz, *r.expected_hz, plan.counter);
  BeatNote beat;
  beat.carrier_hz = *r.expected_hz;
  beat.dial_hz = *r.dial_hz;
  beat.is_upper = r.is_upper;
  if (plan.carrier_ppm) beat.u_carrier_ppm = *plan.carrier_ppm / std::sqrt(3.0);
  if (plan.way == AccuracyWay::zero_beat) {
    // Any beat slower than that sounds like none.
    beat.u_tone_hz = plan.least_beat_hz / std::sqrt(3.0);
    beat.dial_step_hz = plan.dial_step_hz;
  } else {
    beat.tone_hz = *r.read_hz;
    beat.u_tone_hz = r.u_tone_hz.value_or(plan.tone_u_hz);
  }
  Figure f = beat_error(beat);
  if (plan.path_ppm > 0.0)
    f.contributions.push_back({"path of the wave", plan.path_ppm, Scope::independent});
  return f;
}

/// Weighted by what each draws anew, whose u grows with the scatter where that is larger (Birge
/// 1932); what is common stays as it is in the best of them.
Figure mean_of(const std::vector<const Figure*>& all) {
  double weights = 0.0;
  double sum = 0.0;
  const Figure* best = all.front();
  for (const Figure* f : all) {
    const double w = 1.0 / std::pow(std::max(f->independent_u(), 1e-6), 2.0);
    weights += w;
    sum += w * f->value;
    if (f->u() < best->u()) best = f;
  }
  Figure mean = *all.front();
  mean.value = sum / weights;
  double chi2 = 0.0;
  for (const Figure* f : all)
    chi2 += std::pow((f->value - mean.value) / std::max(f->independent_u(), 1e-6), 2.0);
  const double ratio =
      all.size() > 1 ? std::sqrt(std::max(1.0, chi2 / static_cast<double>(all.size() - 1))) : 1.0;
  mean.contributions.clear();
  for (const Contribution& c : best->contributions)
    if (c.scope == Scope::common) mean.contributions.push_back(c);
  mean.contributions.push_back({all.size() == 1 ? "the reading" : "scatter of the readings",
                                ratio / std::sqrt(weights), Scope::independent});
  return mean;
}

/// Each beside what the others predict: a test point beside the keyed bands, one probe beside
/// another.
void compare_with_others(Accuracy& a) {
  for (AccuracyRow& row : a.rows) {
    std::vector<const Figure*> others;
    for (const AccuracyRow& other : a.rows)
      if (&other != &row && other.error) others.push_back(&*other.error);
    if (!row.error || others.empty()) continue;
    const Figure mean = mean_of(others);
    Figure f = *row.error;
    f.id = "off";
    f.label = "Off the others";
    f.value -= mean.value;
    // What they share cancels.
    f.contributions = {{"the reading", row.error->independent_u(), Scope::independent},
                       {"the other readings", mean.independent_u(), Scope::independent}};
    row.off = std::move(f);
  }
}

std::string ppm(double value) {
  return number_text(value, 2, true) + " ppm";
}

/// The two that are furthest apart for their U, by more than either may be off; empty where all
/// agree.
std::string disagreement(const Accuracy& a) {
  double least = 1e300;
  for (const AccuracyRow& r : a.rows)
    if (r.error) least = std::min(least, r.error->expanded());
  double worst = 1.0;
  std::string text;
  for (std::size_t i = 0; i < a.rows.size(); ++i) {
    for (std::size_t k = i + 1; k < a.rows.size(); ++k) {
      if (!a.rows[i].error || !a.rows[k].error) continue;
      const double d = a.rows[k].error->value - a.rows[i].error->value;
      const double u =
          2.0 * std::hypot(a.rows[i].error->independent_u(), a.rows[k].error->independent_u());
      if (u <= 0.0 || std::abs(d) < least || std::abs(d) / u <= worst) continue;
      worst = std::abs(d) / u;
      text = fmt::format("{} and {} differ by {} \u00b1 {} ppm.", a.rows[i].label, a.rows[k].label,
                         number_text(std::abs(d), 2), number_text(u, 2));
    }
  }
  return text;
}

void add_remarks(Accuracy& a, const AccuracyPlan& plan, const std::string& differ) {
  const auto add = [&](const char* code, Severity severity, std::string text, const char* advice) {
    a.remarks.push_back({code, severity, std::move(text), advice});
  };
  for (const AccuracyRow& r : a.rows)
    if (!r.refusal.empty())
      add("row", Severity::caution, r.label + ": " + r.refusal + "; it is left out.",
          "Correct the row");
  if (!a.error) return;
  if (!differ.empty())
    add("differ", Severity::caution, differ,
        is_by_counter(plan) ? "Compare probe, gate and the place that was counted"
                            : "Read them again at another time of day: a path may have moved");
  if (!a.is_known)
    add("source_unknown", Severity::caution,
        is_by_counter(plan) ? "How far off the counter\u2019s timebase may be is not known: this "
                              "tells changes, not "
                              "accuracy."
                            : "How far off the outside source may be is not known: this tells "
                              "changes, not accuracy.",
        "Say it under More, or compare with a source that is known");
  if (plan.is_shared)
    add("shared", Severity::caution,
        "Instrument and device share one source: they hold together, which says nothing about "
        "accuracy.",
        "Compare with a source of its own");
  if (!plan.limit || !a.is_known) return;
  const double third = plan.limit->value / 3.0;
  if (a.error->u() > third)
    add("not_enough", Severity::caution,
        fmt::format("u is {} ppm, more than a third of the {} ppm allowed: this is not good enough "
                    "for that tolerance.",
                    number_text(a.error->u(), 2), number_text(plan.limit->value, 2)),
        is_by_counter(plan) ? "Use a longer gate or a better timebase"
                            : "Use a carrier that is better known, or several");
}

/// What each oscillator is off by; whether the map told them apart.
bool separate(Accuracy& a, const std::vector<AccuracyReading>& readings, const AccuracyPlan& plan) {
  std::vector<MapReading> mapped;
  for (std::size_t i = 0; i < a.rows.size(); ++i) {
    const AccuracyRow& row = a.rows[i];
    if (!row.error) continue;
    const MappedBand* band = plan.map.find(*row.expected_hz, readings[i].is_upper ? "USB" : "LSB");
    if (band == nullptr) {
      a.remarks.push_back({"not_mapped", Severity::note,
                           row.label + " is on no band of the map: it does not count there.",
                           "Add a line for " + frequency_text(*row.expected_hz) + " to the map"});
      continue;
    }
    const double own = row.error->independent_u();
    mapped.push_back({band, *row.error_hz, own * *row.expected_hz / kPerMillion,
                      std::sqrt(std::max(0.0, std::pow(row.error->u(), 2.0) - own * own))});
  }
  a.oscillators = separate_oscillators(plan.map, mapped);
  if (a.oscillators.errors.empty()) {
    a.remarks.push_back(
        {"not_separated", Severity::caution,
         fmt::format("{} oscillators cannot be separated by {} readings: another band is needed.",
                     plan.map.oscillators.size(), mapped.size()),
         "Read on a band where they enter otherwise, or in the other sideband"});
    return false;
  }
  constexpr double kTooFar = 3.0;
  if (a.oscillators.scatter > kTooFar)
    a.remarks.push_back(
        {"map_scatter", Severity::caution,
         fmt::format("Readings lie {} times their own \u00b1 from what the map makes "
                     "of them.",
                     number_text(a.oscillators.scatter, 1)),
         "Check the map, its signs above all, and read again"});
  for (const Figure& f : a.oscillators.errors) {
    if (std::abs(f.value) <= f.expanded()) continue;
    a.remarks.push_back({"oscillator_off", Severity::note,
                         fmt::format("The {} oscillator is off: it is {}, {} ppm.", f.label,
                                     f.value < 0.0 ? "low" : "high", figure_cell(f, 2, true)),
                         ""});
  }
  return true;
}

}  // namespace

Accuracy assess_accuracy(const std::vector<AccuracyReading>& readings, const AccuracyPlan& plan) {
  Accuracy a;
  a.is_known =
      is_by_counter(plan) ? plan.counter.timebase_ppm.has_value() : plan.carrier_ppm.has_value();
  const bool is_judged = a.is_known && !plan.is_shared && plan.limit && plan.limit->unit == "ppm";
  std::vector<const Figure*> good;
  a.rows.reserve(readings.size());
  for (const AccuracyReading& r : readings) {
    if (const auto peaks = two_peaks(r.counts))
      a.remarks.push_back(
          {"two_peaks", Severity::caution,
           fmt::format(
               "{}: counts stand at two places, {} Hz apart: jitter, a beat with a spur, or "
               "the probe.",
               r.label, number_text(peaks->high - peaks->low, 2)),
           "Change probe and trigger level, and count again"});
    AccuracyRow row{r.label, r.expected_hz, {}, {}, {}, {}, {}};
    const bool is_read = r.read_hz || (plan.way == AccuracyWay::zero_beat && r.dial_hz.has_value());
    if (is_read) row.refusal = refusal_of(r, plan);
    if (is_read && row.refusal.empty()) {
      Figure f = error_of(r, plan);
      f.label = "Frequency error";
      if (std::abs(f.value) > plan.most_ppm) {
        row.refusal = fmt::format("{} off is no reference that is adjusted", ppm(f.value));
      } else {
        row.error_hz = f.value * *r.expected_hz / kPerMillion;
        if (is_judged) row.judgement = judge(f, *plan.limit);
        row.error = std::move(f);
      }
    }
    a.rows.push_back(std::move(row));
  }
  for (const AccuracyRow& r : a.rows)
    if (r.error) good.push_back(&*r.error);
  if (good.empty()) {
    add_remarks(a, plan, "");
    return a;
  }
  const bool is_mapped = !plan.map.is_empty() && separate(a, readings, plan);
  a.error = is_mapped ? a.oscillators.errors.front() : mean_of(good);
  if (is_mapped) a.error->id = "frequency_error";
  if (!is_mapped) compare_with_others(a);
  // With several oscillators bands differ by right.
  const std::string differ = is_mapped ? std::string() : disagreement(a);
  const auto judged = [&](const Figure& f, const Limit& limit) {
    Judgement j = judge(f, limit);
    // Who does not agree cannot pass.
    if (!differ.empty() && j.verdict != Verdict::fail) j.verdict = Verdict::too_close;
    return j;
  };
  if (is_judged) a.judgement = judged(*a.error, *plan.limit);
  const auto add_band = [&](double hz, Figure error, const MappedBand* mapped) {
    AccuracyBand band{hz, std::move(error), std::nullopt, mapped};
    if (is_judged) band.judgement = judged(band.error, limit_on_band(*plan.limit, hz));
    a.bands.push_back(std::move(band));
  };
  if (is_mapped)
    for (const MappedBand& b : plan.map.bands) add_band(b.frequency_hz, a.oscillators.on(b), &b);
  else
    for (const double hz : plan.bands_hz) add_band(hz, error_on_band(*a.error, hz), nullptr);
  add_remarks(a, plan, differ);
  sort_remarks(a.remarks);
  return a;
}

}  // namespace heron

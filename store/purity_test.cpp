#include "store/purity_test.h"

#include <algorithm>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <regex>

#include "core/error.h"
#include "core/method/purity_json.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "store/clock.h"
#include "store/result_record.h"
#include "store/rows.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kUsualCarrierHz = 14.2e6;
constexpr double kLeastToneHz = 100.0;
constexpr double kMostToneHz = 5000.0;

std::optional<PuritySource> stored_source(const Shack& shack, const StepCapture& capture) {
  const auto record = load_result(shack, capture.id);
  if (!record) return std::nullopt;
  PuritySource source = purity_source_from_json(*record);
  if (const auto on = taken_on(shack, capture)) {
    source.chain = on->chain;
    const Part* recorder = recorder_of(on->chain);
    if (recorder != nullptr && recorder->full_scale_dbm)
      source.set_full_scale(*recorder->full_scale_dbm);
  }
  return source;
}

/// nullopt where a name only looks like a frequency.
std::optional<double> frequency_in(const std::string& text) {
  try {
    return parse_quantity(text, Quantity::frequency).value;
  } catch (const InputError&) {
    return std::nullopt;
  }
}

void assess(PurityTest& t, const std::vector<std::pair<PuritySource, double>>& self_tests) {
  std::vector<PuritySource> all;
  for (const auto& s : t.sources) {
    if (s) all.push_back(*s);
  }
  if (all.empty() && t.settings.lines.empty()) return;
  try {
    if (!t.settings.lines.empty())
      all.push_back(
          typed_purity_source(t.settings.lines, t.carrier_hz, all, t.settings.reading_u_db));
    PuritySettings how;
    how.carrier_hz = t.carrier_hz;
    how.mask = t.mask;
    how.power_dbm = t.settings.power_dbm;
    how.is_same_gain = t.settings.is_same_gain;
    if (t.hookup) how.chain = t.hookup->chain;
    if (t.test.drive) {
      // One tone through a single-sideband transmitter stands beside the dial.
      const double aside = std::abs(t.carrier_hz - t.test.drive->frequency_hz);
      if (aside >= kLeastToneHz && aside <= kMostToneHz)
        how.suppressed_carrier_hz = t.test.drive->frequency_hz;
    }
    t.analysis = assess_purity(all, how);
  } catch (const InputError& error) {
    t.obstacle = error.what_happened();
    t.advice = error.advice;
    return;
  }
  for (const auto& [source, added_db] : self_tests)
    compare_attenuation(*t.analysis, source, added_db);
  t.filters = advise_filter(*t.analysis);
}

}  // namespace

PurityTestSettings purity_settings_from_json(const json& settings) {
  PurityTestSettings out;
  const auto found = settings.find("purity");
  if (found == settings.end()) return out;
  try {
    const json& r = *found;
    out.carrier_hz = number_from(r, "carrier_hz").value_or(0.0);
    if (r.contains("mask"))
      out.mask = r.at("mask").is_null() ? Mask{"none", "", {}}
                                        : parse_mask(r.at("mask").dump(), "the test\u2019s mask");
    out.power_dbm = number_from(r, "power_dbm");
    out.power_typed = r.value("power_typed", "");
    out.reading_u_db = std::clamp(r.value("reading_u_db", 0.5), 0.0, 10.0);
    for (const json& l : r.value("lines", json::array()))
      out.lines.push_back({l.at("typed"), l.at("frequency_hz"), l.value("to_hz", 0.0),
                           l.at("level"), l.at("dbc"), l.at("bound")});
    out.is_same_gain = r.value("same_gain", false);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  return out;
}

json with_purity_settings(json settings, const PurityTestSettings& purity) {
  json lines = json::array();
  for (const TypedLine& l : purity.lines)
    lines.push_back({{"typed", l.typed},
                     {"frequency_hz", l.frequency_hz},
                     {"to_hz", l.to_hz},
                     {"level", l.level},
                     {"dbc", l.is_dbc},
                     {"bound", l.is_bound}});
  json r = {{"reading_u_db", purity.reading_u_db}, {"lines", lines}};
  if (purity.is_same_gain) r["same_gain"] = true;
  if (purity.carrier_hz > 0.0) r["carrier_hz"] = purity.carrier_hz;
  if (purity.mask) r["mask"] = purity.mask->is_none() ? json(nullptr) : to_json(*purity.mask);
  if (purity.power_dbm) {
    r["power_dbm"] = *purity.power_dbm;
    r["power_typed"] = purity.power_typed;
  }
  settings["purity"] = r;
  return settings;
}

std::string sweep_name(double from_hz, double to_hz) {
  return "Analyser " + frequency_text(from_hz) + " to " + frequency_text(to_hz);
}

std::optional<std::pair<double, double>> sweep_range_hz(const Step& step) {
  if (step.sweep_hz) return step.sweep_hz;
  const std::string& label = step.label;
  constexpr std::size_t kLongest = 100;
  if (label.size() > kLongest) return std::nullopt;
  static const std::regex named(
      "^analyser\\s+([0-9.,]+\\s*[kmg]?hz)\\s+to\\s+([0-9.,]+\\s*[kmg]?hz)$", std::regex::icase);
  std::smatch found;
  if (!std::regex_match(label, found, named)) return std::nullopt;
  const auto from = frequency_in(found[1].str());
  const auto to = frequency_in(found[2].str());
  return from && to && *to > *from ? std::optional(std::pair{*from, *to}) : std::nullopt;
}

double purity_center_hz(const PlannedTest& t, const std::string& label) {
  // Files are called things like "reedling 28.4MHz" or "h2_28.4_mhz".
  static const std::regex named("([0-9]+(?:[.,][0-9]+)?)[ _-]*([kmg]hz)", std::regex::icase);
  constexpr std::size_t kLongestName = 200;
  const std::string name = label.substr(0, kLongestName);
  std::smatch found;
  if (std::regex_search(name, found, named)) {
    if (const auto hz = frequency_in(found[1].str() + " " + found[2].str())) return *hz;
  }
  return t.test.drive ? t.test.drive->frequency_hz : 0.0;
}

PurityTest load_purity_test(const Shack& shack, Id id) {
  PurityTest t;
  t.test = test(shack, id);
  t.settings = read_or_damage(t.test.damage, "settings", [&] {
                 return purity_settings_from_json(t.test.settings);
               }).value_or(PurityTestSettings{});
  t.steps = steps(shack, id);
  load_plan(shack, t);
  t.carrier_hz = t.settings.carrier_hz > 0.0 ? t.settings.carrier_hz
                 : t.test.drive              ? t.test.drive->frequency_hz
                                             : kUsualCarrierHz;
  t.mask = t.settings.mask.value_or(generic_mask(t.carrier_hz));
  std::vector<std::pair<PuritySource, double>> self_tests;
  const auto source_of = [&](Step& step, const std::optional<StepCapture>& capture) {
    if (!capture) return std::optional<PuritySource>();
    return read_or_damage(step.damage, "result", [&] { return stored_source(shack, *capture); });
  };
  for (Step& step : t.steps) {
    t.sources.push_back(source_of(step, step.capture));
    t.taken_on.push_back(taken_on(shack, step));
    if (!step.self_test || !step.self_test->added) continue;
    if (auto second = source_of(step, step.self_test))
      self_tests.emplace_back(std::move(*second), step.self_test->added->db);
  }
  t.is_self_tested = !self_tests.empty();
  assess(t, self_tests);
  return t;
}

std::optional<Headline> headline_of(const PurityTest& t) {
  const PurityLine* worst = t.analysis ? t.analysis->worst() : nullptr;
  if (worst == nullptr) return std::nullopt;
  std::string taken_at;
  for (const Step& s : t.steps) {
    if (s.capture) taken_at = std::max(taken_at, s.capture->taken_at);
  }
  const std::string at = worst->harmonic > 1 ? fmt::format("{} harmonic", ordinal(worst->harmonic))
                                             : engineering_text(worst->frequency_hz, "Hz", 4);
  Headline headline{line_figure(*worst), at, taken_at.empty() ? utc_now() : taken_at,
                    t.analysis->judgement().value_or(Judgement{})};
  if (worst->judgement && worst->limit_dbc)
    headline.limit = Limit{t.mask.name, Sense::at_most, *worst->limit_dbc, "dB", kReCarrier, 20.0};
  return headline;
}

}  // namespace heron

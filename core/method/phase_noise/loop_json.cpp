#include "core/method/phase_noise/loop_json.h"

#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kReferenceDistance = 10.0;  ///< times the crossover
constexpr double kMuchPeakingDb = 4.0;
constexpr std::size_t kMostCurrents = 1000;

double number(const json& from, const char* key, const std::string& name) {
  const auto found = from.find(key);
  if (found == from.end() || !found->is_number())
    throw InputError(name, "", std::string("it has no number \u201c") + key + "\u201d",
                     "Give charge_pump_a, kvco_hz_per_v, n, r2_ohm, c1_f and c2_f");
  const double value = found->get<double>();
  if (!std::isfinite(value) || !(value > 0.0))
    throw InputError(name, "", std::string("\u201c") + key + "\u201d is not above 0",
                     "Give all parts in SI units");
  return value;
}

}  // namespace

std::vector<LoopDesign> parse_loops(std::string_view text, const std::string& name) {
  // A byte order mark is no part of it.
  constexpr std::string_view kMark = "\xef\xbb\xbf";
  if (text.starts_with(kMark)) text.remove_prefix(kMark.size());
  const json from = json::parse(text, nullptr, false);
  if (!from.is_object())
    throw InputError(name, "", "it is no JSON object",
                     "Give charge_pump_a, kvco_hz_per_v, n, r2_ohm, c1_f and c2_f");
  LoopDesign d;
  d.kvco_hz_per_v = number(from, "kvco_hz_per_v", name);
  d.n = number(from, "n", name);
  d.r2_ohm = number(from, "r2_ohm", name);
  d.c1_f = number(from, "c1_f", name);
  d.c2_f = number(from, "c2_f", name);
  const auto is_there = [&](const char* key) { return from.contains(key) && !from[key].is_null(); };
  if (is_there("r3_ohm") != is_there("c3_f"))
    throw InputError(name, "", "r3_ohm and c3_f go together", "Give both, or neither");
  if (is_there("r3_ohm")) {
    d.r3_ohm = number(from, "r3_ohm", name);
    d.c3_f = number(from, "c3_f", name);
  }
  if (is_there("reference_hz")) d.reference_hz = number(from, "reference_hz", name);
  std::vector<LoopDesign> all;
  const auto currents = from.find("charge_pump_a");
  if (currents != from.end() && currents->is_array()) {
    if (currents->empty() || currents->size() > kMostCurrents)
      throw InputError(name, "", "charge_pump_a is an empty or endless list", "Give 1 to 1000");
    for (const json& one : *currents) {
      d.charge_pump_a = number({{"charge_pump_a", one}}, "charge_pump_a", name);
      all.push_back(d);
    }
    return all;
  }
  d.charge_pump_a = number(from, "charge_pump_a", name);
  return {d};
}

Remark unstable_remark(const LoopDesign& loop, const LoopFigures& figures) {
  return {"unstable", Severity::fault,
          fmt::format("{} does not lock: {}\u00b0 of phase margin.",
                      engineering_text(loop.charge_pump_a, "A", 3),
                      number_text(figures.phase_margin_deg, 1, true)),
          "Raise R2, or bring C1 and the third pole further out"};
}

std::vector<Remark> loop_remarks(const LoopDesign& loop, const LoopFigures& figures) {
  std::vector<Remark> all;
  if (loop.reference_hz && figures.is_stable() &&
      *loop.reference_hz < kReferenceDistance * figures.crossover_hz)
    all.push_back(
        {"reference_near", Severity::caution,
         fmt::format("{}: the crossover at {} is within a tenth of the reference: the phase "
                     "detector\u2019s sampling takes more phase than this says.",
                     engineering_text(loop.charge_pump_a, "A", 3),
                     frequency_text(figures.crossover_hz)),
         "Lower the current or R2"});
  if (figures.peaking_db && *figures.peaking_db > kMuchPeakingDb)
    all.push_back(
        {"peaking", Severity::note,
         fmt::format("{}: noise rises by {} dB round {}.",
                     engineering_text(loop.charge_pump_a, "A", 3),
                     number_text(*figures.peaking_db, 1), frequency_text(*figures.peaking_hz)),
         ""});
  return all;
}

}  // namespace heron

#include "core/chain/hookup_remarks.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/chain/bench_remarks.h"
#include "core/chain/chain_json.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

bool is_another(const Part& part, const std::vector<Part>& bench) {
  return std::any_of(bench.begin(), bench.end(), [&](const Part& thing) {
    return !part.bench_id.empty() && part.bench_id == thing.bench_id &&
           to_json(part) != to_json(thing);
  });
}

/// What limits the key-down time, at the highest level that it may be.
std::string overload_sentence(const Part& part, const ChainNode& node, const Drive& drive) {
  const double highest_dbm = node.level_dbm + 2.0 * node.u_db;
  const auto watts = [](double dbm) { return engineering_text(to_watt(Dbm{dbm}).value, "W", 3); };
  if (const auto peak = peak_rating_dbm(part); peak && highest_dbm > *peak)
    return fmt::format("{}: up to {} at the peak, rated for {}.", part.name, watts(highest_dbm),
                       watts(*peak));
  return fmt::format("{}: up to {} on average, rated for {}.", part.name,
                     watts(highest_dbm - peak_to_average_db(drive)),
                     engineering_text(part.max_input_w.value_or(0.0), "W", 3));
}

Remark level_remark(const ChainResult& result) {
  double u = 0.0;
  for (const Contribution& c : result.contributions) u = std::hypot(u, c.u);
  std::string text =
      fmt::format("Level at the device: \u00b1 {} dB through this chain", number_text(2.0 * u, 2));
  if (result.u_mismatch_db > 0.0)
    text += fmt::format(", mismatch makes \u00b1 {} dB of it",
                        number_text(2.0 * result.u_mismatch_db, 2));
  return {"chain_u", Severity::note, text + ".", ""};
}

}  // namespace

bool differs_from_bench(const Chain& chain, const std::vector<Part>& bench) {
  return std::any_of(chain.parts.begin(), chain.parts.end(),
                     [&](const Part& part) { return is_another(part, bench); });
}

std::vector<Remark> hookup_remarks(const Chain& chain, const ChainResult* result,
                                   const std::vector<Part>& bench, const ChainSwap* swap,
                                   const std::string& on) {
  std::vector<Remark> remarks;
  if (result != nullptr) remarks = result->remarks;
  for (const Part& part : chain.parts)
    if (const auto overdue = overdue_remark(part, on)) remarks.push_back(*overdue);
  for (const Part& part : chain.parts)
    if (is_another(part, bench))
      remarks.push_back({"bench_differs", Severity::caution,
                         part.name + " was changed on the bench since this hook-up was made.", ""});
  if (result != nullptr) remarks.push_back(level_remark(*result));
  sort_remarks(remarks);
  if (swap != nullptr) {
    // What can be done at once stands first.
    std::erase_if(remarks, [](const Remark& r) {
      return r.code == "above_best_window" || r.code == "below_best_window";
    });
    remarks.insert(remarks.begin(),
                   {"swap", Severity::note, swap->sentence, "The dashed line shows it"});
  }
  return remarks;
}

std::string rating_sentence(const Chain& chain, const ChainResult& result,
                            const std::vector<NodeVerdict>& verdicts, const Drive& drive) {
  if (result.max_key_down_s) {
    if (!result.binding_part) return {};
    return overload_sentence(chain.parts[*result.binding_part], result.nodes[*result.binding_part],
                             drive);
  }
  if (!result.unrated.empty())
    return fmt::format(
        "Nothing says what {} is rated for. Enter that on the bench, or override it by name.",
        fmt::join(result.unrated, " and "));
  const NodeVerdict* least = nullptr;
  std::size_t at = 0;
  for (std::size_t i = 0; i < verdicts.size(); ++i) {
    const NodeVerdict& v = verdicts[i];
    if (!v.margin_db || v.range != RangePlace::not_bound) continue;
    if (least != nullptr && *v.margin_db >= *least->margin_db) continue;
    least = &v;
    at = i;
  }
  if (least == nullptr) return "No ratings are stated, so nothing can be said.";
  return fmt::format("The least margin is {} dB, at {}.", number_text(*least->margin_db, 1),
                     chain.parts[at].name);
}

}  // namespace heron

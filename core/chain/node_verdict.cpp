#include "core/chain/node_verdict.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

std::string watts(double watt) {
  return fmt::format("{:.3g} {}W", watt >= 1.0 ? watt : watt * 1e3, watt >= 1.0 ? "" : "m");
}

void bind_limit(NodeVerdict& v, double limit_dbm, double level_dbm, bool is_average,
                const std::string& words) {
  const double margin = limit_dbm - level_dbm;
  if (v.margin_db && *v.margin_db <= margin) return;
  v.margin_db = margin;
  v.limit_dbm = limit_dbm;
  v.is_average = is_average;
  v.limit = words;
}

/// The input range of an end: the worse of the two sides.
void judge_range(NodeVerdict& v, const Part& part, const ChainNode& node) {
  if (!part.best_input_dbm) return;
  const auto [low, high] = *part.best_input_dbm;
  const double above = node.level_dbm - high;
  const double below = low - node.level_dbm;
  if (above <= 0.0 && below <= 0.0) return;
  v.verdict = Verdict::too_close;
  v.margin_db = above > 0.0 ? -above : -below;
  v.limit_dbm = above > 0.0 ? high : low;
  v.is_average = false;
  v.range = above > 0.0 ? RangePlace::too_high : RangePlace::too_low;
  v.limit = above > 0.0 ? "above its input range" : "below its input range";
}

}  // namespace

NodeVerdict judge_node(const Part& part, const ChainNode& node, const Drive& drive) {
  NodeVerdict v;
  if (node.is_unrated) {
    v.limit = "no rating stated";
    return v;
  }
  const double crest = peak_to_average_db(drive);
  const double mean = node.level_dbm - crest;
  const double expanded = 2.0 * node.u_db;
  const bool ends = find_part_kind(part.kind) != nullptr && find_part_kind(part.kind)->ends_chain;
  if (part.max_input_w)
    bind_limit(v, to_dbm(Watt{*part.max_input_w}).value, mean, true,
               watts(*part.max_input_w) + " average");
  if (part.max_input_dbm)
    bind_limit(v, *part.max_input_dbm, node.level_dbm, false,
               watts(to_watt(Dbm{*part.max_input_dbm}).value) + (ends ? " damage" : " peak"));
  if (part.full_scale_dbm) bind_limit(v, *part.full_scale_dbm, node.level_dbm, false, "full scale");
  if (!v.margin_db) {
    if (ends && part.best_input_dbm) v.verdict = Verdict::pass;
    judge_range(v, part, node);
    if (!v.margin_db && ends && part.best_input_dbm) {
      const auto [low, high] = *part.best_input_dbm;
      v.margin_db = std::min(high - node.level_dbm, node.level_dbm - low);
      v.limit_dbm = high;
      v.range = RangePlace::inside;
      v.limit = "input range";
    }
    if (v.limit.empty()) v.limit = "no rating stated";
    return v;
  }
  if (*v.margin_db > expanded) {
    v.verdict = Verdict::pass;
  } else if (*v.margin_db > 0.0 || (v.is_average && !node.max_key_down_s)) {
    // Just at its rating, which has no time limit.
    v.verdict = Verdict::too_close;
  } else if (v.is_average && node.max_key_down_s && *node.max_key_down_s > 0.0) {
    const bool holds = drive.key_down_s && *drive.key_down_s <= *node.max_key_down_s;
    const bool is_over = *v.margin_db < -expanded;
    v.verdict = holds || !is_over ? Verdict::too_close : Verdict::fail;
    v.limit += ": " + duration_text(std::floor(*node.max_key_down_s)) + " max";
  } else {
    v.verdict = *v.margin_db < -expanded ? Verdict::fail : Verdict::too_close;
  }
  if (ends && v.verdict == Verdict::pass) judge_range(v, part, node);
  return v;
}

Verdict rating_verdict(const ChainResult& result) {
  if (result.is_safe) return Verdict::pass;
  const bool is_over = std::any_of(
      result.nodes.begin(), result.nodes.end(),
      [](const ChainNode& node) { return node.margin_db && *node.margin_db < -2.0 * node.u_db; });
  return is_over ? Verdict::fail : Verdict::too_close;
}

}  // namespace heron

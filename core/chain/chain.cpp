#include "core/chain/chain.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

double root_sum_square(const std::vector<Contribution>& list) {
  double sum = 0.0;
  for (const Contribution& c : list) sum += c.u * c.u;
  return std::sqrt(sum);
}

void check_chain(const Chain& chain, const Drive& drive) {
  const std::string subject = chain.name.empty() ? "chain" : "chain \u201c" + chain.name + "\u201d";
  if (chain.parts.empty())
    throw InputError(subject, "parts", "it has no parts", "Add at least the instrument");
  if (!(chain.impedance_ohm > 0.0) || !std::isfinite(chain.impedance_ohm))
    throw InputError(subject, "impedance_ohm", "it is not a number above 0", "Use 50");
  if (!std::isfinite(drive.pep_dbm))
    throw InputError(subject, "drive", "it is not a level", "Give it in dBm");
  if (!(drive.frequency_hz >= 0.0) || !std::isfinite(drive.frequency_hz))
    throw InputError(subject, "frequency", "it is not a number of 0 or more", "Give it in hertz");
  for (std::size_t i = 0; i < chain.parts.size(); ++i) {
    check_part(chain.parts[i]);
    const PartKind* kind = find_part_kind(chain.parts[i].kind);
    if (kind->ends_chain && i + 1 < chain.parts.size())
      throw InputError(subject, fmt::format("part {}", i + 1), "the instrument is in the middle",
                       "Put the instrument last");
    for (std::size_t j = 0; j < i; ++j) {
      if (!chain.parts[i].bench_id.empty() && chain.parts[j].bench_id == chain.parts[i].bench_id)
        throw InputError(subject, fmt::format("part {}", i + 1),
                         fmt::format("{} is already part {}: the chain would run in a circle",
                                     chain.parts[i].name, j + 1),
                         "Remove one of the two");
    }
  }
}

/// Ratings of one input against its level; times are those of the highest level that it may be.
void rate(ChainNode& node, const Part& part, const Drive& drive) {
  const double crest = peak_to_average_db(drive);
  const double highest_dbm = node.level_dbm + 2.0 * node.u_db;
  const auto bind = [&](double rating_dbm, const char* limit, bool is_assumed = false) {
    if (node.rating_dbm && *node.rating_dbm <= rating_dbm) return;
    node.rating_dbm = rating_dbm;
    node.margin_db = rating_dbm - node.level_dbm;
    node.limit = limit;
    node.is_peak_assumed = is_assumed;
  };
  if (part.max_input_w) {
    const ThermalRating rating{*part.max_input_w, part.time_constant_s};
    node.max_key_down_s = key_down_time_s(rating, to_watt(Dbm{highest_dbm - crest}).value);
    const bool is_short = drive.key_down_s.has_value() && part.time_constant_s.has_value();
    const double allowed_w = is_short ? allowed_power_w(rating, *drive.key_down_s) : rating.rated_w;
    bind(to_dbm(Watt{allowed_w}).value + crest, is_short ? "key-down" : "continuous");
  }
  if (const auto peak = peak_rating_dbm(part)) {
    if (highest_dbm > *peak) node.max_key_down_s = 0.0;
    bind(*peak, part.max_input_dbm ? "absolute" : "assumed peak", !part.max_input_dbm);
  }
}

void add_window_remark(ChainResult& result, const Part& part, const ChainNode& node) {
  if (!part.best_input_dbm) {
    result.remarks.push_back(
        {"window_missing", Severity::note,
         fmt::format("{} states no input range: whether {} dBm suit it is not known.", part.name,
                     number_text(node.level_dbm, 1)),
         "Enter its input range on the bench"});
    return;
  }
  const auto [low, high] = *part.best_input_dbm;
  const double middle = (low + high) / 2.0;
  const double change = std::round(node.level_dbm - middle);
  if (node.level_dbm > high) {
    result.remarks.push_back({"above_best_window", Severity::caution,
                              fmt::format("{} dBm into {} is {} dB above its input range.",
                                          number_text(node.level_dbm, 1), part.name,
                                          number_text(node.level_dbm - high, 1)),
                              fmt::format("Add {:.0f} dB of attenuation", change)});
  } else if (node.level_dbm < low) {
    result.remarks.push_back({"below_best_window", Severity::note,
                              fmt::format("{} dBm into {} is {} dB below its input range.",
                                          number_text(node.level_dbm, 1), part.name,
                                          number_text(low - node.level_dbm, 1)),
                              fmt::format("Remove {:.0f} dB of attenuation", -change)});
  }
}

void add_full_scale_remark(ChainResult& result, const Part& part, const ChainNode& node) {
  if (!part.full_scale_dbm || node.level_dbm <= *part.full_scale_dbm) return;
  result.remarks.push_back({"above_full_scale", Severity::caution,
                            fmt::format("{} dBm into {} is {} dB above its full scale: it clips.",
                                        number_text(node.level_dbm, 1), part.name,
                                        number_text(node.level_dbm - *part.full_scale_dbm, 1)),
                            fmt::format("Add at least {:.0f} dB of attenuation",
                                        std::ceil(node.level_dbm - *part.full_scale_dbm))});
}

void add_safety_remark(ChainResult& result, const Part& part, const ChainNode& node) {
  if (node.is_peak_assumed && node.margin_db && *node.margin_db < 2.0 * node.u_db)
    result.remarks.push_back(
        {"peak_rating_assumed", Severity::note,
         fmt::format("{} states no peak rating: however short, no more than ten times its average "
                     "one, {}, is assumed.",
                     part.name, engineering_text(kPeakOverAverage * *part.max_input_w, "W", 3)),
         "Enter its peak rating if it is rated for more"});
  if (!node.margin_db || *node.margin_db >= 2.0 * node.u_db) return;
  if (*node.margin_db >= 0.0) {
    result.remarks.push_back(
        {"rating_too_close", Severity::caution,
         fmt::format(
             "{}: {} \u00b1 {} dBm, rated for {} dBm ({} rating): it may be over its rating.",
             node.name, number_text(node.level_dbm, 1), number_text(2.0 * node.u_db, 1),
             number_text(*node.rating_dbm, 1), node.limit),
         "Reduce the power by a dB, or put more attenuation before it"});
    return;
  }
  const std::string key_down =
      node.max_key_down_s && *node.max_key_down_s > 0.0
          ? fmt::format(" From cold at most {:.0f} s.", std::floor(*node.max_key_down_s))
          : "";
  result.remarks.push_back(
      {"overload", Severity::fault,
       fmt::format("{}: {} dBm, rated for {} dBm ({} rating): {} dB over its rating.{}", node.name,
                   number_text(node.level_dbm, 1), number_text(*node.rating_dbm, 1), node.limit,
                   number_text(-*node.margin_db, 1), key_down),
       "Do not key it: reduce the power, or put more attenuation before it"});
}

/// Takes part in mismatch where nobody has said how well it is matched.
constexpr double kAssumedVswr = 1.2;
constexpr double kAssumedDeviceVswr = 1.5;

void add_vswr_remark(ChainResult& result, const std::vector<std::string>& names) {
  if (names.empty()) return;
  std::string list;
  for (std::size_t i = 0; i < names.size(); ++i)
    list += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
  result.remarks.push_back(
      {"vswr_assumed", Severity::note,
       fmt::format("No VSWR is stated for {}: {} is assumed ({} for a device).", list, kAssumedVswr,
                   kAssumedDeviceVswr),
       "State it on the bench for a smaller \u00b1"});
}

/// A part that nobody has rated is not known to be safe: a passive one from a tenth of a watt on,
/// an instrument where the level is beyond what it is made to measure.
bool is_unrated(const Part& part, const ChainNode& node, bool ends_chain) {
  constexpr double kHarmlessDbm = 20.0;
  constexpr double kHarmlessToInstrumentsDbm = -10.0;
  if (part.is_rated()) return false;
  if (!ends_chain) return node.level_dbm >= kHarmlessDbm;
  double usable = kHarmlessToInstrumentsDbm;
  if (part.best_input_dbm) usable = std::max(usable, part.best_input_dbm->second);
  if (part.full_scale_dbm) usable = std::max(usable, *part.full_scale_dbm);
  return node.level_dbm > usable;
}

void add_rating_remark(ChainResult& result, const Part& part, const ChainNode& node,
                       bool ends_chain) {
  if (!node.is_unrated) return;
  result.unrated.push_back(part.name);
  result.remarks.push_back(
      {"rating_missing", Severity::caution,
       fmt::format("{} gets {} and no {} is stated: it is not known whether it is rated for that.",
                   part.name, engineering_text(to_watt(Dbm{node.level_dbm}).value, "W", 3),
                   ends_chain ? "damage level" : "rating"),
       ends_chain ? "Enter its damage level" : "Enter its rating"});
}

/// Of one part; an instrument ends the chain and passes nothing on.
double gain_db(const Part& part, double frequency_hz) {
  if (!part.is_gain_known)
    throw InputError("part \u201c" + part.name + "\u201d", "", "its loss is not stated",
                     "Enter its loss on the bench");
  return find_part_kind(part.kind)->ends_chain
             ? 0.0
             : part.gain.at(frequency_hz, "part \u201c" + part.name + "\u201d");
}

}  // namespace

double peak_to_average_db(const Drive& drive) {
  return drive.is_two_tone ? db_from_power_ratio(2.0) : 0.0;
}

Chain aged(Chain chain, const std::string& on) {
  if (!on.empty() && !months_between(on, on))
    throw InputError("date", on, "it is not a date", "Write it like 2026-03-14");
  for (Part& part : chain.parts) part.u_age_db = ageing_u_db(part.calibration, part.u_db, on);
  return chain;
}

const Part* recorder_of(const Chain& chain) {
  if (chain.parts.empty()) return nullptr;
  const PartKind* kind = find_part_kind(chain.parts.back().kind);
  return kind != nullptr && kind->ends_chain ? &chain.parts.back() : nullptr;
}

bool depends_on_frequency(const Chain& chain) {
  return std::any_of(chain.parts.begin(), chain.parts.end(), [](const Part& part) {
    return !part.gain.is_constant() || part.network.has_value();
  });
}

double total_gain_db(const Chain& chain, double frequency_hz) {
  double sum = 0.0;
  for (const Part& part : chain.parts)
    sum += gain_db(*PartInSystem(part, chain.impedance_ohm), frequency_hz);
  return sum;
}

ChainResult evaluate_chain(const Chain& chain, const Drive& drive) {
  check_chain(chain, drive);
  ChainResult result;
  std::vector<Contribution> before;
  if (chain.source_u_db > 0.0)
    before.push_back(
        {chain.source.empty() ? "source" : chain.source, chain.source_u_db, Scope::common});
  double level = drive.pep_dbm;
  std::vector<std::string> unmatched;
  const auto note_unmatched = [&](bool is_stated, const std::string& name) {
    if (!is_stated && (unmatched.empty() || unmatched.back() != name)) unmatched.push_back(name);
  };
  std::string name_before = chain.source.empty() ? "device" : chain.source;
  std::optional<double> vswr_before = chain.source_vswr;
  double assumed_before = kAssumedDeviceVswr;
  for (std::size_t i = 0; i < chain.parts.size(); ++i) {
    const PartInSystem in_system(chain.parts[i], chain.impedance_ohm);
    const Part& part = *in_system;
    const auto vswr_in = part.input_vswr(drive.frequency_hz);
    const double mismatch = u_mismatch_db(
        reflection_from_vswr(vswr_before.value_or(assumed_before)),
        reflection_from_vswr(
            vswr_in.value_or(part.kind == "device" ? kAssumedDeviceVswr : kAssumedVswr)));
    if (mismatch > 0.0) {
      before.push_back({"mismatch " + name_before + " to " + part.name, mismatch, Scope::common});
      result.u_mismatch_db = std::hypot(result.u_mismatch_db, mismatch);
      note_unmatched(vswr_before.has_value(), name_before);
      note_unmatched(vswr_in.has_value(), part.name);
    }
    ChainNode node;
    node.name = part.name;
    node.level_dbm = level;
    node.contributions = before;
    node.u_db = root_sum_square(before);
    rate(node, part, drive);
    if (node.margin_db && *node.margin_db < 2.0 * node.u_db) result.is_safe = false;
    if (node.max_key_down_s &&
        (!result.max_key_down_s || *node.max_key_down_s < *result.max_key_down_s)) {
      result.max_key_down_s = node.max_key_down_s;
      result.binding = part.name;
      result.binding_part = i;
    }
    const bool ends_chain = find_part_kind(part.kind)->ends_chain;
    node.is_unrated = is_unrated(part, node, ends_chain);
    add_safety_remark(result, part, node);
    add_rating_remark(result, part, node, ends_chain);
    if (ends_chain) add_window_remark(result, part, node);
    add_full_scale_remark(result, part, node);
    result.nodes.push_back(std::move(node));
    if (part.u_db > 0.0) before.push_back({part.name, part.u_db, Scope::common});
    if (part.u_age_db > 0.0)
      before.push_back({"calibration age of " + part.name, part.u_age_db, Scope::common});
    if (ends_chain) break;
    const double gain = gain_db(part, drive.frequency_hz);
    level += gain;
    result.total_gain_db += gain;
    vswr_before = part.output_vswr(drive.frequency_hz);
    assumed_before = kAssumedVswr;
    name_before = part.name;
  }
  add_vswr_remark(result, unmatched);
  if (!chain.is_impedance_stated)
    result.remarks.push_back({"impedance_assumed", Severity::note,
                              "The hook-up does not state its impedance: 50 \u03a9 is assumed.",
                              "State it"});
  result.contributions = before;
  sort_remarks(result.remarks);
  return result;
}

}  // namespace heron

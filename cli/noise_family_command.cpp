#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/noise_input.h"
#include "cli/output.h"
#include "core/error.h"
#include "core/method/phase_noise/noise_family.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct FamilyOptions {
  std::vector<std::string> members;
  std::optional<double> offset_hz;
  std::string range;
  int per_decade = 10;
  bool json = false;
};

FamilyMember member_of(const std::string& typed, int per_decade) {
  const auto sign = typed.find('=');
  if (sign == std::string::npos || sign == 0 || sign + 1 == typed.size())
    throw InputError("\u201c" + typed + "\u201d", "", "it is no setting with its file",
                     "Give them like \u201c1 mA\u201d=curve.csv");
  return {typed.substr(0, sign), read_noise(files_in(typed.substr(sign + 1)), per_decade)};
}

NoiseWeighting weighting_of(const FamilyOptions& o, const std::optional<NoisePivot>& pivot,
                            const std::vector<FamilyMember>& family) {
  NoiseWeighting w;
  if (!o.range.empty()) {
    w.kind = NoiseWeighting::Kind::integrated;
    std::tie(w.low_hz, w.high_hz) = range_from("--integrate", o.range);
    return w;
  }
  if (o.offset_hz || pivot) {
    w.offset_hz = o.offset_hz ? *o.offset_hz : pivot->offset_hz;
    return w;
  }
  // Without a pivot all that they share is what can be told.
  w.kind = NoiseWeighting::Kind::integrated;
  w.low_hz = family.front().curve.low_hz();
  w.high_hz = family.front().curve.high_hz();
  for (const FamilyMember& m : family) {
    w.low_hz = std::max(w.low_hz, m.curve.low_hz());
    w.high_hz = std::min(w.high_hz, m.curve.high_hz());
  }
  return w;
}

int run(const FamilyOptions& o) {
  std::vector<FamilyMember> family;
  for (const std::string& typed : o.members) family.push_back(member_of(typed, o.per_decade));
  if (family.size() < 2)
    throw InputError("family", "", "one curve is no family", "Give two settings at least");
  const std::vector<NoiseCrossing> crossings = crossings_of(family);
  const auto pivot = pivot_of(crossings);
  const NoiseWeighting weighting = weighting_of(o, pivot, family);
  std::optional<Figure> best;
  std::string setting;
  for (const FamilyMember& m : family) {
    const Figure f = weighted_noise(m.curve, weighting);
    if (best && f.value >= best->value) continue;
    best = f;
    setting = m.setting;
  }
  std::vector<std::string> files;
  for (const std::string& typed : o.members) files.push_back(typed.substr(typed.find('=') + 1));
  json out = common_json("phase-noise-family", files);
  out["crossings"] = json::array();
  for (const NoiseCrossing& c : crossings)
    out["crossings"].push_back({{"a", family[c.a].setting},
                                {"b", family[c.b].setting},
                                {"offset_hz", finite_or_null(c.offset_hz)},
                                {"u_hz", c.u_hz > 0.0 ? finite_or_null(c.u_hz) : json(nullptr)}});
  out["pivot_hz"] = pivot ? finite_or_null(pivot->offset_hz) : json(nullptr);
  out["pivot_u_hz"] = pivot && pivot->u_hz > 0.0 ? finite_or_null(pivot->u_hz) : json(nullptr);
  out["best"] = {
      {"setting", setting}, {"value", finite_or_null(best->value)}, {"unit", best->unit}};
  out["figures"].push_back(to_json(*best));
  for (const FamilyMember& m : family) add_remarks(out, m.curve.remarks);
  if (o.json) {
    print_json(out);
    return kDone;
  }
  for (const NoiseCrossing& c : crossings)
    fmt::print("{} and {} cross at {}\n", family[c.a].setting, family[c.b].setting,
               frequency_text(c.offset_hz));
  if (pivot) fmt::print("pivot {}\n", frequency_text(pivot->offset_hz));
  fmt::print("best: {}, {} {}\n", setting, number_text(best->value, best->unit == "rad" ? 5 : 1),
             best->unit);
  for (const FamilyMember& m : family) print_remarks(m.curve.remarks);
  return kDone;
}

}  // namespace

CommandRun add_noise_family_command(CLI::App& app) {
  auto o = std::make_shared<FamilyOptions>();
  CLI::App* c =
      app.add_subcommand("phase-noise-family", "Phase noise over a setting: where curves cross");
  c->add_option("members", o->members, "SETTING=FILE, two or more")->required();
  auto* offset = c->add_option("--offset", o->offset_hz, "Best at this offset, Hz")
                     ->check(CLI::PositiveNumber);
  c->add_option("--integrate", o->range, "Best over this range LO,HI")->excludes(offset);
  add_bins_option(*c, o->per_decade);
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron

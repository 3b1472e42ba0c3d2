#include <CLI/CLI.hpp>
#include <filesystem>
#include <fmt/format.h>
#include <memory>

#include "cli/output.h"
#include "cli/recording_options.h"
#include "cli/trace_file.h"
#include "core/chain/chain_json.h"
#include "core/method/purity/purity_lines.h"
#include "core/method/purity/purity_plot.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct PurityOptions {
  std::vector<std::string> files;
  double carrier_hz = 0.0;
  std::string mask = "generic";
  std::vector<double> centers_hz;
  std::optional<double> full_scale_dbm;
  std::optional<double> linearity_u_db;
  std::optional<double> power_dbm;
  std::string chain_file;
  std::string date;
  double start_s = 0.0;
  double length_s = 0.0;
  bool same_gain = false;
  bool fail_on_verdict = false;
  bool json = false;
};

Mask mask_named(const std::string& name, double carrier_hz) {
  if (name == "generic") return generic_mask(carrier_hz);
  if (name == "none") return {};
  constexpr std::uintmax_t kLargestMaskMb = 4;
  return parse_mask(read_text(name, kLargestMaskMb), name);
}

json line_json(const PurityLine& line, const PurityAnalysis& a) {
  const bool has_u = line.kind != LineKind::carrier && !line.is_bound;
  Figure absolute;
  absolute.contributions = line_contributions(line, 0.0);
  const bool has_dbm = a.is_absolute || (a.carrier_dbm && line.kind != LineKind::carrier);
  json out = {
      {"frequency_hz", line.frequency_hz},
      {"kind", line_kind_name(line.kind)},
      {"harmonic", line.harmonic > 0 ? json(line.harmonic) : json(nullptr)},
      {"level_dbc", line.level_dbc},
      {"level_dbm", has_dbm ? json(line.level_dbm) : json(nullptr)},
      {"level_u_db", has_u && has_dbm ? finite_or_null(absolute.u()) : json(nullptr)},
      {"as_read_dbm", a.is_absolute ? json(line.as_read_dbm) : json(nullptr)},
      {"correction_db", line.correction_db},
      {"u_db", has_u ? finite_or_null(line_figure(line).u()) : json(nullptr)},
      {"bound", line.is_bound ? json("upper") : json(nullptr)},
      {"limit_dbc", number_or_null(line.limit_dbc)},
      {"limit_is_absolute", line.limit_dbc && line.limit_carrier_share == 0.0},
      {"margin_db", line.judgement ? finite_or_null(line.judgement->margin) : json(nullptr)},
      {"verdict", line.judgement ? json(verdict_id(line.judgement->verdict)) : json(nullptr)}};
  if (!line.doubt.empty()) out["doubt"] = line.doubt;
  return out;
}

const char* why_text(Unjudged::Why why) {
  switch (why) {
    case Unjudged::Why::floor:
      return "floor";
    case Unjudged::Why::power:
      return "power";
    case Unjudged::Why::gap:
      return "gap";
    case Unjudged::Why::range:
      break;
  }
  return "range";
}

json to_contract(const PurityOptions& o, const PurityAnalysis& a) {
  json out = common_json("purity", o.files);
  const Result result = to_result(a);
  for (const Figure& f : result.figures) out["figures"].push_back(to_json(f));
  out["remarks"] = remarks_to_json(a.remarks);
  out["carrier_hz"] = a.carrier_hz;
  out["carrier_dbm"] = number_or_null(a.carrier_dbm);
  out["mask"] =
      a.mask.is_none() ? json(nullptr) : json({{"name", a.mask.name}, {"note", kOwnLicence}});
  out["lines"] = json::array();
  for (const PurityLine& line : a.lines) out["lines"].push_back(line_json(line, a));
  const PurityLine* worst = a.worst();
  const bool is_judged = worst != nullptr && worst->judgement.has_value();
  out["worst_margin_db"] = is_judged ? finite_or_null(worst->judgement->margin) : json(nullptr);
  if (is_judged) {
    const Limit limit{a.mask.name, Sense::at_most, *worst->limit_dbc, "dB", kReCarrier, 20.0};
    out["verdicts"].push_back(verdict_json(*worst->judgement, limit, line_figure(*worst).id));
    out["verdicts"].back()["overall"] = verdict_id(a.verdict());
  }
  out["verdict"] = a.mask.is_none() ? json(nullptr) : json(verdict_id(a.verdict()));
  out["unjudged"] = json::array();
  for (const Unjudged& u : a.unjudged)
    out["unjudged"].push_back(
        {{"from_hz", u.from_hz}, {"to_hz", u.to_hz}, {"why", why_text(u.why)}});
  out["filter"] = nullptr;
  const auto advice = advise_filter(a);
  if (const FilterAdvice* best = lowest_enough(advice))
    out["filter"] = {{"order", best->order},
                     {"ripple_db", kFilterRippleDb},
                     {"cutoff_hz", best->cutoff_hz},
                     {"worst_after_dbc", best->worst_after_dbc},
                     {"margin_db", best->margin_db}};
  return out;
}

void print_table(const PurityAnalysis& a) {
  const PurityLine* carrier = a.carrier();
  fmt::print("carrier {} MHz{}\n", number_text(carrier->frequency_hz / 1e6, 6),
             a.carrier_dbm ? ", " + number_text(*a.carrier_dbm, 2) + " dBm" : "");
  fmt::print("{:>14} {:<17} {:>10} {:>7} {:>9} {:>9}  {}\n", "MHz", "line", "dBc", "\u00b1 dB",
             "limit", "margin", "verdict");
  for (const PurityLine& line : a.lines) {
    if (line.kind == LineKind::carrier) continue;
    fmt::print("{:>14} {:<17} {:>10} {:>7} {:>9} {:>9}  {}\n",
               number_text(line.frequency_hz / 1e6, 6), line_name(line),
               (line.is_bound ? "\u2264 " : "") + number_text(line.level_dbc, 1),
               line.is_bound ? "" : number_text(line_figure(line).expanded(), 1),
               line.limit_dbc ? number_text(*line.limit_dbc, 1) : "",
               line.judgement ? number_text(line.judgement->margin, 1, true) : "",
               line.judgement ? verdict_word(line.judgement->verdict) : "");
  }
  if (!a.mask.is_none())
    fmt::print("{}; mask {}: {}\n", verdict_word(a.verdict()), a.mask.name, kOwnLicence);
  if (const auto card = filter_card(a)) fmt::print("{}\n", card->choices[card->shown].words);
  print_remarks(a.remarks);
}

PuritySource source_of(const PurityOptions& o, std::size_t index,
                       const std::optional<Chain>& chain) {
  const std::string& file = o.files[index];
  PurityReadingSettings settings;
  settings.carrier_hz = o.carrier_hz;
  if (is_trace(file)) return read_purity(read_trace(file), settings);
  const CaptureOpener open = capture_opener(file);
  const std::optional<double> own = open()->info().center_hz;
  settings.center_hz = index < o.centers_hz.size() ? o.centers_hz[index] : own.value_or(0.0);
  settings.full_scale_dbm = o.full_scale_dbm;
  settings.part = part_asked(o.start_s, o.length_s);
  if (chain && !settings.full_scale_dbm && recorder_of(*chain) != nullptr)
    settings.full_scale_dbm = recorder_of(*chain)->full_scale_dbm;
  return read_purity(open, settings, terminal_progress("analysing"));
}

int run(const PurityOptions& o) {
  if (o.fail_on_verdict && o.mask == "none") {
    fmt::print(stderr, "even-heron-cli: --fail-on-verdict needs a --mask to judge by\n");
    return kWrongUsage;
  }
  if (o.centers_hz.size() > o.files.size()) {
    fmt::print(stderr, "even-heron-cli: {} centres for {} recordings\n", o.centers_hz.size(),
               o.files.size());
    return kWrongUsage;
  }
  PuritySettings settings;
  settings.carrier_hz = o.carrier_hz;
  settings.mask = mask_named(o.mask, o.carrier_hz);
  settings.power_dbm = o.power_dbm;
  settings.linearity_u_db = o.linearity_u_db;
  settings.is_same_gain = o.same_gain;
  if (!o.chain_file.empty()) settings.chain = aged(read_chain(o.chain_file), o.date);
  std::vector<PuritySource> sources;
  for (std::size_t i = 0; i < o.files.size(); ++i)
    sources.push_back(source_of(o, i, settings.chain));
  const PurityAnalysis a = assess_purity(sources, settings);
  if (o.json)
    print_json(to_contract(o, a));
  else
    print_table(a);
  return o.fail_on_verdict && a.verdict() != Verdict::pass ? kVerdictNotPass : kDone;
}

}  // namespace

CommandRun add_purity_command(CLI::App& app) {
  auto o = std::make_shared<PurityOptions>();
  CLI::App* c = app.add_subcommand("purity", "Harmonics and spurious emissions against a mask");
  c->add_option("files", o->files, "Recordings (WAV, SigMF) or CSV traces of one carrier")
      ->required();
  c->add_option("--carrier", o->carrier_hz, "Radio frequency of the carrier, Hz")
      ->required()
      ->check(CLI::PositiveNumber);
  c->add_option("--mask", o->mask, "generic, none, or a mask file")->capture_default_str();
  c->add_option("--center", o->centers_hz, "Radio frequency at 0 Hz, one for each recording")
      ->delimiter(',');
  add_part_options(*c, o->start_s, o->length_s);
  c->add_option("--full-scale-dbm", o->full_scale_dbm,
                "Level of a full-scale sinusoid at the sampler input");
  c->add_option("--power-dbm", o->power_dbm, "The carrier at the device, instead of the measured");
  c->add_flag(
      "--same-gain", o->same_gain,
      "All recordings were made at one gain setting: one without the carrier is relative to the "
      "others\u2019");
  add_linearity_option(*c, o->linearity_u_db);
  c->add_option("--chain", o->chain_file, "Hook-up (chain file): levels are those at the device");
  c->add_option("--date", o->date,
                "Day of the recording, for the age of calibrations (2026-03-14)");
  c->add_flag("--fail-on-verdict", o->fail_on_verdict,
              "Exit status 4 unless everything in the mask was judged and passes");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron

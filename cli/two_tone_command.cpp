#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/output.h"
#include "cli/recording_options.h"
#include "cli/trace_file.h"
#include "core/chain/chain_json.h"
#include "core/error.h"
#include "core/method/measure/path_level.h"
#include "core/method/two_tone/refer_two_tone.h"
#include "core/method/two_tone/two_tone.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct TwoToneOptions {
  std::string file;
  std::vector<double> tones;
  int orders = 11;
  double start_s = 0.0;
  double length_s = 0.0;
  double carrier_hz = 0.0;
  std::optional<double> center_hz;
  std::optional<double> full_scale_dbm;
  std::optional<double> linearity_u_db;
  std::string chain_file;
  std::string date;
  std::optional<double> limit_db;
  std::string limit_relative = "pep";
  bool fail_on_verdict = false;
  bool json = false;
};

struct Judged {
  std::optional<Limit> limit;
  std::optional<Judgement> judgement;
};

Judged judged(const TwoToneOptions& o, const TwoToneAnalysis& a) {
  Judged j;
  if (!o.limit_db) return j;
  j.limit = Limit{"command line",
                  Sense::at_most,
                  *o.limit_db,
                  "dB",
                  o.limit_relative == "pep" ? kRePep : kReOneTone,
                  20.0};
  if (const TwoToneProduct* worst = a.worst())
    j.judgement = judge(product_figure(a, *worst, j.limit->convention), *j.limit);
  else
    j.judgement = Judgement{};
  return j;
}

/// With a level in dBm, that of the level; else that of its place on the recorder's scale.
double u_of_tone(const TwoToneAnalysis& a, const TestTone& tone,
                 const std::vector<Contribution>& path) {
  Figure level;
  level.contributions.push_back({a.noise_source, tone.u_db, Scope::independent});
  if (a.full_scale_dbm)
    level.contributions.insert(level.contributions.end(), path.begin(), path.end());
  return level.u();
}

json to_contract(const TwoToneOptions& o, const TwoToneAnalysis& a, const Judged& j,
                 const std::vector<Contribution>& path) {
  json out = common_json("two-tone", {o.file});
  const auto center = o.center_hz ? o.center_hz : a.capture.center_hz;
  const auto with_rf = [&](json entry, double frequency) {
    if (center) entry["rf_hz"] = *center + frequency;
    return entry;
  };
  const auto dbm = [&](double dbfs) {
    return a.full_scale_dbm ? json(dbfs + *a.full_scale_dbm) : json(nullptr);
  };
  const bool has_products = !a.products.empty();
  const TwoToneProduct* worst = a.worst();
  out["sample_rate_hz"] = a.capture.sample_rate_hz;
  out["rbw_hz"] = a.rbw_hz;
  out["window"] = a.window;
  out["averages"] = a.averages;
  out["drift_hz"] = a.drift_hz;
  out["peak_dbfs"] = a.peak_dbfs;
  out["tones"] = json::array();
  for (const TestTone& t : a.tones) {
    out["tones"].push_back(with_rf({{"frequency_hz", t.frequency_hz},
                                    {"u_hz", finite_or_null(t.u_frequency_hz)},
                                    {"level_dbfs", t.level_dbfs},
                                    {"level_dbm", dbm(t.level_dbfs)},
                                    {"u_db", finite_or_null(u_of_tone(a, t, path))}},
                                   t.frequency_hz));
  }
  const bool has_pair = a.tones.size() == 2;
  out["pep_dbfs"] = has_pair ? json(a.pep_dbfs) : json(nullptr);
  out["pep_dbm"] = has_pair ? dbm(a.pep_dbfs) : json(nullptr);
  out["products"] = json::array();
  for (const TwoToneProduct& p : a.products) {
    out["products"].push_back(
        with_rf({{"order", p.order},
                 {"side", p.side == Side::lower ? "lower" : "upper"},
                 {"frequency_hz", p.frequency_hz},
                 {"level_dbc", p.level_dbc},
                 {"level_db_pep", p.level_db_pep},
                 {"u_db", p.is_bound ? json(nullptr) : json(product_figure(a, p, kReOneTone).u())},
                 {"bound", p.is_bound ? json("upper") : json(nullptr)},
                 {"floor_dbc", p.floor_dbc}},
                p.frequency_hz));
  }
  out["worst_dbc"] = worst != nullptr ? json(worst->level_dbc) : json(nullptr);
  out["worst_db_pep"] = worst != nullptr ? json(worst->level_db_pep) : json(nullptr);
  out["worst_order"] = worst != nullptr ? json(worst->order) : json(nullptr);
  out["carrier_dbc"] = has_products && a.carrier_dbc ? json(*a.carrier_dbc) : json(nullptr);
  out["carrier_db_pep"] =
      has_products && a.carrier_dbc ? json(*a.carrier_dbc - a.pep_over_tone_db()) : json(nullptr);
  out["usable_dynamic_range_db"] =
      a.usable_dynamic_range_db ? json(*a.usable_dynamic_range_db) : json(nullptr);
  for (const char* convention : {kReOneTone, kRePep}) {
    for (Figure f : to_result(a, convention).figures) {
      if (f.unit == "dBm") f.contributions.insert(f.contributions.end(), path.begin(), path.end());
      if (f.id.starts_with("im") || f.id == "worst" || convention == kRePep)
        out["figures"].push_back(to_json(f));
    }
  }
  add_part(out, a.parts);
  out["remarks"] = remarks_to_json(a.remarks);
  if (j.judgement) out["verdicts"].push_back(verdict_json(*j.judgement, *j.limit, "worst"));
  return out;
}

void print_table(const TwoToneAnalysis& a, const Judged& j) {
  if (a.window == kAnalyserWindow)
    fmt::print("{}, {}, RBW noise bandwidth {}\n", a.capture.name, a.capture.format,
               engineering_text(a.rbw_hz, "Hz", 3));
  else
    fmt::print("{}, {}, {:.1f} s at {}\n", a.capture.name, a.capture.format, a.capture.duration_s(),
               engineering_text(a.capture.sample_rate_hz, "Hz"));
  for (const TestTone& t : a.tones) {
    fmt::print("tone  {:>12} Hz  {:>8} dBFS\n", number_text(t.frequency_hz, 2),
               number_text(t.level_dbfs, 2));
  }
  if (!a.products.empty()) {
    fmt::print("\n{:<12} {:>12} {:>14} {:>12} {:>8}\n", "product", "Hz", "dB one tone", "dB PEP",
               "\u00b1 dB");
    for (const TwoToneProduct& p : a.products) {
      const std::string mark = p.is_bound ? "\u2264 " : "";
      fmt::print("{:<12} {:>12} {:>14} {:>12} {:>8}\n", product_name(p),
                 number_text(p.frequency_hz, 1), mark + number_text(p.level_dbc, 2),
                 mark + number_text(p.level_db_pep, 2),
                 p.is_bound ? "" : number_text(product_figure(a, p, kRePep).expanded(), 2));
    }
    const TwoToneProduct* worst = a.worst();
    fmt::print("\nworst: {}, {} dB re one tone, {} dB re PEP\n", product_name(*worst),
               number_text(worst->level_dbc, 2), number_text(worst->level_db_pep, 2));
  }
  if (j.judgement)
    fmt::print("limit {} {}: {}\n", limit_text(*j.limit), j.limit->convention,
               verdict_word(j.judgement->verdict));
  print_remarks(a.remarks);
}

/// A trace's frequencies are radio frequencies, and so are those of the capture unless --center
/// says what is at 0 Hz.
void move_center(TwoToneAnalysis& a, double center_hz) {
  const double shift = *a.capture.center_hz - center_hz;
  for (TestTone& t : a.tones) t.frequency_hz += shift;
  for (TwoToneProduct& p : a.products) p.frequency_hz += shift;
  a.carrier_hz += shift;
  a.capture.center_hz = center_hz;
}

/// Refers to the device where there is a hook-up, judges, prints.
int report(const TwoToneOptions& o, TwoToneAnalysis a, const std::optional<Chain>& chain) {
  std::vector<Contribution> path{{kAssumedLevel, kAssumedU, Scope::common}};
  if (chain) {
    const bool knows = is_trace(o.file) || !o.center_hz;
    const double center = knows ? a.capture.center_hz.value_or(0.0) : *o.center_hz;
    a = refer_to_device(a, *chain, center);
    path = level_contributions(*chain, center);
  }
  set_linearity(a, recorder_linearity(o.linearity_u_db, chain ? &*chain : nullptr),
                chain.has_value());
  if (is_trace(o.file)) move_center(a, o.center_hz.value_or(0.0));
  const Judged j = judged(o, a);
  if (o.json)
    print_json(to_contract(o, a, j, path));
  else
    print_table(a, j);
  const bool passed = j.judgement && j.judgement->verdict == Verdict::pass;
  return o.fail_on_verdict && j.limit && !passed ? kVerdictNotPass : kDone;
}

TwoToneAnalysis analyse_file_trace(const TwoToneOptions& o) {
  const double center = o.center_hz.value_or(0.0);
  TraceSettings settings;
  if (!o.tones.empty()) settings.tones_hz = std::pair(o.tones[0] + center, o.tones[1] + center);
  if (o.center_hz || o.carrier_hz != 0.0) settings.carrier_hz = o.carrier_hz + center;
  settings.highest_order = o.orders;
  return analyse_trace(read_trace(o.file), settings);
}

int run(const TwoToneOptions& o) {
  if (o.fail_on_verdict && !o.limit_db) {
    fmt::print(stderr, "even-heron-cli: --fail-on-verdict needs a --limit to judge by\n");
    return kWrongUsage;
  }
  TwoToneSettings settings;
  if (!o.tones.empty()) settings.tones_hz = std::pair(o.tones[0], o.tones[1]);
  settings.highest_order = o.orders;
  settings.carrier_hz = o.carrier_hz;
  settings.full_scale_dbm = o.full_scale_dbm;
  std::optional<Chain> chain;
  if (!o.chain_file.empty()) chain = aged(read_chain(o.chain_file), o.date);
  TwoToneAnalysis a;
  if (is_trace(o.file)) {
    if (o.start_s != 0.0 || o.length_s != 0.0) {
      fmt::print(stderr,
                 "even-heron-cli: a trace has no time: --start and --length do not apply\n");
      return kWrongUsage;
    }
    a = analyse_file_trace(o);
    return report(o, a, chain);
  }
  const CaptureOpener open = capture_opener(o.file);
  if (chain) {
    if (depends_on_frequency(*chain) && !o.center_hz && !open()->info().center_hz) {
      fmt::print(stderr,
                 "even-heron-cli: --chain needs --center: the recording does not say which radio "
                 "frequency is at 0 Hz\n");
      return kWrongUsage;
    }
  }
  settings.part = part_asked(o.start_s, o.length_s);
  if (chain && !settings.full_scale_dbm && recorder_of(*chain) != nullptr)
    settings.full_scale_dbm = recorder_of(*chain)->full_scale_dbm;
  a = analyse_two_tone(open, settings, terminal_progress("analysing"));
  return report(o, a, chain);
}

}  // namespace

CommandRun add_two_tone_command(CLI::App& app) {
  auto o = std::make_shared<TwoToneOptions>();
  CLI::App* c = app.add_subcommand("two-tone", "Intermodulation products of a two-tone recording");
  c->add_option("file", o->file, "WAV, SigMF, or a CSV trace")->required();
  c->add_option("--tones", o->tones, "F1,F2 in capture frequencies, Hz (default: found)")
      ->expected(2)
      ->delimiter(',');
  c->add_option("--orders", o->orders, "Highest order")
      ->check(CLI::IsMember({3, 5, 7, 9, 11, 13, 15}))
      ->capture_default_str();
  add_part_options(*c, o->start_s, o->length_s);
  c->add_option("--carrier", o->carrier_hz, "Suppressed carrier, capture frequency, Hz")
      ->capture_default_str();
  c->add_option("--center", o->center_hz, "Radio frequency at 0 Hz");
  c->add_option("--full-scale-dbm", o->full_scale_dbm,
                "Level of a full-scale sinusoid at the sampler input");
  add_linearity_option(*c, o->linearity_u_db);
  c->add_option("--chain", o->chain_file, "Hook-up (chain file): levels are those at the device");
  c->add_option("--date", o->date,
                "Day of the recording, for the age of calibrations (2026-03-14)");
  c->add_option("--limit", o->limit_db, "Worst product allowed, dB");
  c->add_option("--limit-relative", o->limit_relative, "The limit is relative to")
      ->check(CLI::IsMember({"pep", "one-tone"}))
      ->capture_default_str();
  c->add_flag("--fail-on-verdict", o->fail_on_verdict, "Exit status 4 unless the verdict is pass");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron

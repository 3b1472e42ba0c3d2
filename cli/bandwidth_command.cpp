#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/output.h"
#include "cli/recording_options.h"
#include "core/method/result_json.h"
#include "core/method/spread/bandwidth.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct BandwidthOptions {
  std::string file;
  BandwidthSettings settings;
  std::string hold = "average";
  std::vector<double> search;
  std::optional<double> limit_hz;
  double start_s = 0.0;
  double length_s = 0.0;
  std::optional<double> linearity_u_db;
  bool fail_on_verdict = false;
  bool json = false;
};

json to_contract(const BandwidthOptions& o, const BandwidthAnalysis& a) {
  json out = common_json("bandwidth", {o.file});
  const Result result = to_result(a);
  for (const Figure& f : result.figures) out["figures"].push_back(to_json(f));
  out["remarks"] = remarks_to_json(a.remarks);
  add_part(out, a.parts);
  out["hold"] = o.hold;
  out["fraction"] = a.fraction;
  out["rbw_hz"] = a.rbw_hz;
  out["averages"] = a.averages;
  const auto of = [](const std::optional<WidthAtLevel>& w, double (*get)(const WidthAtLevel&)) {
    return w ? finite_or_null(get(*w)) : json(nullptr);
  };
  const auto width = [](const WidthAtLevel& w) { return w.width_hz(); };
  const auto low = [](const WidthAtLevel& w) { return w.lower_hz; };
  const auto high = [](const WidthAtLevel& w) { return w.upper_hz; };
  const auto u = [](const WidthAtLevel& w) { return w.u_hz; };
  out["occupied_bandwidth_hz"] = of(a.occupied, width);
  out["lower_hz"] = of(a.occupied, low);
  out["upper_hz"] = of(a.occupied, high);
  out["u_hz"] = of(a.occupied, u);
  out["bound"] = a.occupied && a.occupied->is_cut ? json("lower") : json(nullptr);
  out["x26_hz"] = of(a.x26, width);
  out["x26_lower_hz"] = of(a.x26, low);
  out["x26_upper_hz"] = of(a.x26, high);
  out["x26_u_hz"] = of(a.x26, u);
  out["channel_hz"] = a.occupied ? json(a.channel_hz) : json(nullptr);
  out["channel_middle_hz"] = a.occupied ? json(a.channel_middle_hz) : json(nullptr);
  out["acpr"] = json::array();
  for (const AdjacentPower& p : a.adjacent) {
    out["acpr"].push_back(
        {{"offset_hz", p.offset_hz},
         {"width_hz", p.width_hz},
         {"ratio_db", p.ratio_db},
         {"u_db",
          p.is_bound ? json(nullptr) : finite_or_null(adjacent_figure(p, a.hold, a.linearity).u())},
         {"bound", p.is_bound ? json("upper") : json(nullptr)}});
  }
  return out;
}

void print_table(const BandwidthAnalysis& a) {
  fmt::print("{}, {:.1f} s, {}, RBW {}\n", a.capture.name, a.capture.duration_s(),
             hold_name(a.hold), engineering_text(a.rbw_hz, "Hz", 3));
  const auto line = [](const std::string& name, const std::optional<WidthAtLevel>& w) {
    if (w)
      fmt::print("{:<18} {:>10} Hz  \u00b1 {} Hz   {} to {} Hz\n", name,
                 (w->is_cut ? "\u2265 " : "") + number_text(w->width_hz(), 0),
                 number_text(2.0 * w->u_hz, 0), number_text(w->lower_hz, 0),
                 number_text(w->upper_hz, 0));
  };
  line(fmt::format("{:g} % bandwidth", 100.0 * a.fraction), a.occupied);
  line("\u221226 dB bandwidth", a.x26);
  for (const AdjacentPower& p : a.adjacent)
    fmt::print("power at {:>7} Hz in {} Hz: {}{} dB re channel\n",
               number_text(p.offset_hz, 0, true), number_text(p.width_hz, 0),
               p.is_bound ? "\u2264 " : "", number_text(p.ratio_db, 1));
  print_remarks(a.remarks);
}

int run(const BandwidthOptions& given) {
  BandwidthOptions o = given;
  if (o.fail_on_verdict && !o.limit_hz) {
    fmt::print(stderr, "even-heron-cli: --fail-on-verdict needs a --limit to judge by\n");
    return kWrongUsage;
  }
  o.settings.hold = o.hold == "max" ? Hold::max : Hold::average;
  if (!o.search.empty()) o.settings.search_hz = std::pair(o.search[0], o.search[1]);
  o.settings.part = part_asked(o.start_s, o.length_s);
  BandwidthAnalysis a =
      analyse_bandwidth(capture_opener(o.file), o.settings, terminal_progress("analysing"));
  if (!a.adjacent.empty()) {
    a.linearity = recorder_linearity(o.linearity_u_db, nullptr);
    add_linearity_remark(a.remarks, a.linearity, false);
    sort_remarks(a.remarks);
  }
  std::optional<Limit> limit;
  Judgement judgement;
  if (o.limit_hz) {
    limit = Limit{"command line", Sense::at_most, *o.limit_hz, "Hz", hold_name(a.hold), 1000.0};
    if (const Result result = to_result(a); const Figure* headline = result.headline())
      judgement = judge(*headline, *limit);
  }
  if (o.json) {
    json out = to_contract(o, a);
    if (limit) out["verdicts"].push_back(verdict_json(judgement, *limit, "occupied_bandwidth"));
    print_json(out);
  } else {
    print_table(a);
    if (limit) fmt::print("limit {}: {}\n", limit_text(*limit), verdict_word(judgement.verdict));
  }
  const bool passed = judgement.verdict == Verdict::pass;
  return o.fail_on_verdict && !passed ? kVerdictNotPass : kDone;
}

}  // namespace

CommandRun add_bandwidth_command(CLI::App& app) {
  auto o = std::make_shared<BandwidthOptions>();
  CLI::App* c = app.add_subcommand("bandwidth", "Occupied bandwidth and adjacent-channel power");
  c->add_option("file", o->file, "WAV or SigMF")->required();
  c->add_option("--fraction", o->settings.fraction, "Share of the power inside")
      ->capture_default_str();
  c->add_option("--hold", o->hold, "average or max")
      ->check(CLI::IsMember({"average", "max"}))
      ->capture_default_str();
  c->add_option("--range", o->search, "LO,HI: use only this part, capture frequencies, Hz")
      ->expected(2)
      ->delimiter(',');
  add_part_options(*c, o->start_s, o->length_s);
  c->add_option("--channel", o->settings.channel_hz,
                "Width of the channel, Hz (default: the occupied bandwidth)");
  c->add_option(
      "--middle", o->settings.middle_hz,
      "Centre of the channel, capture frequency, Hz (default: that of the occupied bandwidth)");
  c->add_option("--offsets", o->settings.offsets_hz,
                "F,F: centres of the adjacent channels; both sides unless one is negative")
      ->delimiter(',');
  c->add_option("--adjacent", o->settings.adjacent_hz, "Width of the adjacent channels, Hz");
  add_linearity_option(*c, o->linearity_u_db);
  c->add_option("--limit", o->limit_hz, "Occupied bandwidth allowed, Hz");
  c->add_flag("--fail-on-verdict", o->fail_on_verdict, "Exit status 4 unless the verdict is pass");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron

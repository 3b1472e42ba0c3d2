#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/output.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_level.h"
#include "report/json.h"

namespace heron {
namespace {

struct LevelOptions {
  std::string text;
  double impedance = 50.0;
  bool emf = false;
  bool json = false;
};

int run(const LevelOptions& o) {
  LevelInputOptions input;
  input.impedance = Ohm{o.impedance};
  input.volts_are_emf = o.emf;
  const TypedLevel typed = parse_level(o.text, input);
  const Watt watt = to_watt(typed.level);
  const VoltPd pd = to_pd(watt, typed.impedance);
  if (o.json) {
    nlohmann::json out = common_json("level", {});
    out["typed"] = o.text;
    out["impedance_ohm"] = typed.impedance.value;
    out["dbm"] = typed.level.value;
    out["watt"] = watt.value;
    out["v_rms"] = pd.value;
    out["v_peak"] = peak_volts(pd);
    out["v_pp"] = peak_to_peak_volts(pd);
    out["v_emf"] = to_emf(pd).value;
    out["dbuv"] = dbuv(pd);
    out["s_units_hf"] = s_units_text(typed.level);
    print_json(out);
    return kDone;
  }
  fmt::print("{:<14}{} dBm\n{:<14}{}\n", "power", number_text(typed.level.value, 3), "",
             engineering_text(watt.value, "W", 5));
  fmt::print("{:<14}{} in {}\n", "RMS", engineering_text(pd.value, "V", 5),
             engineering_text(o.impedance, "\u03a9", 4));
  fmt::print("{:<14}{}\n{:<14}{}\n", "peak", engineering_text(peak_volts(pd), "V", 5),
             "peak to peak", engineering_text(peak_to_peak_volts(pd), "V", 5));
  fmt::print("{:<14}{}\n{:<14}{} dB\u00b5V\n", "EMF", engineering_text(to_emf(pd).value, "V", 5),
             "", number_text(dbuv(pd), 3));
  fmt::print("{:<14}{}\n", "below 30 MHz", s_units_text(typed.level));
  return kDone;
}

}  // namespace

CommandRun add_level_command(CLI::App& app) {
  auto o = std::make_shared<LevelOptions>();
  CLI::App* command = app.add_subcommand("level", "One level in every unit");
  // A level may begin with a minus sign, which is no option.
  command
      ->add_option("value", o->text,
                   "Such as \"12.7 mVrms\", \"-73 dBm\", \"30 W\", \"0.32 uV emf\", \"S9+10\"")
      ->required();
  command->add_option("--impedance", o->impedance, "Ohms")
      ->check(CLI::PositiveNumber)
      ->capture_default_str();
  command->add_flag("--emf", o->emf, "Volts are open-circuit volts (EMF)");
  command->add_flag("--json", o->json, "One JSON object");
  command->prefix_command(false);
  return [o] { return run(*o); };
}

}  // namespace heron

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/output.h"
#include "core/quantity/format.h"
#include "core/signal/stimulus.h"
#include "core/signal/write_wav.h"
#include "report/json.h"

namespace heron {
namespace {

struct MakeSignalOptions {
  std::string kind;
  std::string file;
  StimulusSettings settings;
  std::vector<double> band{300.0, 2700.0};
  std::vector<double> notch{1250.0, 1750.0};
  bool json = false;
};

int run(MakeSignalOptions o) {
  o.settings.kind = stimulus_from_id(o.kind);
  o.settings.band_hz = {o.band[0], o.band[1]};
  o.settings.notch_hz = {o.notch[0], o.notch[1]};
  const Stimulus made = make_stimulus(o.settings);
  write_wav(made, o.file);
  if (o.json) {
    nlohmann::json out = common_json("make-signal", {});
    out["path"] = o.file;
    out["kind"] = o.kind;
    out["rate_hz"] = made.rate_hz;
    out["bits"] = made.bits;
    out["seconds"] = static_cast<double>(made.samples.size()) / made.rate_hz;
    out["crest_factor_db"] = made.crest_factor_db;
    out["rms_dbfs"] = made.rms_dbfs;
    out["peak_dbfs"] = made.peak_dbfs;
    out["remarks"].push_back(
        {{"code", "signal_path"}, {"severity", "note"}, {"text", stimulus_path_advice()}});
    print_json(out);
    return kDone;
  }
  fmt::print("{}: {}, {:.1f} s, {} bit at {}\n", o.file, o.kind,
             static_cast<double>(made.samples.size()) / made.rate_hz, made.bits,
             engineering_text(made.rate_hz, "Hz"));
  fmt::print("peak {} dBFS, RMS {} dBFS, crest factor {} dB\n", number_text(made.peak_dbfs, 2),
             number_text(made.rms_dbfs, 2), number_text(made.crest_factor_db, 2));
  fmt::print("{}\n", stimulus_path_advice());
  return kDone;
}

}  // namespace

CommandRun add_make_signal_command(CLI::App& app) {
  auto o = std::make_shared<MakeSignalOptions>();
  CLI::App* c = app.add_subcommand("make-signal", "A test signal for playing into a transmitter");
  c->add_option("kind", o->kind, "tone, two-tone, notched-noise or speech-noise")
      ->required()
      ->check(CLI::IsMember({"tone", "two-tone", "notched-noise", "speech-noise"}));
  c->add_option("file", o->file, "WAV file to write")->required();
  c->add_option("--tones", o->settings.tones_hz, "F or F1,F2 in Hz (default 1000; 650,1850)")
      ->expected(1, 2)
      ->delimiter(',');
  c->add_option("--rate", o->settings.rate_hz, "Sample rate, Hz")->capture_default_str();
  c->add_option("--bits", o->settings.bits, "16 or 24")
      ->check(CLI::IsMember({16, 24}))
      ->capture_default_str();
  c->add_option("--seconds", o->settings.seconds, "Length, s")->capture_default_str();
  c->add_option("--headroom-db", o->settings.headroom_db, "Highest sample below full scale, dB")
      ->capture_default_str();
  c->add_option("--passband", o->band, "LO,HI of the noises, Hz")->expected(2)->delimiter(',');
  c->add_option("--notch", o->notch, "LO,HI without noise, Hz")->expected(2)->delimiter(',');
  c->add_option("--seed", o->settings.seed, "The same seed makes the same noise")
      ->capture_default_str();
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron

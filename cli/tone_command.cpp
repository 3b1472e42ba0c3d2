#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/output.h"
#include "core/method/measure/heard_tone.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct ToneOptions {
  std::string file;
  std::optional<double> near_hz;
  double segment_s = 0.0;
  bool json = false;
};

int run(const ToneOptions& o) {
  const HeardTones heard = hear_tone(capture_opener(o.file), {o.near_hz, o.segment_s});
  if (!o.json) {
    for (const HeardTone& t : heard.tones)
      fmt::print("{:>9} s  {:.4f} \u00b1 {:.2g} Hz  {} dBFS  {} dB in 1 Hz\n",
                 number_text(t.start_s, 1), t.frequency_hz, 2.0 * t.u_hz,
                 number_text(t.level_dbfs, 1), number_text(t.snr_db_hz, 1));
    print_remarks(heard.remarks);
    return kDone;
  }
  json out = common_json("tone", {o.file});
  json tones = json::array();
  for (const HeardTone& t : heard.tones)
    tones.push_back({{"start_s", t.start_s},
                     {"frequency_hz", t.frequency_hz},
                     {"u_hz", t.u_hz},
                     {"level_dbfs", t.level_dbfs},
                     {"snr_db", t.snr_db},
                     {"snr_db_hz", t.snr_db_hz}});
  out["tones"] = tones;
  add_remarks(out, heard.remarks);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_tone_command(CLI::App& app) {
  auto o = std::make_shared<ToneOptions>();
  CLI::App* c = app.add_subcommand("tone", "Frequency and level of the tone in a recording");
  c->add_option("file", o->file, "WAV or SigMF")->required();
  c->add_option("--near", o->near_hz, "Look round this frequency only, Hz");
  c->add_option("--segment", o->segment_s,
                "Length of one part, s; the whole recording unless given")
      ->check(CLI::PositiveNumber);
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron

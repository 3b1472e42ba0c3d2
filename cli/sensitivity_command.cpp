#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <memory>

#include "cli/csv_cell.h"
#include "cli/frequency_output.h"
#include "cli/level_cell.h"
#include "cli/output.h"
#include "core/chain/chain_json.h"
#include "core/error.h"
#include "core/method/measure/path_level.h"
#include "core/method/receiver/receiver_audio.h"
#include "core/method/receiver/sensitivity.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_level.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct SensitivityOptions {
  std::string file;
  std::string noise;
  std::string signal;
  std::string level;
  std::string chain;
  std::optional<double> frequency_hz;
  std::optional<double> bandwidth_hz;
  double u_level_db = 0.5;
  bool fail_on_verdict = false;
  bool json = false;
};

double microvolts(const Figure& level, bool is_emf) {
  const VoltPd pd = to_pd(to_watt(Dbm{level.value}));
  return 1e6 * (is_emf ? to_emf(pd).value : pd.value);
}

/// A level as the source states it, at the receiver: through what lies between.
Figure input_level(double source_dbm, double u_db, const std::optional<Chain>& chain,
                   std::optional<double> frequency_hz, const std::string& where) {
  Figure f;
  f.id = "input";
  f.label = "Input";
  f.unit = "dBm";
  f.value = source_dbm;
  f.contributions = {{"generator", u_db, Scope::common}};
  if (!chain) return f;
  if (!frequency_hz)
    throw InputError(where, "", "its frequency is not known, and the chain depends on it",
                     "Give frequency_hz, or --frequency");
  f.value += total_gain_db(*chain, *frequency_hz);
  for (Contribution& c : level_contributions(*chain, *frequency_hz))
    f.contributions.push_back(std::move(c));
  return f;
}

json row_json(const SensitivityRow& r, const SensitivityReading& in) {
  json row;
  row["frequency_hz"] = number_or_null(r.frequency_hz);
  row["level_dbm"] = in.level ? finite_or_null(in.level->value) : json(nullptr);
  row["sn_n_db"] = r.sn_db ? number_or_null(r.sn_n_db) : json(nullptr);
  row["sn_db"] = number_or_null(r.sn_db);
  const bool has = r.sn_db && r.for_ten_db;
  row["level_for_10db_dbm"] = has ? finite_or_null(r.for_ten_db->value) : json(nullptr);
  row["level_for_10db_uv_pd"] =
      has ? finite_or_null(microvolts(*r.for_ten_db, false)) : json(nullptr);
  row["level_for_10db_uv_emf"] =
      has ? finite_or_null(microvolts(*r.for_ten_db, true)) : json(nullptr);
  row["mds_dbm"] = value_or_null(r.mds);
  row["nf_db"] = value_or_null(r.noise_figure);
  row["u_db"] = has ? finite_or_null(r.for_ten_db->u()) : json(nullptr);
  return row;
}

void print_row(const SensitivityRow& r) {
  const std::string where = r.frequency_hz ? fmt::format("{} MHz", *r.frequency_hz / 1e6) : r.label;
  if (!r.sn_db || !r.for_ten_db) {
    fmt::print("{}: {}\n", where, r.refusal.empty() ? "nothing heard" : r.refusal);
    return;
  }
  fmt::print("{}: (S+N)/N {} dB, {} for 10 dB, MDS {} dBm{}\n", where, number_text(*r.sn_n_db, 1),
             figure_text(*r.for_ten_db), number_text(r.mds->value, 1),
             r.noise_figure ? ", NF " + number_text(r.noise_figure->value, 1) + " dB" : "");
}

int finish(const SensitivityOptions& o, const std::vector<SensitivityReading>& readings,
           const std::vector<SensitivityRow>& rows, const std::vector<std::string>& inputs,
           const json& more, const std::vector<Remark>& own) {
  std::vector<Remark> remarks = own;
  bool passed = true;
  bool has_any = false;
  json out = common_json("sensitivity", inputs);
  out["rows"] = json::array();
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const SensitivityRow& r = rows[i];
    remarks.insert(remarks.end(), r.remarks.begin(), r.remarks.end());
    json row = row_json(r, readings[i]);
    row.update(more);
    out["rows"].push_back(std::move(row));
    has_any = has_any || r.sn_db.has_value();
    if (r.for_ten_db && r.sn_db) out["figures"].push_back(to_json(*r.for_ten_db));
    if (r.judgement) {
      out["verdicts"].push_back(verdict_json(*r.judgement, *r.limit, "sensitivity"));
      passed = passed && r.judgement->verdict == Verdict::pass;
    } else {
      passed = false;
    }
  }
  if (!has_any)
    throw InputError(inputs.front(), "",
                     rows.empty() ? "it holds no reading" : rows.front().refusal,
                     remarks.empty() || remarks.front().action.empty()
                         ? "Read the audio without and with the signal"
                         : remarks.front().action);
  if (o.json) {
    add_remarks(out, remarks);
    print_json(out);
  } else {
    for (const SensitivityRow& r : rows) print_row(r);
    if (more.contains("sinad_db") && more["sinad_db"].is_number())
      fmt::print("SINAD {} dB, tone {} Hz, noise bandwidth {} Hz\n",
                 number_text(more["sinad_db"].get<double>(), 1),
                 number_text(more["tone_hz"].get<double>(), 1),
                 number_text(more["bandwidth_hz"].get<double>(), 0));
    print_remarks(remarks);
  }
  return o.fail_on_verdict && !passed ? kVerdictNotPass : kDone;
}

int run_table(const SensitivityOptions& o) {
  const CsvTable table = table_of(o.file);
  for (const char* head : {"level", "audio_off", "audio_on"})
    if (!table.column(head))
      throw InputError(table.name, "line 1", std::string("it has no column ") + head,
                       "Begin it with frequency_hz,level,level_unit,audio_off,audio_on,audio_unit");
  std::optional<Chain> chain;
  if (!o.chain.empty()) chain = read_chain(o.chain);
  std::vector<SensitivityReading> readings;
  std::vector<SensitivityRow> rows;
  for (const CsvTable::Row& row : table.rows) {
    SensitivityPlan plan;
    SensitivityReading in;
    in.label = fmt::format("line {}", row.line);
    in.frequency_hz = number_cell(table, row, "frequency_hz");
    const std::string unit = CsvTable::cell(row, table.column("audio_unit"));
    if (!unit.empty() && unit != "dB" && unit != "mV")
      refuse_cell(table, row, "audio_unit", "\u201c" + unit + "\u201d is none", "Use dB or mV");
    const std::string meter = CsvTable::cell(row, table.column("meter"));
    if (!meter.empty() && meter != "true-rms" && meter != "average")
      refuse_cell(table, row, "meter", "\u201c" + meter + "\u201d is none",
                  "Use true-rms or average");
    if (meter == "average") plan.meter = AudioMeter::average;
    const double u_audio = number_cell(table, row, "u_audio_db").value_or(0.1);
    const double u_level = number_cell(table, row, "u_level_db").value_or(o.u_level_db);
    if (u_audio < 0.0) refuse_cell(table, row, "u_audio_db", "it is below 0");
    if (u_level < 0.0) refuse_cell(table, row, "u_level_db", "it is below 0");
    plan.u_audio_db = u_audio;
    const auto level = level_cell(table, row, "level", "level_unit");
    if (!level) refuse_cell(table, row, "level", "it is empty", "Fill it in");
    in.level = input_level(*level, u_level, chain, in.frequency_hz, in.label);
    const auto audio = [&](const char* head) -> std::optional<AudioLevel> {
      const auto value = number_cell(table, row, head);
      if (!value) return std::nullopt;
      return read_cell(table, row, head, [&] { return audio_level({*value}, unit == "dB"); });
    };
    in.off = audio("audio_off");
    in.on = audio("audio_on");
    in.bandwidth_hz = number_cell(table, row, "bandwidth_hz");
    if (o.bandwidth_hz) in.bandwidth_hz = o.bandwidth_hz;
    if (in.bandwidth_hz && !(*in.bandwidth_hz > 0.0))
      refuse_cell(table, row, "bandwidth_hz", "it is not above 0");
    in.specified_dbm = level_cell(table, row, "spec_level", "spec_unit");
    rows.push_back(sensitivity_of(in, plan));
    // A file has one reading each; that is known.
    std::erase_if(rows.back().remarks, [](const Remark& r) { return r.code == "one_reading"; });
    readings.push_back(std::move(in));
  }
  return finish(o, readings, rows, {o.file}, json::object(), {});
}

int run_recordings(const SensitivityOptions& o) {
  const auto audio_of = [](const std::string& path) {
    return receiver_audio(capture_opener(path), terminal_progress(path));
  };
  const ReceiverAudio noise = audio_of(o.noise);
  const ReceiverAudio signal = audio_of(o.signal);
  const HeardRatio heard = heard_ratio(noise, signal);
  std::optional<Chain> chain;
  if (!o.chain.empty()) chain = read_chain(o.chain);
  SensitivityReading in;
  in.label = signal.name;
  in.frequency_hz = o.frequency_hz;
  in.level =
      input_level(parse_level(o.level).level.value, o.u_level_db, chain, o.frequency_hz, "--level");
  AudioLevel off;
  off.count = 2;
  AudioLevel on = off;
  on.db = heard.sn_n_db;
  on.u_db = heard.u_db;
  in.off = off;
  in.on = on;
  in.bandwidth_hz = o.bandwidth_hz.value_or(heard.bandwidth_hz);
  SensitivityPlan plan;
  plan.u_audio_db = 0.0;  // one recorder, one setting: only noise moves it
  const json more{{"sinad_db", number_or_null(heard.sinad_db)},
                  {"tone_hz", number_or_null(heard.tone_hz)},
                  {"bandwidth_hz", finite_or_null(*in.bandwidth_hz)}};
  return finish(o, {in}, {sensitivity_of(in, plan)}, {o.noise, o.signal}, more, heard.remarks);
}

}  // namespace

CommandRun add_sensitivity_command(CLI::App& app) {
  auto o = std::make_shared<SensitivityOptions>();
  CLI::App* c = app.add_subcommand("sensitivity", "How weak a signal a receiver hears");
  auto* file = c->add_option("file", o->file,
                             "CSV with frequency_hz, level, level_unit, audio_off, audio_on, "
                             "audio_unit and more");
  auto* noise = c->add_option("--noise", o->noise, "Recording of the audio without the signal");
  auto* signal = c->add_option("--signal", o->signal, "Recording with the signal, same volume");
  auto* level = c->add_option("--level", o->level, "Level at the generator, such as \"0.2 uV\"");
  noise->needs(signal)->needs(level)->excludes(file);
  signal->needs(noise);
  level->needs(noise);
  c->add_option("--chain", o->chain, "Hook-up (chain file) from generator to receiver");
  c->add_option("--frequency", o->frequency_hz, "Frequency, Hz")->check(CLI::PositiveNumber);
  c->add_option("--bandwidth", o->bandwidth_hz, "Noise bandwidth for the noise figure, Hz")
      ->check(CLI::PositiveNumber);
  c->add_option("--u-level", o->u_level_db, "Standard uncertainty of the generator, dB")
      ->check(CLI::NonNegativeNumber)
      ->capture_default_str();
  c->add_flag("--fail-on-verdict", o->fail_on_verdict, "Exit 4 unless all pass");
  c->add_flag("--json", o->json, "One JSON object");
  return [o, file, noise] {
    if (file->count() == 0 && noise->count() == 0) {
      fmt::print(stderr, "even-heron-cli: give a CSV file, or --noise, --signal and --level\n");
      return static_cast<int>(kWrongUsage);
    }
    return file->count() > 0 ? run_table(*o) : run_recordings(*o);
  };
}

}  // namespace heron

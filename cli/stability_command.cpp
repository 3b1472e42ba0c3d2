#include <CLI/CLI.hpp>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>
#include <memory>

#include "cli/frequency_output.h"
#include "cli/output.h"
#include "core/error.h"
#include "core/method/frequency/stability.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct StabilityOptions {
  std::string file;
  double tau0_s = 1.0;
  std::optional<double> nominal_hz;
  std::string data;
  std::string taus = "octave";
  bool json = false;
};

PhaseRecord record_of(const CsvTable& table, const StabilityOptions& o) {
  std::string head = o.data == "phase" ? "phase_s" : o.data == "frequency" ? "frequency" : "";
  if (head.empty())
    for (const char* one : {"frequency", "frequency_hz", "phase_s"})
      if (head.empty() && table.column(one)) head = one;
  if (head == "frequency" && !table.column(head)) head = "frequency_hz";
  if (head.empty() || !table.column(head))
    throw InputError(table.name, "line 1", "it has no column of frequency or phase",
                     "Call it frequency (fractional), frequency_hz or phase_s");
  if (head == "frequency_hz" && !o.nominal_hz)
    throw InputError(table.name, "", "what the frequency should be is not known", "Give --nominal");
  std::vector<double> values;
  for (const CsvTable::Row& row : table.rows) {
    const auto v = parse_number(CsvTable::cell(row, table.column(head)));
    const bool is_there = v && std::isfinite(*v) && std::abs(*v) < 1e30;
    values.push_back(!is_there                ? std::nan("")
                     : head == "frequency_hz" ? (*v - *o.nominal_hz) / *o.nominal_hz
                                              : *v);
  }
  return head == "phase_s" ? PhaseRecord::of_phase(values, o.tau0_s)
                           : PhaseRecord::of_frequency(values, o.tau0_s);
}

std::vector<std::size_t> averages_wished(const StabilityOptions& o, std::size_t samples) {
  if (o.taus == "octave") return averages_of(Averages::octaves, samples);
  if (o.taus == "decade") return averages_of(Averages::decades, samples);
  if (o.taus == "all") return averages_of(Averages::all, samples);
  std::vector<std::size_t> all;
  std::string rest = o.taus;
  while (!rest.empty()) {
    const std::string one = rest.substr(0, rest.find(','));
    rest = one.size() < rest.size() ? rest.substr(one.size() + 1) : "";
    const auto tau = parse_number(one);
    const double m = tau ? std::round(*tau / o.tau0_s) : 0.0;
    if (!tau || m < 1.0 || std::abs(m * o.tau0_s - *tau) > 1e-6 * *tau)
      throw InputError("--taus", "", "\u201c" + one + "\u201d is no multiple of --tau0",
                       "Use octave, decade, all, or times such as 1,10,100");
    all.push_back(static_cast<std::size_t>(m));
  }
  return all;
}

int run(const StabilityOptions& o) {
  if (!(o.tau0_s > 0.0)) throw InputError("--tau0", "", "it is not more than 0", "Give seconds");
  const PhaseRecord record = record_of(table_of(o.file), o);
  const auto averages = averages_wished(o, record.samples());
  constexpr std::pair<const char*, Estimator> kAll[] = {{"adev", Estimator::allan},
                                                        {"oadev", Estimator::overlapping},
                                                        {"mdev", Estimator::modified},
                                                        {"hdev", Estimator::hadamard},
                                                        {"hdev_plain", Estimator::plain_hadamard},
                                                        {"tdev", Estimator::time}};
  json out = common_json("stability", {o.file});
  bool has_any = false;
  for (const auto& [key, estimator] : kAll) {
    json points = json::array();
    for (const StabilityPoint& p : record.at(estimator, averages)) {
      has_any = true;
      points.push_back({{"tau_s", p.tau_s},
                        {"value", finite_or_null(p.value)},
                        {"low", finite_or_null(p.low)},
                        {"high", finite_or_null(p.high)},
                        {"n", p.terms},
                        {"edf", finite_or_null(p.degrees)},
                        {"noise", noise_name(p.noise)}});
      if (!o.json && estimator == Estimator::overlapping)
        fmt::print("{:>12} s  {:.4g}  {:.4g} to {:.4g}  {}\n", number_text(p.tau_s, 3), p.value,
                   p.low, p.high, noise_name(p.noise));
    }
    out[key] = points;
  }
  if (!has_any)
    throw InputError(fs::path(o.file).filename().string(), "", "it is too short for one difference",
                     "Give three samples of phase, or two of frequency, at least");
  add_remarks(out, record.remarks());
  if (o.json)
    print_json(out);
  else
    print_remarks(record.remarks());
  return kDone;
}

}  // namespace

CommandRun add_stability_command(CLI::App& app) {
  auto o = std::make_shared<StabilityOptions>();
  CLI::App* c = app.add_subcommand("stability", "Scatter of a frequency against averaging time");
  c->add_option("file", o->file, "CSV with frequency (fractional), frequency_hz or phase_s")
      ->required();
  c->add_option("--tau0", o->tau0_s, "Time between samples, s")->required();
  c->add_option("--nominal", o->nominal_hz, "What it should be, Hz: for frequency_hz")
      ->check(CLI::PositiveNumber);
  c->add_option("--data", o->data, "frequency or phase, where the file has both")
      ->check(CLI::IsMember({"frequency", "phase"}));
  c->add_option("--taus", o->taus, "octave, decade, all, or times such as 1,10,100")
      ->capture_default_str();
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron

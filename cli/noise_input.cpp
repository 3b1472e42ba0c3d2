#include "cli/noise_input.h"

#include <CLI/CLI.hpp>
#include <algorithm>
#include <filesystem>

#include "cli/frequency_output.h"
#include "cli/output.h"
#include "cli/trace_file.h"
#include "core/csv_table.h"
#include "core/error.h"
#include "core/method/phase_noise/noise_capture.h"
#include "core/method/phase_noise/noise_table.h"
#include "core/method/phase_noise/noise_trace.h"
#include "core/method/result_json.h"

namespace heron {
namespace {

bool is_text(const std::string& file) {
  const std::string ending = lower_case(std::filesystem::path(file).extension().string());
  return ending == ".csv" || ending == ".txt" || ending == ".tsv";
}

}  // namespace

NoiseCurve read_noise(const std::vector<std::string>& files, int per_decade,
                      std::optional<double> center_hz) {
  const bool are_text = std::all_of(files.begin(), files.end(), is_text);
  if (!are_text) {
    if (files.size() != 1)
      throw InputError(files.back(), "", "a recording is given by itself",
                       "Give one recording, or an analyser\u2019s traces of one carrier");
    const CaptureOpener open = capture_opener(files.front());
    NoiseWish wish;
    wish.per_decade = per_decade;
    NoiseCurve curve = noise_of_capture(open, wish, terminal_progress("phase noise"));
    if (center_hz) curve.rf_hz = *center_hz + curve.carrier_hz.value_or(0.0);
    return curve;
  }
  if (files.size() == 1) {
    const CsvTable table = table_of(files.front());
    if (is_noise_table(table)) return noise_of_table(table);
  }
  std::vector<SpectrumTrace> traces;
  for (const std::string& file : files) {
    if (files.size() > 1 && is_noise_table(table_of(file)))
      throw InputError(file, "", "a table is a whole curve and is given by itself",
                       "Give one table, or an analyser\u2019s traces of one carrier");
    traces.push_back(read_trace(file));
  }
  return noise_of_traces(traces, per_decade);
}

std::vector<std::string> files_in(const std::string& typed) {
  // A name may have a comma in it.
  if (std::filesystem::exists(typed)) return {typed};
  std::vector<std::string> all;
  std::string rest = typed;
  while (true) {
    const auto comma = rest.find(',');
    all.push_back(rest.substr(0, comma));
    if (comma == std::string::npos) return all;
    rest.erase(0, comma + 1);
  }
}

std::pair<double, double> range_from(const std::string& option, const std::string& typed) {
  const auto comma = typed.find(',');
  const auto low = parse_number(typed.substr(0, comma));
  const auto high =
      comma != std::string::npos ? parse_number(typed.substr(comma + 1)) : std::nullopt;
  if (!low || !high || !(*low > 0.0) || !(*high > *low))
    throw InputError(option, "", "\u201c" + typed + "\u201d is no range of offsets",
                     "Give two in Hz, the lower one first: 100,100000");
  return {*low, *high};
}

void add_bins_option(CLI::App& command, int& per_decade) {
  command.add_option("--per-decade", per_decade, "Bins a decade")
      ->check(CLI::Range(1, 100))
      ->capture_default_str();
}

nlohmann::json points_json(const std::vector<CurvePoint>& points, bool has_u) {
  nlohmann::json all = nlohmann::json::array();
  for (const CurvePoint& p : points)
    all.push_back(
        {{"offset_hz", p.offset_hz},
         {"l_dbc_hz", finite_or_null(p.l_dbc_hz)},
         {"u_db", has_u ? finite_or_null(p.u_db) : nlohmann::json(nullptr)},
         {"bound", p.bound == Bound::upper ? nlohmann::json("upper") : nlohmann::json(nullptr)}});
  return all;
}

}  // namespace heron

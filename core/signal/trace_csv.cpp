#include "core/signal/trace_csv.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

#include "core/csv_table.h"
#include "core/error.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr std::size_t kFewestPoints = 8;

[[noreturn]] void refuse(const std::string& name, std::size_t line, const std::string& why,
                         const std::string& what_to_do) {
  throw InputError(name, line > 0 ? fmt::format("line {}", line) : "", why, what_to_do);
}

/// Column numbers and the factor of the frequency, from a header line.
struct Columns {
  std::size_t frequency = 0;
  std::size_t level = 1;
  double factor = 1.0;
  double offset_db = 0.0;  ///< to dBm
};

/// What a level column's head names, in dBm in 50 ohm; nullopt if it is no unit of a trace.
std::optional<double> level_offset_db(const std::string& head) {
  constexpr double kVoltDbm = 13.0103;  // 1 V in 50 ohm
  for (const auto& [unit, below_volt] : {std::pair{"dbuv", 120.0},
                                         {"db\u00b5v", 120.0},
                                         {"db\u03bcv", 120.0},
                                         {"dbmv", 60.0},
                                         {"dbv", 0.0}}) {
    if (head.find(unit) != std::string::npos) return kVoltDbm - below_volt;
  }
  // "level" alone is dBm, as is what names it.
  const auto rest = head.find_first_of("_ ([,");
  if (head.find("dbm") != std::string::npos || rest == std::string::npos) return 0.0;
  return std::nullopt;
}

std::optional<Columns> header_columns(const std::string& name,
                                      const std::vector<std::string>& cells) {
  Columns columns;
  bool has_frequency = false;
  bool has_level = false;
  for (std::size_t i = 0; i < cells.size(); ++i) {
    const std::string cell = lower_case(cells[i]);
    if (!has_frequency && cell.starts_with("freq")) {
      has_frequency = true;
      columns.frequency = i;
      if (cell.find("ghz") != std::string::npos)
        columns.factor = 1e9;
      else if (cell.find("mhz") != std::string::npos)
        columns.factor = 1e6;
      else if (cell.find("khz") != std::string::npos)
        columns.factor = 1e3;
    } else if (!has_level && (cell.find("db") != std::string::npos || cell.starts_with("level") ||
                              cell.starts_with("ampl") || cell.starts_with("power"))) {
      const auto offset = level_offset_db(cell);
      if (!offset)
        refuse(name, 0, "its levels are in a unit that is not known: \u201c" + cells[i] + "\u201d",
               "Export it in dBm, or name the column level_dbuv");
      has_level = true;
      columns.level = i;
      columns.offset_db = *offset;
    }
  }
  if (!has_frequency || !has_level) return std::nullopt;
  return columns;
}

double rbw_of(const std::string& name, const std::string& text) {
  std::string typed = text;
  if (parse_number(typed)) typed += " Hz";
  double hz = 0.0;
  try {
    hz = parse_quantity(typed, Quantity::frequency).value;
  } catch (const InputError& error) {
    refuse(name, 0, "its RBW cannot be read: " + error.reason, "Write it like # rbw: 10 Hz");
  }
  if (hz <= 0.0) refuse(name, 0, "its RBW is not above 0", "Write it like # rbw: 10 Hz");
  return hz;
}

/// How detectors are written, and a part of how others write them; the first that fits holds, and
/// of one detector the first is written.
struct DetectorWord {
  const char* part;
  TraceDetector detector;
  const char* written;
};
constexpr DetectorWord kDetectorWords[] = {
    {"log", TraceDetector::log_average, "log-average"},
    {"video", TraceDetector::log_average, "log-average"},
    {"peak", TraceDetector::peak, "peak"},
    {"sample", TraceDetector::sample, "sample"},
    {"rms", TraceDetector::power_average, "power-average"},
    {"power", TraceDetector::power_average, "power-average"},
};

TraceDetector detector_named(const std::string& text) {
  const std::string word = lower_case(text);
  for (const DetectorWord& d : kDetectorWords) {
    if (word.find(d.part) != std::string::npos) return d.detector;
  }
  return TraceDetector::unknown;
}

/// What the comment lines of a trace say of how it was taken.
void read_settings(SpectrumTrace& trace, const std::map<std::string, std::string>& said) {
  for (const char* key : {"rbw", "rbw_hz"}) {
    if (const auto rbw = said.find(key); rbw != said.end())
      trace.rbw_hz = rbw_of(trace.name, rbw->second);
  }
  if (const auto kind = said.find("rbw_kind"); kind != said.end() && trace.rbw_hz) {
    trace.has_rbw_kind = true;
    // A Gaussian filter's noise bandwidth is 1.0645 of its 3 dB width.
    if (lower_case(kind->second).find("noise") != std::string::npos) *trace.rbw_hz /= 1.0645;
  }
  if (const auto detector = said.find("detector"); detector != said.end())
    trace.detector = detector_named(detector->second);
  if (const auto averages = said.find("averages"); averages != said.end()) {
    const auto n = parse_number(averages->second);
    if (!n || *n < 1.0 || *n > 1e6 || *n != std::floor(*n))
      refuse(trace.name, 0, "its number of averages is none", "Write it like # averages: 16");
    trace.averages = static_cast<int>(*n);
  }
}

}  // namespace

double SpectrumTrace::spacing_hz() const {
  std::vector<double> steps;
  for (std::size_t i = 1; i < frequency_hz.size(); ++i)
    steps.push_back(frequency_hz[i] - frequency_hz[i - 1]);
  if (steps.empty()) return 0.0;
  return median_of(steps);
}

SpectrumTrace parse_trace(std::string_view text, const std::string& name) {
  const CsvTable table = parse_csv(text, name);
  SpectrumTrace trace;
  trace.name = name;
  read_settings(trace, table.conditions);
  Columns columns;
  if (!table.heads.empty()) {
    const auto named = header_columns(name, table.heads);
    if (!named)
      refuse(name, 0, "this is not a trace: there is no frequency and no level",
             "Begin it with frequency_hz,level_dbm");
    columns = *named;
  }
  for (const CsvTable::Row& row : table.rows) {
    if (table.heads.empty() && row.cells.size() > 2)
      refuse(name, row.line,
             fmt::format("it has {} columns and no head names them", row.cells.size()),
             "Begin it with frequency_hz,level_dbm; with decimal commas, separate by semicolons");
    if (row.cells.size() <= std::max(columns.frequency, columns.level))
      refuse(name, row.line, "a column is missing", "Give a frequency and a level on each line");
    const auto frequency = parse_number(row.cells[columns.frequency]);
    const auto level = parse_number(row.cells[columns.level]);
    if (!frequency || !level)
      refuse(name, row.line,
             "\u201c" + row.cells[frequency ? columns.level : columns.frequency].substr(0, 20) +
                 "\u201d is not a number",
             "Export the trace again");
    const double hz = *frequency * columns.factor;
    if (!trace.frequency_hz.empty() && hz <= trace.frequency_hz.back())
      refuse(name, row.line, "its frequency does not rise above the one before",
             "Sort the trace by frequency");
    if (std::abs(*level) > 400.0 || std::abs(hz) > 1e13)
      refuse(name, row.line, "no analyser shows such a figure", "Give hertz and dBm");
    trace.frequency_hz.push_back(hz);
    trace.level_dbm.push_back(*level + columns.offset_db);
  }
  if (trace.frequency_hz.size() < kFewestPoints)
    refuse(name, 0, fmt::format("it has {} points", trace.frequency_hz.size()),
           "Export the whole trace");
  return trace;
}

std::string trace_csv(const SpectrumTrace& trace) {
  std::string text = "# " + trace.name + "\n";
  if (trace.rbw_hz) text += fmt::format("# rbw: {:g} Hz\n", *trace.rbw_hz);
  if (trace.has_rbw_kind) text += "# rbw_kind: 3db\n";
  for (const DetectorWord& d : kDetectorWords) {
    if (d.detector != trace.detector) continue;
    text += fmt::format("# detector: {}\n", d.written);
    break;
  }
  if (trace.averages) text += fmt::format("# averages: {}\n", *trace.averages);
  text += "frequency_hz,level_dbm\n";
  for (std::size_t i = 0; i < trace.frequency_hz.size(); ++i)
    text += fmt::format("{:.3f},{:.3f}\n", trace.frequency_hz[i], trace.level_dbm[i]);
  return text;
}

}  // namespace heron

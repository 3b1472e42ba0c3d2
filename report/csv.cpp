#include "report/csv.h"

#include <fmt/format.h>

namespace heron {
namespace {

std::string field(const std::string& text) {
  // A spreadsheet would run a cell that begins with a formula sign; "-10 dB" is none.
  std::string safe = text;
  const char first = safe.empty() ? ' ' : safe[0];
  const bool is_minus_formula = first == '-' && safe.find_first_of("=+*/|!(@") != std::string::npos;
  if (first == '=' || first == '+' || first == '@' || first == '\t' || is_minus_formula)
    safe.insert(0, "'");
  if (safe.find_first_of(",\"\r\n") == std::string::npos) return safe;
  std::string quoted = "\"";
  for (const char c : safe) {
    if (c == '"') quoted += '"';
    quoted += c;
  }
  return quoted + "\"";
}

}  // namespace

std::string report_csv(const ReportDocument& d) {
  std::string out = "test,step,figure,value,unit,convention,u,U_95,bound,limit,verdict\r\n";
  for (const ReportFigure& f : d.figures) {
    const bool has_u = f.figure.bound == Bound::none && !f.figure.contributions.empty();
    const char* bound = f.figure.bound == Bound::upper   ? "upper"
                        : f.figure.bound == Bound::lower ? "lower"
                                                         : "";
    out += fmt::format("{},{},{},{:.4f},{},{},{},{},{},{},{}\r\n", field(f.test), field(f.step),
                       field(f.figure.label), f.figure.value, field(f.figure.unit),
                       field(f.figure.convention), has_u ? fmt::format("{:.4f}", f.figure.u()) : "",
                       has_u ? fmt::format("{:.4f}", f.figure.expanded()) : "", bound,
                       field(f.limit), f.verdict);
  }
  return out;
}

}  // namespace heron

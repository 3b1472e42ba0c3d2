#include "report/csv.h"

#include <algorithm>
#include <fmt/format.h>
#include <string_view>

namespace heron {
namespace {

std::string field(const std::string& text) {
  // A spreadsheet would run a cell that begins with a formula sign; "-10 dB" is none.
  // Programs read ASCII minus signs only.
  std::string safe;
  constexpr std::string_view kMinus = "\u2212";
  for (std::size_t at = 0; at < text.size();) {
    const bool is_minus = std::string_view(text).substr(at).starts_with(kMinus);
    safe += is_minus ? '-' : text[at];
    at += is_minus ? kMinus.size() : 1;
  }
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

/// "generator 0.45; audio readings 0.12": standard, in the figure's unit.
std::string parts_of_u(const Figure& f) {
  std::string words;
  for (const Contribution& c : f.contributions)
    words += (words.empty() ? "" : "; ") + fmt::format("{} {:.4g}", c.source, c.u);
  return words;
}

}  // namespace

std::string report_csv(const ReportDocument& d) {
  std::string out =
      "test,step,figure,value,unit,convention,u,U_95,bound,limit,verdict,device,evaluation,"
      "signature,carrier_hz,serial,conditions,measured_at,recordings,budget,made_with,"
      "provisional\r\n";
  const auto of_device = [&](const char* what) {
    const auto found = std::find_if(d.device.begin(), d.device.end(),
                                    [&](const auto& line) { return line.first == what; });
    return found == d.device.end() ? std::string() : field(found->second);
  };
  for (const ReportFigure& f : d.figures) {
    const bool has_u = f.figure.bound == Bound::none && !f.figure.contributions.empty();
    const char* bound = f.figure.bound == Bound::upper   ? "upper"
                        : f.figure.bound == Bound::lower ? "lower"
                                                         : "";
    out += fmt::format(
        "{},{},{},{:.4f},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\r\n", field(f.test),
        field(f.step), field(f.figure.label), f.figure.value, field(f.figure.unit),
        field(f.figure.convention), has_u ? fmt::format("{:.4f}", f.figure.u()) : "",
        has_u ? fmt::format("{:.4f}", f.figure.expanded()) : "", bound, field(f.limit), f.verdict,
        of_device("Device"), of_device("Evaluation"), field(f.signature),
        f.carrier_hz ? fmt::format("{:.3f}", *f.carrier_hz) : "", of_device("Serial"),
        field(f.conditions), f.measured_at, fmt::join(f.recordings, " "),
        field(parts_of_u(f.figure)), "Even Heron " HERON_VERSION, f.is_provisional ? "yes" : "");
  }
  return out;
}

}  // namespace heron

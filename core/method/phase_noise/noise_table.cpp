#include "core/method/phase_noise/noise_table.h"

#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr std::pair<const char*, double> kOffsetHeads[] = {
    {"offset_hz", 1.0}, {"offset_khz", 1e3}, {"offset_mhz", 1e6}, {"offset", 1.0}};

std::string offset_head(const CsvTable& table, double& factor) {
  for (const auto& [head, times] : kOffsetHeads) {
    if (!table.column(head)) continue;
    factor = times;
    return head;
  }
  return {};
}

}  // namespace

bool is_noise_table(const CsvTable& table) {
  double factor = 1.0;
  return !offset_head(table, factor).empty();
}

NoiseCurve noise_of_table(const CsvTable& table) {
  double factor = 1.0;
  const std::string offset = offset_head(table, factor);
  std::string level;
  for (const char* head : {"l_dbc_hz", "l", "dbc_hz", "phase_noise_dbc_hz"})
    if (level.empty() && table.column(head)) level = head;
  if (offset.empty() || level.empty())
    throw InputError(table.name, "line 1", "it has no columns of offset and phase noise",
                     "Call them offset_hz and l_dbc_hz");
  NoiseCurve curve;
  curve.name = table.name;
  curve.has_u = table.column("u_db").has_value();
  curve.detector = NoiseDetector::unknown;
  for (const CsvTable::Row& row : table.rows) {
    const auto cell = [&](const std::string& head) {
      return parse_number(CsvTable::cell(row, table.column(head)));
    };
    const auto at = [&] { return fmt::format("line {}", row.line); };
    const auto hz = cell(offset);
    const auto db = cell(level);
    if (!hz || !db)
      throw InputError(table.name, at(), "offset or level is no number", "Correct the line");
    if (!(*hz > 0.0) || *hz * factor > 1e12)
      throw InputError(table.name, at(), "an offset is above 0 and below 1 THz",
                       "Take the carrier out of the table");
    if (*db > 60.0 || *db < -300.0)
      throw InputError(table.name, at(), "no phase noise is like that", "Give dBc/Hz, negative");
    CurvePoint p{*hz * factor, *db, 0.0, Bound::none};
    if (curve.has_u) {
      const auto u = cell("u_db");
      if (!u || *u < 0.0 || *u > 60.0)
        throw InputError(table.name, at(), "its u_db is no uncertainty",
                         "Give a standard uncertainty in dB, or leave the column out");
      p.u_db = *u;
    }
    if (table.column("bound")) {
      const std::string word = CsvTable::cell(row, table.column("bound"));
      if (word == "upper") p.bound = Bound::upper;
    }
    if (!curve.points.empty() && p.offset_hz <= curve.points.back().offset_hz)
      throw InputError(table.name, at(), "its offset does not rise above the one before",
                       "Sort the table by offset");
    curve.points.push_back(p);
  }
  if (curve.points.size() < 2)
    throw InputError(table.name, "", "it has fewer than two offsets", "Export the whole curve");
  return curve;
}

}  // namespace heron

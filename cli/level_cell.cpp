#include "cli/level_cell.h"

#include "cli/csv_cell.h"
#include "core/quantity/levels.h"

namespace heron {

std::optional<double> level_cell(const CsvTable& table, const CsvTable::Row& row,
                                 const std::string& head, const std::string& unit_head) {
  const auto value = number_cell(table, row, head);
  if (!value) return std::nullopt;
  const std::string unit = CsvTable::cell(row, table.column(unit_head));
  if (unit.empty() || unit == "dBm") return value;
  if (unit != "uV_pd" && unit != "uV_emf")
    refuse_cell(table, row, unit_head, "\u201c" + unit + "\u201d is none",
                "Use dBm, uV_pd or uV_emf");
  if (!(*value > 0.0)) refuse_cell(table, row, head, "a voltage is above 0", "Correct it");
  const double volts = *value * 1e-6;
  const VoltPd pd = unit == "uV_emf" ? to_pd(VoltEmf{volts}) : VoltPd{volts};
  return to_dbm(to_watt(pd)).value;
}

}  // namespace heron

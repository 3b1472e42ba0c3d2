#include "core/method/result_table.h"

#include <algorithm>

namespace heron {

TableCell verdict_cell(const std::optional<Judgement>& judgement, bool is_measured,
                       bool is_damaged) {
  return {is_damaged    ? "damaged"
          : judgement   ? verdict_word(judgement->verdict)
          : is_measured ? "no limit"
                        : "not measured",
          judgement};
}

bool ResultTable::has_two_lines() const {
  return std::any_of(columns.begin(), columns.end(),
                     [](const TableColumn& c) { return c.kind == CellKind::judged; });
}

}  // namespace heron

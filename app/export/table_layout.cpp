#include "app/export/table_layout.h"

#include <QFontMetricsF>
#include <algorithm>

#include "app/export/page_writer.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr int kLargestPx = 9;
constexpr int kSmallestPx = 6;

bool holds_words(const ReportTable& table, std::size_t column) {
  return column == 0 || column + 1 == table.heads.size() ||
         std::find(table.words.begin(), table.words.end(), column) != table.words.end();
}

}  // namespace

QRectF TableLayout::box(std::size_t column, double y, double height) const {
  return {edges[column], y, edges[column + 1] - edges[column] - gap, height};
}

int TableLayout::alignment(std::size_t column) const {
  return (is_words[column] ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter;
}

const QFont& TableLayout::font(std::size_t column) const {
  return is_words[column] ? words : figures;
}

TableLayout lay_out_table(const ReportTable& table, double width) {
  const std::size_t columns = table.heads.size();
  TableLayout layout;
  for (std::size_t c = 0; c < columns; ++c) layout.is_words.push_back(holds_words(table, c));
  std::vector<double> wanted;
  double sum = 0.0;
  for (int px = kLargestPx; px >= kSmallestPx; --px) {
    layout.head = report_face(std::min(px, 8), 500);
    layout.words = report_face(px, 600);
    layout.figures = report_face(px, 400, "JetBrains Mono");
    wanted.assign(columns, 0.0);
    sum = 0.0;
    for (std::size_t c = 0; c < columns; ++c) {
      const double mark = c + 1 == columns ? kVerdictMark : 0.0;
      wanted[c] = QFontMetricsF(layout.head).horizontalAdvance(qt_text(table.heads[c]));
      for (const auto& row : table.rows) {
        if (c < row.size())
          wanted[c] = std::max(
              wanted[c], mark + QFontMetricsF(layout.font(c)).horizontalAdvance(qt_text(row[c])));
      }
      wanted[c] += layout.gap + 1.0;
      sum += wanted[c];
    }
    if (sum <= width) break;
  }
  // What is left over goes to all of them; where even small type is too wide, the first gives way.
  const double each = std::max(0.0, width - sum) / static_cast<double>(columns);
  if (sum > width) wanted[0] = std::max(20.0, wanted[0] - (sum - width));
  layout.edges = {0.0};
  for (const double w : wanted) layout.edges.push_back(layout.edges.back() + w + each);
  return layout;
}

}  // namespace heron

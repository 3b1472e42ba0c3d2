#pragma once

#include <QFont>
#include <QRectF>
#include <vector>

#include "report/document.h"

namespace heron {

inline constexpr double kVerdictMark = 12.0;  ///< room of the mark before a verdict's word

/// Where the columns of a printed table stand: each as wide as what is in it. Names stand at the
/// left, figures at the right.
struct TableLayout {
  std::vector<double> edges;   ///< one more than columns
  std::vector<bool> is_words;  ///< one a column
  QFont head;
  QFont words;
  QFont figures;
  double gap = 8.0;

  QRectF box(std::size_t column, double y, double height) const;
  int alignment(std::size_t column) const;
  const QFont& font(std::size_t column) const;
};

/// With smaller type where the table would be wider than the page.
TableLayout lay_out_table(const ReportTable& table, double width);

}  // namespace heron

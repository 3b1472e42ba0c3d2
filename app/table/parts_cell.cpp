#include "app/table/parts_cell.h"

#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr double kLaneGap = 8.0;
constexpr double kLaneInset = 8.0;

double lane_width(const QRectF& cell, std::size_t lanes) {
  return (cell.width() - 2.0 * kLaneInset + kLaneGap) / static_cast<double>(lanes);
}

const TablePart* part_at(const ResultTable& table, std::size_t row, std::size_t column,
                         std::size_t lane) {
  if (row >= table.rows.size() || table.rows[row].is_foot) return nullptr;
  const auto& parts = table.rows[row].cells[column].parts;
  return lane < parts.size() && !parts[lane].name.empty() ? &parts[lane] : nullptr;
}

/// As many rows as a part goes on in one direction.
int reach(const ResultTable& table, std::size_t row, std::size_t column, std::size_t lane,
          int step) {
  const std::string& name = part_at(table, row, column, lane)->name;
  int n = 0;
  for (auto r = static_cast<std::ptrdiff_t>(row) + step; r >= 0; r += step, ++n) {
    const TablePart* other = part_at(table, static_cast<std::size_t>(r), column, lane);
    if (other == nullptr || other->name != name) break;
  }
  return n;
}

void draw_bar(QPainter& p, const QRectF& bar, const TablePart& part, const Theme& t) {
  const bool is_suspect = part.state == TablePart::State::suspect;
  const bool is_cleared = part.state == TablePart::State::cleared;
  p.setPen(QPen(is_suspect   ? t.marg
                : is_cleared ? t.slate
                             : t.hairStrong,
                is_suspect || is_cleared ? 1.5 : 1.0));
  p.setBrush(is_suspect ? t.margTint : t.sheet);
  p.drawRoundedRect(bar, 4, 4);
  QRectF words = bar.adjusted(2, 0, -2, 0);
  if (is_suspect) {
    draw_verdict(p, {bar.center().x(), bar.center().y() - 9}, 8, Verdict::too_close, t, true);
    words.translate(0, 6);
  }
  QFont font = type_font(Type::control);
  if (is_suspect || is_cleared) font.setWeight(QFont::DemiBold);
  p.setFont(font);
  p.setPen(is_suspect ? t.marg : is_cleared ? t.ink : t.slate);
  draw_elided(p, words, Qt::AlignCenter, qt_text(part.name));
}

}  // namespace

void draw_parts_cell(QPainter& p, const QRectF& cell, const ResultTable& table, std::size_t row,
                     std::size_t column, const Theme& t) {
  const std::size_t lanes = table.columns[column].lanes.size();
  const double pitch = lane_width(cell, lanes);
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(cell);
  // No rule between rows that share a bar.
  p.fillRect(cell, t.sheet);
  for (std::size_t lane = 0; lane < lanes; ++lane) {
    const TablePart* part = part_at(table, row, column, lane);
    if (part == nullptr) continue;
    const QRectF whole = QRectF(cell.left() + kLaneInset + pitch * static_cast<double>(lane),
                                cell.top(), pitch - kLaneGap, cell.height())
                             .adjusted(0, 4 - reach(table, row, column, lane, -1) * cell.height(),
                                       0, reach(table, row, column, lane, 1) * cell.height() - 5);
    draw_bar(p, whole, *part, t);
  }
  p.restore();
}

void draw_parts_head(QPainter& p, const QRectF& head, const TableColumn& column, const Theme& t) {
  p.setPen(t.slate);
  p.setFont(strong_label());
  draw_elided(p, QRectF(head.left() + kLaneInset, head.top() + 5, head.width() - kLaneInset, 18),
              Qt::AlignVCenter, qt_text(column.head));
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  const double pitch = lane_width(head, column.lanes.size());
  // All of them or none.
  for (const std::string& lane : column.lanes)
    if (QFontMetricsF(p.font()).horizontalAdvance(qt_text(lane)) > pitch + 4.0) return;
  for (std::size_t lane = 0; lane < column.lanes.size(); ++lane)
    p.drawText(QRectF(head.left() + kLaneInset + pitch * static_cast<double>(lane) - kLaneGap / 2,
                      head.top() + 23, pitch, 16),
               Qt::AlignCenter, qt_text(column.lanes[lane]));
}

}  // namespace heron

#include "app/spread/spread_model.h"

#include <QTableView>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

QString with_u(const Figure& figure, int decimals) {
  const FormattedFigure f = format_figure(figure, Rounding::compact, decimals);
  return (f.bound.empty() ? QString() : qt_text(f.bound) + ' ') + qt_text(f.value) +
         (f.uncertainty.empty() ? QString() : QString::fromUtf8(" ± ") + qt_text(f.uncertainty));
}

QString width_cell(const std::optional<WidthAtLevel>& width, Hold hold) {
  return width ? with_u(width_figure(*width, hold), 0) : QString();
}

/// The window next to the channel on one side.
QString beside(const BandwidthAnalysis& b, bool above) {
  const AdjacentPower* nearest = nullptr;
  for (const AdjacentPower& p : b.adjacent) {
    if ((p.offset_hz > 0.0) != above) continue;
    if (nearest == nullptr || std::abs(p.offset_hz) < std::abs(nearest->offset_hz)) nearest = &p;
  }
  if (nearest == nullptr) return {};
  return with_u(adjacent_figure(*nearest, b.hold, b.linearity), 1);
}

}  // namespace

void SpreadModel::set_test(const SpreadTest& t, Hold hold) {
  beginResetModel();
  cells_.clear();
  judgements_ = t.judgements;
  span_ = t.test.limit ? t.test.limit->span : 20.0;
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    std::array<QString, kColumns> row;
    row[kStep] = qt_text(t.steps[i].label);
    if (const auto& a = t.analyses[i]) {
      const BandwidthAnalysis& b = a->of(hold);
      row[kOccupied] = width_cell(b.occupied, hold);
      row[k26] = width_cell(b.x26, hold);
      row[kBelow] = beside(b, false);
      row[kAbove] = beside(b, true);
      if (a->noise) {
        const Result noise = to_result(*a->noise);
        if (const Figure* f = noise.headline()) row[kRatio] = with_u(*f, 1);
      }
    }
    if (t.two_tone[i]) row[kTones] = with_u(*t.two_tone[i], 1);
    if (t.judgements[i]) row[kMargin] = qt_text(number_text(t.judgements[i]->margin, 1, true));
    row[kVerdict] = !t.steps[i].damage.empty() ? tr("damaged")
                    : t.judgements[i]          ? qt_text(verdict_word(t.judgements[i]->verdict))
                    : t.analyses[i]            ? tr("no limit")
                                               : tr("not taken");
    cells_.push_back(row);
  }
  endResetModel();
}

QVariant SpreadModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole) return {};
  return cells_[static_cast<std::size_t>(index.row())][static_cast<std::size_t>(index.column())];
}

QVariant SpreadModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  static const char* heads[kColumns] = {"Step",          "99 %, Hz",  "\u221226 dB, Hz",
                                        "Below, dB",     "Above, dB", "Notch, dB",
                                        "Tones, dB PEP", "Margin",    "Verdict"};
  return tr(heads[section]);
}

void SpreadDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                                bool chosen, const Theme& t) const {
  const auto* model = static_cast<const SpreadModel*>(index.model());
  const auto& j = model->judgement(index.row());
  if (index.column() == SpreadModel::kMargin) {
    draw_margin_cell(p, cell, j, model->margin_span(), t);
    return;
  }
  if (index.column() == SpreadModel::kStep) {
    draw_figure_text(p, {cell.left() + 20, cell.center().y() + 4.5},
                     elided_figure_text(index.data().toString(), Type::figure_chosen, Type::current,
                                        cell.width() - 26),
                     Type::figure_chosen, Type::current, j ? t.ink : t.slate);
    return;
  }
  if (index.column() == SpreadModel::kVerdict) {
    draw_verdict_cell(p, cell, j, index.data().toString(), t);
    return;
  }
  RowDelegate::paint_cell(p, cell, index, chosen, t);
}

}  // namespace heron

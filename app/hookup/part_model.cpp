#include "app/hookup/part_model.h"

#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

PartModel::Row row_of(const HookupScene& scene, int column, const std::string& today) {
  PartModel::Row row;
  const Part& part = scene.part(column);
  const bool ends = find_part_kind(part.kind)->ends_chain;
  row.name = qt_text(part.name);
  const double u = std::hypot(part.u_db, ageing_u_db(part.calibration, part.u_db, today));
  if (u > 0.0) row.loss_u = qt_text(number_text(2.0 * u, 2));
  if (!ends) {
    try {
      const double gain = part.gain.at(scene.drive.frequency_hz, part.name);
      row.loss = qt_text(number_text(-gain, 2));
    } catch (const InputError&) {
      row.loss = QObject::tr("no data");
      row.loss_u.clear();
    }
  }
  if (const auto vswr = part.input_vswr(scene.drive.frequency_hz))
    row.vswr = qt_text(number_text(*vswr, 2));
  if (const NodeVerdict* v = scene.verdict(column)) {
    row.limit = qt_text(v->limit);
    row.is_limit_strong = v->verdict == Verdict::too_close || v->verdict == Verdict::fail;
    row.mark.verdict = v->verdict;
    if (v->margin_db) {
      row.margin = qt_text(number_text(*v->margin_db, 1, true));
      row.mark.margin = *v->margin_db;
      row.mark.expanded = 2.0 * scene.node(column)->u_db;
    }
  }
  const auto months = months_between(part.calibration.date, today);
  row.calibrated =
      months ? QObject::tr("%1 ago").arg(qt_text(months_text(*months))) : QObject::tr("never");
  if (months && *months < 0.05) row.calibrated = QObject::tr("today");
  row.is_overdue = calibration_state(part.calibration, today) == CalibrationState::overdue;
  return row;
}

}  // namespace

void PartModel::set_scene(const HookupScene& scene, const std::string& today) {
  beginResetModel();
  rows_.clear();
  Row source;
  source.name = scene.source;
  source.limit = scene.chain.source_vswr
                     ? tr("match %1").arg(qt_text(number_text(*scene.chain.source_vswr, 2)))
                     : tr("match not stated");
  if (scene.chain.source_vswr) source.vswr = qt_text(number_text(*scene.chain.source_vswr, 2));
  source.calibrated = tr("no need");
  rows_.push_back(source);
  for (int i = 1; i < scene.columns(); ++i) rows_.push_back(row_of(scene, i, today));
  loss_head_ = tr("Loss at %1, dB").arg(qt_text(frequency_text(scene.drive.frequency_hz)));
  endResetModel();
}

QVariant PartModel::data(const QModelIndex& index, int role) const {
  const Row& r = row(index.row());
  if (role == Qt::AccessibleTextRole && index.column() == kName)
    return tr("%1, %2, margin %3 dB, %4")
        .arg(r.name, r.limit, r.margin.isEmpty() ? QString::fromUtf8("–") : r.margin,
             qt_text(verdict_word(r.mark.verdict)));
  if (role == Qt::ToolTipRole && index.column() == kMargin)
    return qt_text(verdict_word(r.mark.verdict));
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole) return {};
  switch (index.column()) {
    case kName:
      return r.name;
    case kLoss:
      return r.loss_u.isEmpty() ? r.loss : r.loss + QString::fromUtf8(" ± ") + r.loss_u;
    case kVswr:
      return r.vswr;
    case kLimit:
      return r.limit;
    case kMarginDb:
      return r.margin;
    case kMargin:
      return r.mark.verdict == Verdict::not_taken ? QString()
                                                  : qt_text(verdict_word(r.mark.verdict));
    case kCalibrated:
      return r.calibrated;
    default:
      return {};
  }
}

QVariant PartModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  switch (section) {
    case kName:
      return tr("Part");
    case kLoss:
      return loss_head_;
    case kVswr:
      return tr("VSWR");
    case kLimit:
      return tr("What limits it");
    case kMarginDb:
      return tr("Margin, dB");
    case kMargin:
      return tr("Verdict");
    default:
      return tr("Calibrated");
  }
}

void PartDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                              bool chosen, const Theme& t) const {
  const auto* model = static_cast<const PartModel*>(index.model());
  const PartModel::Row& row = model->row(index.row());
  const double baseline = cell.center().y() + 4.5;
  switch (index.column()) {
    case PartModel::kName:
      p.setFont(type_font(Type::current));
      p.setPen(t.ink);
      draw_elided(p, cell.adjusted(20, 0, -4, 0), Qt::AlignVCenter, row.name);
      return;
    case PartModel::kLoss: {
      if (row.loss.isEmpty() && row.loss_u.isEmpty()) {
        RowDelegate::paint_cell(p, cell, index, chosen, t);
        return;
      }
      const double right = cell.right() - 10;
      const double u =
          row.loss_u.isEmpty()
              ? 0.0
              : figure_text_width(QString::fromUtf8("± ") + row.loss_u, Type::figure, Type::body);
      if (u > 0.0)
        draw_figure_text(p, {right - u, baseline}, QString::fromUtf8("± ") + row.loss_u,
                         Type::figure, Type::body, t.slate);
      // Values stand under each other whether they have a ± or not.
      const double value = figure_text_width(row.loss, Type::figure_chosen, Type::body);
      draw_figure_text(p, {right - std::max(u, 46.0) - 5 - value, baseline}, row.loss,
                       Type::figure_chosen, Type::body, t.ink);
      return;
    }
    case PartModel::kLimit:
      p.setFont(type_font(row.is_limit_strong ? Type::current : Type::body));
      p.setPen(row.is_limit_strong ? t.ink : t.slate);
      draw_elided(p, cell.adjusted(8, 0, -2, 0), Qt::AlignVCenter, row.limit);
      return;
    case PartModel::kMarginDb:
      if (row.margin.isEmpty()) break;
      {
        const double w = figure_text_width(row.margin, Type::figure_chosen, Type::body);
        draw_figure_text(p, {cell.right() - 10 - w, baseline}, row.margin, Type::figure_chosen,
                         Type::body, t.ink);
      }
      return;
    case PartModel::kMargin:
      if (!row.margin.isEmpty())
        draw_margin_line(p, cell.adjusted(10, 0, -10, 0), MarginSize::cell, row.mark, 20.0, t);
      return;
    case PartModel::kCalibrated: {
      p.setFont(type_font(row.is_overdue ? Type::current : Type::control));
      p.setPen(row.is_overdue ? t.ink : t.mute);
      p.drawText(cell.adjusted(0, 0, -20, 0), Qt::AlignRight | Qt::AlignVCenter, row.calibrated);
      if (row.is_overdue) {
        const double w = QFontMetricsF(p.font()).horizontalAdvance(row.calibrated);
        const QPointF c(cell.right() - 20 - w - 11, cell.center().y());
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(t.marg, 1.4));
        p.setBrush(Qt::NoBrush);
        p.drawPolygon(QPolygonF(
            {c + QPointF(0, -5), c + QPointF(5, 0), c + QPointF(0, 5), c + QPointF(-5, 0)}));
      }
      return;
    }
    default:
      break;
  }
  RowDelegate::paint_cell(p, cell, index, chosen, t);
}

}  // namespace heron

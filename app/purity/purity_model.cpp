#include "app/purity/purity_model.h"

#include <QTableView>

#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {

QString line_name(const PurityLine& line) {
  switch (line.kind) {
    case LineKind::carrier:
      return QObject::tr("carrier");
    case LineKind::harmonic:
      return QObject::tr("%1 harmonic").arg(qt_text(ordinal(line.harmonic)));
    case LineKind::spurious:
      return QObject::tr("non-harmonic");
    case LineKind::instrument:
      return QObject::tr("instrument");
    case LineKind::suppressed_carrier:
      return QObject::tr("residual carrier");
    case LineKind::opposite_sideband:
      return QObject::tr("opposite sideband");
    case LineKind::wide:
      return QObject::tr("wide noise");
  }
  return {};
}

void PurityModel::set_analysis(const std::optional<PurityAnalysis>& analysis) {
  beginResetModel();
  lines_.clear();
  if (analysis) {
    lines_ = analysis->lines;
    is_absolute_ = analysis->is_absolute;
    carrier_as_read_ = analysis->carrier() != nullptr ? analysis->carrier()->as_read_dbm : 0.0;
  }
  endResetModel();
}

QVariant PurityModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole) return {};
  const PurityLine& l = line(index.row());
  const bool is_carrier = l.kind == LineKind::carrier;
  const QString bound = l.is_bound ? QString::fromUtf8("≤ ") : QString();
  switch (index.column()) {
    case kFrequency:
      return qt_text(number_text(l.frequency_hz / 1e6, 3));
    case kWhat:
      return line_name(l);
    case kAsRead:
      return bound + qt_text(number_text(l.as_read_dbm - carrier_as_read_, 1));
    case kCorrection: {
      const double carrier =
          lines_.front().kind == LineKind::carrier ? lines_.front().correction_db : 0.0;
      return qt_text(number_text(l.correction_db - carrier, 1, true));
    }
    case kLevel: {
      if (is_carrier) return qt_text(number_text(0.0, 1));
      const FormattedFigure f = format_figure(line_figure(l), Rounding::compact, 1);
      return (f.bound.empty() ? QString() : qt_text(f.bound) + ' ') + qt_text(f.value) +
             (f.uncertainty.empty() ? QString()
                                    : QString::fromUtf8(" ± ") + qt_text(f.uncertainty));
    }
    case kAbsolute:
      return is_absolute_ ? bound + qt_text(number_text(l.level_dbm, 1, true)) : QString();
    case kLimit:
      return l.limit_dbc ? qt_text(number_text(*l.limit_dbc, 1)) : QString();
    case kMargin:
      return l.judgement ? qt_text(number_text(l.judgement->margin, 1, true)) : QString();
    case kVerdict:
      if (is_carrier) return tr("reference");
      return l.judgement ? qt_text(verdict_word(l.judgement->verdict)) : tr("not judged");
    default:
      return {};
  }
}

QVariant PurityModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  static const char* heads[kColumns] = {"MHz", "What it is", "As measured", "Path corr.", "dBc",
                                        "dBm", "Limit",      "Margin, dB",  "Verdict"};
  return tr(heads[section]);
}

void PurityDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                                bool chosen, const Theme& t) const {
  const auto* model = static_cast<const PurityModel*>(index.model());
  const PurityLine& l = model->line(index.row());
  const double baseline = cell.center().y() + 4.5;
  const QString text = index.data().toString();
  switch (index.column()) {
    case PurityModel::kFrequency: {
      // Decimals stand below one another.
      const double w = figure_text_width(text, Type::figure_chosen, Type::body);
      draw_figure_text(p, {cell.right() - 8 - w, baseline}, text, Type::figure_chosen, Type::body,
                       t.ink);
      return;
    }
    case PurityModel::kWhat:
      p.setFont(type_font(chosen ? Type::current : Type::body));
      p.setPen(l.kind == LineKind::instrument ? t.mute : t.ink);
      draw_elided(p, cell.adjusted(8, 0, -4, 0), Qt::AlignVCenter, text);
      return;
    case PurityModel::kLevel: {
      if (l.kind == LineKind::carrier) {
        RowDelegate::paint_cell(p, cell, index, chosen, t);
        return;
      }
      const QString value = text.section(QString::fromUtf8(" ± "), 0, 0);
      const QString u = text.section(QString::fromUtf8(" ± "), 1, 1);
      const double right = cell.right() - 44;
      const double w = figure_text_width(value, Type::figure_chosen, Type::body);
      draw_figure_text(p, {right - w, baseline}, value, Type::figure_chosen, Type::body, t.ink);
      if (!u.isEmpty())
        draw_figure_text(p, {right + 4, baseline}, QString::fromUtf8("± ") + u, Type::figure,
                         Type::body, t.slate);
      return;
    }
    case PurityModel::kMargin:
      draw_margin_cell(p, cell, l.judgement, 20.0, t);
      return;
    case PurityModel::kVerdict:
      if (l.judgement) {
        draw_verdict(p, {cell.left() + 10, cell.center().y()}, 9, l.judgement->verdict, t);
        p.setPen(verdict_colour(t, l.judgement->verdict));
      } else {
        p.setPen(t.mute);
      }
      p.setFont(type_font(l.judgement ? Type::control_chosen : Type::control));
      p.drawText(QPointF(cell.left() + (l.judgement ? 20 : 6), baseline), text);
      return;
    default:
      RowDelegate::paint_cell(p, cell, index, chosen, t);
  }
}

}  // namespace heron

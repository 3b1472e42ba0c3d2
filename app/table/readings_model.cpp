#include "app/table/readings_model.h"

#include <QPainter>
#include <QTableView>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

int order_of(int column) {
  return 3 + 2 * (column - ReadingsModel::kIm3);
}

const TypedProduct* product_of(const Step& step, int order) {
  for (const TypedProduct& p : step.products) {
    if (p.order == order) return &p;
  }
  return nullptr;
}

}  // namespace

void ReadingsModel::set_test(const TwoToneTest& test, const QString& convention, bool can_edit) {
  // Cells keep their place while one of them is typed into.
  const bool same_shape = steps_.size() == test.steps.size() && can_edit == can_edit_;
  if (!same_shape) beginResetModel();
  steps_ = test.steps;
  doubts_ = test.doubts;
  convention_ = convention.toStdString();
  can_edit_ = can_edit;
  if (same_shape)
    emit dataChanged(index(0, 0), index(rowCount() - 1, kColumns - 1));
  else
    endResetModel();
}

bool ReadingsModel::has_doubt(int row, int column) const {
  return std::any_of(doubts_.begin(), doubts_.end(), [&](const ReadingDoubt& d) {
    const int at = d.order == 0 ? kOutputPep : kIm3 + (d.order - 3) / 2;
    return static_cast<int>(d.step) == row && at == column;
  });
}

QString ReadingsModel::understood(int row) const {
  if (row >= static_cast<int>(steps_.size())) return {};
  const auto& output = steps_[static_cast<std::size_t>(row)].output;
  return output ? qt_text(number_text(output->dbm, 2, true)) + " dBm" : QString();
}

void ReadingsModel::put(Step& step, int column, const QString& raw) const {
  const QString text = raw.trimmed();
  if (column == kStep) {
    if (!text.isEmpty()) step.label = text.left(60).toStdString();
    return;
  }
  if (column == kOutputPep) {
    if (text.isEmpty()) {
      step.output.reset();
      return;
    }
    QuantityOptions options;
    options.default_unit = "W";
    options.is_two_tone = true;
    const double u = step.output && step.output->u_db > 0.0 ? step.output->u_db : 0.1;
    step.output = TypedOutput{
        text.toStdString(), parse_quantity(text.toStdString(), Quantity::level, options).value, u};
    return;
  }
  if (column > kIm9) return;
  const int order = order_of(column);
  std::erase_if(step.products, [&](const TypedProduct& p) { return p.order == order; });
  if (!text.isEmpty())
    step.products.push_back(parse_product(text.toStdString(), order, convention_));
  std::sort(step.products.begin(), step.products.end(),
            [](const TypedProduct& a, const TypedProduct& b) { return a.order < b.order; });
}

std::vector<Step> ReadingsModel::with_block(int row, int column,
                                            const std::vector<QStringList>& block) const {
  std::vector<Step> changed;
  for (std::size_t i = 0; i < block.size(); ++i) {
    const std::size_t at = static_cast<std::size_t>(row) + i;
    Step step;
    if (at < steps_.size())
      step = steps_[at];
    else
      step.label = tr("step %1").arg(at + 1).toStdString();
    for (int k = 0; k < block[i].size() && column + k <= kIm9; ++k) {
      try {
        put(step, column + k, block[i][k]);
      } catch (const InputError& error) {
        throw InputError(
            error.subject,
            tr("row %1, %2")
                .arg(at + 1)
                .arg(headerData(column + k, Qt::Horizontal, Qt::DisplayRole).toString())
                .toStdString(),
            error.reason, error.advice);
      }
    }
    changed.push_back(step);
  }
  return changed;
}

QVariant ReadingsModel::data(const QModelIndex& index, int role) const {
  const bool is_new = index.row() >= static_cast<int>(steps_.size());
  if (role == Qt::ToolTipRole && index.column() == kOutputPep) return understood(index.row());
  if (role != Qt::DisplayRole && role != Qt::EditRole && role != Qt::AccessibleTextRole &&
      role != Qt::ToolTipRole)
    return {};
  if (is_new)
    return index.column() == kStep && role == Qt::DisplayRole ? tr("a new step") : QString();
  const Step& step = steps_[static_cast<std::size_t>(index.row())];
  switch (index.column()) {
    case kStep:
      return qt_text(step.label);
    case kOutputPep:
      return step.output ? qt_text(step.output->typed) : QString();
    case kDoubt: {
      QStringList words;
      for (const ReadingDoubt& d : doubts_) {
        if (static_cast<int>(d.step) == index.row()) words << qt_text(d.text);
      }
      return words.join(' ');
    }
    default: {
      const TypedProduct* p = product_of(step, order_of(index.column()));
      if (p == nullptr) return QString();
      if (role == Qt::EditRole) return qt_text(p->typed);
      // Typed in the other convention: said, not converted behind one's back.
      const QString other = p->convention == convention_ ? QString()
                            : p->convention == kRePep    ? tr(" PEP")
                                                         : tr("c");
      return (p->is_bound ? QString::fromUtf8("≤ ") : QString()) +
             qt_text(number_text(p->level_db, 1)) + other;
    }
  }
}

bool ReadingsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole) return false;
  const QString text = value.toString();
  if (text.trimmed() == data(index, Qt::EditRole).toString().trimmed()) return true;
  try {
    const auto changed_steps = with_block(index.row(), index.column(), {QStringList{text}});
    emit changed(tr("reading of %1").arg(qt_text(changed_steps.front().label)), changed_steps);
    return true;
  } catch (const InputError& error) {
    emit refused(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
}

QVariant ReadingsModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  static const char* heads[kColumns] = {"Drive step", "Output, PEP", "IM3",     "IM5",
                                        "IM7",        "IM9",         "Doubtful"};
  return tr(heads[section]);
}

Qt::ItemFlags ReadingsModel::flags(const QModelIndex& index) const {
  if (!index.isValid()) return Qt::NoItemFlags;
  Qt::ItemFlags flags = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
  if (can_edit_ && index.column() != kDoubt) flags |= Qt::ItemIsEditable;
  return flags;
}

void ReadingsDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                                  bool chosen, const Theme& t) const {
  const auto* model = static_cast<const ReadingsModel*>(index.model());
  const double baseline = cell.center().y() + 4.5;
  if (model->has_doubt(index.row(), index.column())) {
    const QPointF c(cell.left() + 10, cell.center().y());
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(t.marg, 1.4));
    p.setBrush(Qt::NoBrush);
    p.drawPolygon(QPolygonF(
        {c + QPointF(0, -4.5), c + QPointF(4.5, 0), c + QPointF(0, 4.5), c + QPointF(-4.5, 0)}));
  }
  const QString text = index.data().toString();
  switch (index.column()) {
    case ReadingsModel::kOutputPep: {
      if (text.isEmpty()) break;
      const QString understood = model->understood(index.row());
      p.setFont(type_font(Type::label));
      p.setPen(t.mute);
      p.drawText(cell.adjusted(0, 0, -10, 0), Qt::AlignRight | Qt::AlignVCenter, understood);
      draw_cell_frame(p, cell, index, t);
      const double w = QFontMetricsF(p.font()).horizontalAdvance(understood) + 20;
      const double value = figure_text_width(text, Type::figure_chosen, Type::body);
      draw_figure_text(p, {cell.right() - w - value, baseline}, text, Type::figure_chosen,
                       Type::body, t.ink);
      return;
    }
    case ReadingsModel::kDoubt:
      draw_cell_frame(p, cell, index, t);
      p.setFont(type_font(Type::body));
      p.setPen(t.slate);
      draw_elided(p, cell.adjusted(8, 0, -16, 0), Qt::AlignVCenter, text);
      return;
    default:
      break;
  }
  GridDelegate::paint_cell(p, cell, index, chosen, t);
}

}  // namespace heron

#include "app/table/ladder_model.h"

#include <cmath>

#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

QString watts(double dbm) {
  const double w = std::pow(10.0, dbm / 10.0 - 3.0);
  return qt_text(number_text(w, w < 0.995 ? 2 : w < 99.5 ? 1 : 0));
}

LadderModel::Row row_of(const TwoToneTest& t, std::size_t i, const std::string& convention) {
  LadderModel::Row row;
  row.step = qt_text(t.steps[i].label);
  const LadderRow& ladder = t.ladder.rows[i];
  if (ladder.output_dbm) row.output = watts(*ladder.output_dbm);
  const auto& a = t.analyses[i];
  row.is_taken = a.has_value();
  row.is_damaged = !t.steps[i].damage.empty();
  if (!a || a->products.empty()) return row;
  const TwoToneProduct* worst = a->worst();
  for (int k = 0; k < LadderModel::kOrders; ++k) {
    const TwoToneProduct* p = a->worse_side(3 + 2 * k);
    if (p == nullptr) continue;
    const double level = convention == kRePep ? p->level_db_pep : p->level_dbc;
    row.im[k] =
        (p->is_bound ? QString::fromUtf8("≤ ") : QString()) + qt_text(number_text(level, 1));
    row.im_side[k] = p->side == Side::upper ? 2 : 1;
    if (p == worst) row.deciding = k;
  }
  const FormattedFigure f =
      format_figure(product_figure(*a, *worst, convention), Rounding::compact, 1);
  row.worst = qt_text(f.shown());
  row.worst_u = qt_text(f.uncertainty);
  row.has_limit = t.test.limit.has_value();
  if (row.has_limit) {
    row.mark = {ladder.judgement.verdict, ladder.judgement.margin, ladder.judgement.expanded,
                ladder.judgement.bound, std::nullopt};
  }
  row.is_sweet_spot = t.ladder.sweet_spot == i;
  return row;
}

}  // namespace

void LadderModel::set_test(const TwoToneTest& test, const QString& convention) {
  beginResetModel();
  rows_.clear();
  for (std::size_t i = 0; i < test.steps.size(); ++i)
    rows_.push_back(row_of(test, i, convention.toStdString()));
  span_ = test.test.limit ? test.test.limit->span : 20.0;
  endResetModel();
}

QVariant LadderModel::data(const QModelIndex& index, int role) const {
  const Row& r = row(index.row());
  if (role == Qt::AccessibleTextRole && index.column() == kStep) {
    return tr("%1, worst %2 dB, %3")
        .arg(r.step, r.worst.isEmpty() ? tr("not measured") : r.worst,
             qt_text(verdict_word(r.mark.verdict)));
  }
  if (role == Qt::ToolTipRole && r.is_taken) {
    QStringList orders;
    for (int k = 0; k < kOrders; ++k) {
      if (!r.im[k].isEmpty()) orders << tr("IM%1 %2 dB").arg(3 + 2 * k).arg(r.im[k]);
    }
    return orders.join('\n');
  }
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole) return {};
  switch (index.column()) {
    case kStep:
      return r.step;
    case kOutputPep:
      return r.output;
    case kIm3:
      return r.im[0];
    case kIm5:
      return r.im[1];
    case kIm7:
      return r.im[2];
    case kIm9:
      return r.im[3];
    case kWorst:
      return r.worst_u.isEmpty() ? r.worst : r.worst + QString::fromUtf8(" ± ") + r.worst_u;
    case kMargin:
      return r.has_limit && r.is_taken ? qt_text(number_text(r.mark.margin, 1, true)) : QString();
    case kVerdict:
      if (r.is_damaged) return tr("damaged");
      if (!r.is_taken) return tr("not measured");
      if (r.worst.isEmpty()) return tr("no products");
      return r.has_limit ? qt_text(verdict_word(r.mark.verdict)) : tr("no limit");
    default:
      return {};
  }
}

QVariant LadderModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  static const char* heads[kColumns] = {"Drive step", "Output, W", "IM3",        "IM5",    "IM7",
                                        "IM9",        "Worst, dB", "Margin, dB", "Verdict"};
  return tr(heads[section]);
}

}  // namespace heron

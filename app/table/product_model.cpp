#include "app/table/product_model.h"

#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {

void ProductModel::set_analysis(const TwoToneAnalysis* analysis) {
  beginResetModel();
  products_.clear();
  u_db_.clear();
  worst_row_ = -1;
  if (analysis != nullptr) {
    products_ = analysis->products;
    const TwoToneProduct* worst = analysis->worst();
    for (std::size_t i = 0; i < products_.size(); ++i) {
      u_db_.push_back(product_figure(*analysis, products_[i], kReOneTone).expanded());
      if (worst == &analysis->products[i]) worst_row_ = static_cast<int>(i);
    }
  }
  endResetModel();
}

int ProductModel::row_of(int order, bool upper) const {
  for (std::size_t i = 0; i < products_.size(); ++i) {
    if (products_[i].order == order && (products_[i].side == Side::upper) == upper)
      return static_cast<int>(i);
  }
  return -1;
}

QVariant ProductModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole) return {};
  const TwoToneProduct& p = product(index.row());
  const double expanded = u_db_[static_cast<std::size_t>(index.row())];
  const int decimals = p.is_bound ? 1 : std::min(2, decimals_for(expanded, Rounding::compact));
  const auto level = [&](double db) {
    return (p.is_bound ? QString::fromUtf8("≤ ") : QString()) + qt_text(number_text(db, decimals));
  };
  switch (index.column()) {
    case kName:
      return qt_text(product_name(p));
    case kFrequency:
      return qt_text(number_text(p.frequency_hz, 0, true));
    case kOneTone:
      return level(p.level_dbc);
    case kPep:
      return level(p.level_db_pep);
    case kUncertainty:
      return p.is_bound ? tr("bound") : qt_text(number_text(expanded, decimals));
    case kFloor:
      return qt_text(number_text(p.floor_dbc, 1));
    default:
      return {};
  }
}

QVariant ProductModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  static const char* heads[kColumns] = {"Product",   "Offset, Hz", "dB re one tone",
                                        "dB re PEP", "\u00b1 dB",  "Floor, dB re one tone"};
  return tr(heads[section]);
}

}  // namespace heron

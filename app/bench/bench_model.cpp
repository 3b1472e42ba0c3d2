#include "app/bench/bench_model.h"

#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/widget/painted_button.h"
#include "core/quantity/format.h"

namespace heron {

QString bench_fact(const BenchItem& item) {
  const Part& part = item.part;
  if (item.sort == "generator")
    return item.level_means == "emf"   ? QObject::tr("dial in EMF")
           : item.level_means == "pd"  ? QObject::tr("dial in PD")
           : item.level_means == "dbm" ? QObject::tr("dial in dBm")
                                       : QObject::tr("dial not stated");
  if (item.timebase_ppm)
    return QObject::tr("timebase %1")
        .arg(qt_text(quantity_text(Quantity::relative, *item.timebase_ppm)));
  if (item.current_limit_a)
    return QObject::tr("limit %1")
        .arg(qt_text(quantity_text(Quantity::current, *item.current_limit_a)));
  if (item.sort == "rms_voltmeter") return QObject::tr("true RMS");
  if (item.sort == "average_voltmeter") return QObject::tr("average responding");
  if (part.best_input_dbm)
    return QObject::tr("input %1 to %2 dBm")
        .arg(qt_text(number_text(part.best_input_dbm->first, 0)),
             qt_text(number_text(part.best_input_dbm->second, 0)));
  if (part.max_input_w) return qt_text(engineering_text(*part.max_input_w, "W", 3));
  if (find_part_kind(part.kind)->ends_chain) return qt_text(item.resolution);
  if (!part.is_gain_known) return QObject::tr("not stated");
  if (part.gain.is_constant())
    return qt_text(number_text(std::abs(part.gain.largest_db()), 2)) + " dB";
  return QObject::tr("curve, %1 points").arg(part.gain.points().size());
}

Verdict calibration_verdict(const BenchItem& item, const std::string& today) {
  switch (calibration_state(item.part.calibration, today)) {
    case CalibrationState::in_date:
      return Verdict::pass;
    case CalibrationState::due:
      return Verdict::too_close;
    case CalibrationState::overdue:
      return Verdict::stale;
    default:
      return Verdict::not_taken;
  }
}

void BenchModel::set_bench(const std::vector<BenchEntry>& entries, const std::string& today) {
  beginResetModel();
  today_ = today;
  rows_.clear();
  QString group;
  for (const BenchEntry& entry : entries) {
    const BenchSort* sort = find_bench_sort(entry.item.sort);
    const QString here = entry.is_retired ? tr("Retired") : qt_text(sort->group);
    if (here != group) {
      group = here;
      Row head;
      head.is_head = true;
      head.head = here;
      rows_.push_back(head);
    }
    rows_.push_back({false, {}, entry});
  }
  endResetModel();
}

int BenchModel::row_of(Id item) const {
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    if (!rows_[i].is_head && rows_[i].entry.id == item) return static_cast<int>(i);
  }
  return -1;
}

QVariant BenchModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid()) return {};
  const Row& r = row(index.row());
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole && role != Qt::ToolTipRole)
    return {};
  if (r.is_head) return r.head;
  const QString name = qt_text(r.entry.item.part.name);
  if (role == Qt::DisplayRole) return name;  // type to find
  return tr("%1, %2, calibration: %3")
      .arg(name, bench_fact(r.entry.item),
           qt_text(calibration_word(calibration_state(r.entry.item.part.calibration, today_))));
}

Qt::ItemFlags BenchModel::flags(const QModelIndex& index) const {
  if (!index.isValid()) return Qt::NoItemFlags;
  return row(index.row()).is_head ? Qt::NoItemFlags : Qt::ItemIsEnabled | Qt::ItemIsSelectable;
}

void BenchDelegate::paint_row(QPainter& p, const QRectF& box, const QModelIndex& index,
                              bool is_current, const Theme& t) const {
  const BenchModel::Row& row = model_->row(index.row());
  const BenchItem& item = row.entry.item;
  const Verdict verdict = calibration_verdict(item, model_->today());
  draw_verdict(p, {24.5, box.top() + 13}, 10, verdict, t);
  const double right = box.width() - 20;
  const auto age = months_between(item.part.calibration.date, model_->today());
  double name_right = right;
  if (age) {
    const bool overdue = verdict == Verdict::stale;
    const QString words = qt_text(months_text(*age));
    p.setFont(type_font(overdue ? Type::current : Type::label));
    p.setPen(overdue ? t.ink : t.mute);
    p.drawText(QRectF(right - 70, box.top() + 5, 70, 16), Qt::AlignRight | Qt::AlignVCenter, words);
    name_right -= QFontMetricsF(p.font()).horizontalAdvance(words) + 6;
  }
  p.setFont(type_font(is_current ? Type::current : Type::name));
  p.setPen(row.entry.is_retired ? t.mute : t.ink);
  draw_elided(p, QRectF(38, box.top() + 4, name_right - 38, 18), Qt::AlignVCenter,
              qt_text(item.part.name));
  const auto left = months_left(item.part.calibration, model_->today());
  const double fact_right = left ? right - 70 : right;
  draw_figure_text(
      p, {38, box.top() + 32},
      elided_figure_text(bench_fact(item), Type::figure_small, Type::label, fact_right - 38),
      Type::figure_small, Type::label, t.slate);
  if (left) {
    const double span = *item.part.calibration.interval_months;
    draw_margin_line(p, QRectF(right - 62, box.top() + 20, 62, 16), MarginSize::tiny,
                     {verdict, *left, 0.0, Bound::none, std::nullopt}, span, t);
  }
}

}  // namespace heron

#include "app/device/device_rail.h"

#include <QPainter>
#include <algorithm>

#include "app/paint/age_text.h"
#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/method/usual_tests.h"

namespace heron {
namespace {

const QString kRetired = QStringLiteral("~");  // sorts last

QString group_of(const Device& d) {
  if (!d.retired_at.empty()) return kRetired;
  const DeviceKind* kind = find_device_kind(d.kind);
  return kind == nullptr ? QObject::tr("Other devices")
                         : qt_text(std::string(kind->name)) + QStringLiteral("s");
}

/// By the headlines of its latest figures.
void judge_row(const Shack& shack, DeviceRailModel::Row& row) {
  std::vector<std::string> seen;
  std::optional<Judgement> worst;
  int failing = 0;
  for (const KnownFigure& k : known_figures(shack, row.device.id)) {
    if (std::find(seen.begin(), seen.end(), k.characteristic) != seen.end()) continue;
    seen.push_back(k.characteristic);
    if (!k.limit) continue;
    Judgement j = k.headline.judgement;
    if (is_out_of_date(k.headline.taken_at)) j.verdict = Verdict::stale;
    if (j.verdict == Verdict::fail) ++failing;
    if (!worst || is_worse(j, *worst)) worst = j;
  }
  if (worst) row.worst = worst->verdict;
  row.word = failing > 0    ? QObject::tr(failing == 1 ? "%1 fails" : "%1 fail").arg(failing)
             : worst        ? qt_text(verdict_word(worst->verdict)).toLower()
             : seen.empty() ? QObject::tr("nothing yet")
                            : QObject::tr("no limit");
}

}  // namespace

void DeviceRailModel::load(const Shack& shack) {
  beginResetModel();
  rows_.clear();
  std::vector<Device> all = devices(shack);
  count_ = static_cast<int>(all.size());
  // In the order in which their kinds first come.
  std::vector<QString> groups;
  for (const Device& d : all)
    if (std::find(groups.begin(), groups.end(), group_of(d)) == groups.end())
      groups.push_back(group_of(d));
  std::stable_partition(groups.begin(), groups.end(),
                        [](const QString& g) { return g != kRetired; });
  for (const QString& group : groups) {
    Row head;
    head.is_head = true;
    head.head = group == kRetired ? tr("Retired") : group;
    rows_.push_back(head);
    for (const Device& d : all) {
      if (group_of(d) != group) continue;
      Row row;
      row.device = d;
      judge_row(shack, row);
      rows_.push_back(std::move(row));
    }
  }
  endResetModel();
}

int DeviceRailModel::row_of(Id device) const {
  const auto found = std::find_if(rows_.begin(), rows_.end(), [&](const Row& r) {
    return !r.is_head && r.device.id == device;
  });
  return found == rows_.end() ? -1 : static_cast<int>(found - rows_.begin());
}

QVariant DeviceRailModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole) return {};
  const Row& r = row(index.row());
  return r.is_head ? r.head
                   : tr("%1, %2, %3").arg(qt_text(r.device.name), qt_text(r.device.kind), r.word);
}

Qt::ItemFlags DeviceRailModel::flags(const QModelIndex& index) const {
  if (!index.isValid() || row(index.row()).is_head) return Qt::NoItemFlags;
  return Qt::ItemIsEnabled | Qt::ItemIsSelectable;
}

void DeviceRailDelegate::paint_row(QPainter& p, const QRectF& box, const QModelIndex& index,
                                   bool is_current, const Theme& t) const {
  const DeviceRailModel::Row& row = model_->row(index.row());
  draw_verdict(p, {24.5, box.top() + 15}, 10, row.worst, t);
  const double right = box.width() - 20;
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  const double w = QFontMetricsF(p.font()).horizontalAdvance(row.word);
  p.drawText(QRectF(right - w - 1, box.top() + 6, w + 1, 18), Qt::AlignVCenter, row.word);
  const bool is_retired = !row.device.retired_at.empty();
  p.setFont(type_font(is_current ? Type::current : Type::name));
  p.setPen(is_retired ? t.mute : t.ink);
  draw_elided(p, QRectF(38, box.top() + 6, right - w - 46, 18), Qt::AlignVCenter,
              qt_text(row.device.name));
  p.setFont(type_font(Type::label));
  p.setPen(is_retired ? t.mute : t.slate);
  const QString serial = qt_text(row.device.serial);
  draw_elided(p, QRectF(38, box.top() + 24, right - 38, 16), Qt::AlignVCenter,
              qt_text(row.device.kind) + (serial.isEmpty() ? QString() : " \u00b7 " + serial));
}

}  // namespace heron

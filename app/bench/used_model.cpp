#include "app/bench/used_model.h"

#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/chain/node_verdict.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "store/bench.h"
#include "store/clock.h"
#include "store/evaluation.h"
#include "store/hookup.h"

namespace heron {
namespace {

/// Fills in level and margin where the test plans a drive.
void rate(UsedModel::Row& row, const Chain& chain, std::size_t part,
          const std::optional<Drive>& drive) {
  if (!drive) return;
  try {
    const ChainResult result = evaluate_chain(chain, *drive);
    const ChainNode& node = result.nodes.at(part);
    const NodeVerdict v = judge_node(chain.parts[part], node, *drive);
    row.level = qt_text(number_text(node.level_dbm, 1, true));
    row.limit = qt_text(v.limit);
    row.mark.verdict = v.verdict;
    if (!v.margin_db) return;
    row.margin = qt_text(number_text(*v.margin_db, 1, true));
    row.mark.margin = *v.margin_db;
    row.mark.expanded = 2.0 * node.u_db;
  } catch (const InputError& error) {
    row.limit = qt_text(error.reason);
  }
}

}  // namespace

void UsedModel::set_item(const Shack& shack, Id item) {
  beginResetModel();
  rows_.clear();
  for (const Hookup& hookup : hookups(shack)) {
    const auto version = readable_version(shack, hookup.id);
    if (!version) continue;  // told where it is used
    const Chain chain = aged(version->chain, utc_now());
    for (std::size_t i = 0; i < chain.parts.size(); ++i) {
      if (chain.parts[i].bench_id != bench_name(item)) continue;
      const auto uses = hookup_uses(shack, hookup.id);
      for (const HookupUse& use : uses) {
        Row row{hookup.id,
                use.evaluation_id,
                use.test_id,
                qt_text(hookup.name),
                qt_text(use.device + ", " + use.test),
                {},
                {},
                {},
                {},
                use.figures};
        rate(row, chain, i, test(shack, use.test_id).drive);
        rows_.push_back(row);
      }
      if (uses.empty()) {
        Row row;
        row.hookup = hookup.id;
        row.name = qt_text(hookup.name);
        row.device = tr("no test yet");
        rows_.push_back(row);
      }
    }
  }
  endResetModel();
}

std::vector<BenchUse> UsedModel::uses() const {
  std::vector<BenchUse> uses;
  for (const Row& r : rows_)
    uses.push_back({r.name.toStdString(), r.device.toStdString(), r.limit.toStdString(),
                    r.margin.isEmpty() ? std::nullopt : std::optional(r.mark.margin),
                    r.mark.verdict});
  return uses;
}

QVariant UsedModel::data(const QModelIndex& index, int role) const {
  const Row& r = row(index.row());
  if (role == Qt::ToolTipRole) return r.limit;
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole) return {};
  switch (index.column()) {
    case kHookup:
      return r.name;
    case kTest:
      return r.device;
    case kLevel:
      return r.level;
    case kMarginDb:
      return r.margin;
    case kMargin:
      return r.limit;
    case kFigures:
      return r.figures;
    default:
      return {};
  }
}

QVariant UsedModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  static const char* heads[kColumns] = {"Used in",    "Device and test", "Input, dBm",
                                        "Margin, dB", "Verdict",         "Recordings on it"};
  return tr(heads[section]);
}

void UsedDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                              bool chosen, const Theme& t) const {
  const auto* model = static_cast<const UsedModel*>(index.model());
  const UsedModel::Row& row = model->row(index.row());
  switch (index.column()) {
    case UsedModel::kHookup:
      p.setFont(type_font(Type::link));
      p.setPen(t.water);
      draw_elided(p, cell.adjusted(20, 0, -6, 0), Qt::AlignVCenter, row.name);
      return;
    case UsedModel::kTest:
      p.setFont(type_font(Type::body));
      p.setPen(t.slate);
      draw_elided(p, cell.adjusted(8, 0, -6, 0), Qt::AlignVCenter, row.device);
      return;
    case UsedModel::kMargin:
      if (!row.margin.isEmpty())
        draw_margin_line(p, cell.adjusted(10, 0, -10, 0), MarginSize::cell, row.mark, 20.0, t);
      return;
    case UsedModel::kFigures:
      RowDelegate::paint_cell(p, cell.adjusted(0, 0, -10, 0), index, chosen, t);
      return;
    default:
      RowDelegate::paint_cell(p, cell, index, chosen, t);
  }
}

}  // namespace heron

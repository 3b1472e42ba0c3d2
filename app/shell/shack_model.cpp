#include "app/shell/shack_model.h"

#include <QPainter>
#include <QTableView>
#include <set>

#include "app/paint/age_text.h"
#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/shell/course_rail.h"
#include "app/theme/qt_text.h"
#include "app/widget/painted_button.h"
#include "core/method/usual_tests.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

/// An evaluation with its tests.
struct Told {
  Id evaluation;
  std::vector<Test> tests;
};

/// Newest first.
std::vector<Told> told_of(const Shack& shack, const Device& device) {
  std::vector<Told> all;
  for (const Evaluation& e : evaluations(shack, device.id))
    all.push_back({e.id, tests(shack, e.id)});
  return all;
}

/// What a device is asked: by its specification, by its tests, or while it has neither by its kind.
void add_asked(const Device& device, const std::vector<Told>& told, std::set<std::string>& asked) {
  for (const SpecLine& line : device.specification) asked.insert(line.characteristic);
  for (const Told& t : told)
    for (const Test& test : t.tests) asked.insert(test.characteristic);
  const DeviceKind* kind = find_device_kind(device.kind);
  if (kind == nullptr || !device.specification.empty() || !told.empty()) return;
  for (const UsualTest& usual : kind->tests) asked.insert(std::string(usual.characteristic));
}

/// Latest and one before, over all evaluations of a device.
void fill_cells(const std::vector<Told>& told, ShackRow& row,
                const std::vector<const Characteristic*>& shown) {
  row.cells.assign(shown.size(), {});
  for (const SpecLine& line : row.device.specification) {
    for (std::size_t c = 0; c < shown.size(); ++c) {
      if (shown[c]->id != line.characteristic) continue;
      row.cells[c].is_wanted = true;
      row.cells[c].limit = line.limit;
    }
  }
  for (const Told& of : told) {
    if (row.latest_evaluation == 0) row.latest_evaluation = of.evaluation;
    std::vector<bool> seen(shown.size(), false);
    for (const Test& t : of.tests) {
      for (std::size_t c = 0; c < shown.size(); ++c) {
        ShackCell& cell = row.cells[c];
        if (shown[c]->id != t.characteristic || seen[c]) continue;
        cell.is_wanted = true;
        if (!t.headline) continue;
        seen[c] = true;
        if (!cell.headline) {
          cell.headline = t.headline;
          cell.limit = t.headline_limit();
          cell.evaluation = of.evaluation;
          cell.test = t.id;
        } else if (!cell.before &&
                   cell.headline->figure.convention == t.headline->figure.convention) {
          // Only what is told in the same way, or was injected at the same point, is compared.
          cell.before = t.headline;
        }
      }
    }
  }
}

bool has_failing(const ShackRow& row) {
  return std::any_of(row.cells.begin(), row.cells.end(),
                     [](const ShackCell& c) { return cell_verdict(c) == Verdict::fail; });
}

}  // namespace

int out_of_date_count(const ShackRow& row) {
  return static_cast<int>(std::count_if(row.cells.begin(), row.cells.end(), [](const ShackCell& c) {
    return cell_verdict(c) == Verdict::stale;
  }));
}

int repeat_count(const ShackRow& row) {
  return static_cast<int>(std::count_if(row.cells.begin(), row.cells.end(), is_to_repeat));
}

bool is_to_repeat(const ShackCell& cell) {
  return cell.headline && cell.headline->is_provisional && cell_verdict(cell) != Verdict::stale;
}

Verdict cell_verdict(const ShackCell& cell) {
  return shown_verdict(cell.headline, cell.limit.has_value());
}

QString cell_figure(const Headline& headline) {
  const FormattedFigure f = format_figure(headline.figure, Rounding::compact, 1);
  return qt_text(f.shown()) + " " + qt_text(headline.figure.unit);
}

void ShackModel::load(const Shack& shack, Filter filter) {
  beginResetModel();
  all_.clear();
  rows_.clear();
  shown_.clear();
  std::vector<std::vector<Told>> told;
  std::set<std::string> asked;
  for (const Device& d : devices(shack)) {
    if (!d.retired_at.empty()) continue;
    all_.push_back({d, {}, 0});
    told.push_back(told_of(shack, d));
    add_asked(d, told.back(), asked);
  }
  for (const Characteristic& c : characteristics()) {
    const bool is_asked = asked.contains(std::string(c.id));
    // Nothing asked at all: what could be is shown.
    if (is_asked ? c.has_column || !c.has_method : asked.empty() && c.has_method && c.has_column)
      shown_.push_back(&c);
  }
  for (std::size_t i = 0; i < all_.size(); ++i) {
    ShackRow& row = all_[i];
    fill_cells(told[i], row, shown_);
    const bool kept = filter == Filter::all ||
                      (filter == Filter::due && out_of_date_count(row) + repeat_count(row) > 0) ||
                      (filter == Filter::failing && has_failing(row));
    if (kept) rows_.push_back(row);
  }
  endResetModel();
}

int ShackModel::due_count() const {
  int count = 0;
  for (const ShackRow& row : all_) count += out_of_date_count(row);
  return count;
}

int ShackModel::repeats() const {
  int count = 0;
  for (const ShackRow& row : all_) count += repeat_count(row);
  return count;
}

int ShackModel::failing_count() const {
  int count = 0;
  for (const ShackRow& row : all_) {
    count +=
        static_cast<int>(std::count_if(row.cells.begin(), row.cells.end(), [](const ShackCell& c) {
          return cell_verdict(c) == Verdict::fail;
        }));
  }
  return count;
}

QVariant ShackModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole && role != Qt::ToolTipRole)
    return {};
  const ShackRow& r = row(index.row());
  if (index.column() == 0)
    return qt_text(r.device.name) +
           (role == Qt::DisplayRole ? QString() : "\n" + qt_text(r.device.note));
  if (index.column() == columnCount() - 1) {
    const int old = out_of_date_count(r);
    const int repeats = repeat_count(r);
    return old > 0 && repeats > 0     ? tr("%1 due").arg(old + repeats)
           : old > 0                  ? tr("%1 out of date").arg(old)
           : repeats > 0              ? tr("%1 to repeat").arg(repeats)
           : r.latest_evaluation == 0 ? tr("nothing measured")
                                      : tr("nothing due");
  }
  const ShackCell& c = r.cells[static_cast<std::size_t>(index.column() - 1)];
  const QString name = QString::fromUtf8(characteristic(index.column()).test.data());
  if (!c.is_wanted) return role == Qt::DisplayRole ? QString() : tr("%1: not asked for").arg(name);
  const QString limit = c.limit ? tr(", limit %1").arg(qt_text(limit_text(*c.limit))) : QString();
  if (!c.headline) return tr("%1: not measured%2").arg(name, limit);
  return tr("%1: %2, %3%4, %5")
      .arg(name, cell_figure(*c.headline),
           qt_text(verdict_word(cell_verdict(c), c.headline->is_provisional)), limit,
           age_text(c.headline->taken_at));
}

QVariant ShackModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  if (section == 0) return tr("Device");
  if (section == columnCount() - 1) return tr("What is due");
  return QString::fromUtf8(characteristic(section).title.data());
}

void ShackDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option,
                          const QModelIndex& index) const {
  const auto* model = static_cast<const ShackModel*>(index.model());
  const Theme& t = theme_of(view_);
  const QRectF box(option.rect);
  const bool chosen = view_->currentIndex().row() == index.row();
  painter->save();
  painter->setRenderHint(QPainter::Antialiasing);
  if (chosen) painter->fillRect(box, t.waterTint);
  if (chosen && index.column() == 0)
    painter->fillRect(QRectF(box.left(), box.top(), 3, box.height()), t.water);
  if (index.row() + 1 < model->rowCount() && !chosen)
    painter->fillRect(
        QRectF(box.left() + (index.column() == 0 ? 20 : 0), box.bottom(), box.width(), 1), t.hair);
  if (has_keyboard_focus(view_) && view_->currentIndex() == index) {
    painter->setPen(QPen(t.water, 2));
    painter->setBrush(Qt::NoBrush);
    painter->drawRoundedRect(box.adjusted(2, 2, -2, -2), 4, 4);
  }
  const ShackRow& row = model->row(index.row());
  if (index.column() == 0) {
    painter->setFont(type_font(Type::device));
    painter->setPen(t.ink);
    draw_elided(*painter, QRectF(box.left() + 20, box.top() + 11, box.width() - 24, 20),
                Qt::AlignVCenter, qt_text(row.device.name));
    painter->setFont(type_font(Type::label));
    painter->setPen(t.slate);
    draw_elided(*painter, QRectF(box.left() + 20, box.top() + 31, box.width() - 24, 18),
                Qt::AlignVCenter,
                qt_text(row.device.kind +
                        (row.device.serial.empty() ? "" : " \u00b7 " + row.device.serial)));
  } else if (index.column() == model->columnCount() - 1) {
    const bool is_due = out_of_date_count(row) + repeat_count(row) > 0;
    painter->setFont(type_font(is_due ? Type::control_chosen : Type::control));
    painter->setPen(is_due ? t.ink : t.mute);
    painter->drawText(QRectF(box.left() + 8, box.top(), box.width() - 16, box.height()),
                      Qt::AlignVCenter, index.data().toString());
  } else {
    paint_cell(*painter, box, row.cells[static_cast<std::size_t>(index.column() - 1)],
               model->characteristic(index.column()).span);
  }
  painter->restore();
}

void ShackDelegate::paint_cell(QPainter& p, const QRectF& box, const ShackCell& cell,
                               double span) const {
  const Theme& t = theme_of(view_);
  if (!cell.is_wanted) {
    p.fillRect(QRectF(box.left() + 4, box.center().y(), 8, 1), t.hairStrong);
    return;
  }
  constexpr double kNarrow = 90.0;
  const double y = box.top() + 20;
  // With many columns everything moves together, and ends before the next one.
  const double words = box.width() < kNarrow ? 14.0 : 18.0;
  const double room = box.width() - words;
  draw_verdict(p, {box.left() + 8, y}, 9, cell_verdict(cell), t,
               cell.headline && cell.headline->is_provisional);
  if (!cell.headline) {
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    draw_elided(p, QRectF(box.left() + words, y - 8, room, 16), Qt::AlignVCenter,
                room < 72.0 ? QObject::tr("to do") : QObject::tr("not measured"));
    if (cell.limit)
      draw_elided(p, QRectF(box.left() + 4, y + 13, box.width() - 6, 16), Qt::AlignVCenter,
                  qt_text(limit_text(*cell.limit)));
    return;
  }
  draw_figure_text(p, {box.left() + words, y + 4.5},
                   elided_figure_text(cell_figure(*cell.headline), Type::figure_small,
                                      Type::control_chosen, room),
                   Type::figure_small, Type::control_chosen, t.ink);
  const bool old = cell_verdict(cell) == Verdict::stale;
  QFont age = type_font(Type::label);
  if (old) age.setWeight(QFont::DemiBold);
  const QString age_words = age_text(cell.headline->taken_at);
  const double age_width = QFontMetricsF(age).horizontalAdvance(age_words);
  const double line_width = std::min(54.0, box.width() - 14 - age_width);
  if (cell.limit && line_width > 24) {
    const Judgement& j = cell.headline->judgement;
    draw_margin_line(p, QRectF(box.left() + 4, box.top() + 33, line_width, 16), MarginSize::tiny,
                     {cell_verdict(cell), j.margin, j.expanded, j.bound, std::nullopt},
                     cell.limit->span > 0 ? cell.limit->span : span, t);
  }
  p.setFont(age);
  p.setPen(old ? t.ink : t.mute);
  p.drawText(QRectF(box.left() + 6 + line_width, box.top() + 33, age_width + 4, 16),
             Qt::AlignVCenter | Qt::AlignLeft, age_words);
}

}  // namespace heron

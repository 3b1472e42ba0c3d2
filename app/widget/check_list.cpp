#include "app/widget/check_list.h"

#include <QPainter>
#include <QStyledItemDelegate>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/widget/painted_button.h"

namespace heron {
namespace {

constexpr int kIdRole = Qt::UserRole;
constexpr int kReason = Qt::UserRole + 1;

/// A box, what it is, and why it is offered.
class CheckDelegate : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {0, CheckList::kRowHeight};
  }
  void paint(QPainter* p, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override {
    const auto* view = static_cast<const QWidget*>(parent());
    const Theme& t = theme_of(view);
    const QRectF row(option.rect);
    const bool is_taken = index.data(Qt::CheckStateRole).toInt() == Qt::Checked;
    p->setRenderHint(QPainter::Antialiasing);
    if (option.state & QStyle::State_Selected) p->fillRect(row, t.waterTint);
    const QRectF box(row.left() + 12, row.center().y() - 8, 16, 16);
    p->setPen(QPen(is_taken ? t.water : t.hairStrong, 1.5));
    p->setBrush(is_taken ? t.water : t.sheet);
    p->drawRoundedRect(box, 3, 3);
    if (is_taken) {
      p->setPen(QPen(t.sheet, 2));
      p->drawPolyline(QPolygonF{{box.left() + 3.5, box.center().y()},
                                {box.left() + 7, box.bottom() - 4},
                                {box.right() - 3.5, box.top() + 4.5}});
    }
    p->setFont(type_font(Type::name));
    p->setPen(is_taken ? t.ink : t.mute);
    draw_elided(*p, QRectF(row.left() + 40, row.top() + 4, row.width() - 90, 18), Qt::AlignVCenter,
                index.data(Qt::DisplayRole).toString());
    p->setFont(type_font(Type::label));
    p->setPen(is_taken ? t.slate : t.mute);
    draw_elided(*p, QRectF(row.left() + 40, row.top() + 22, row.width() - 90, 16), Qt::AlignVCenter,
                index.data(kReason).toString());
    if (static_cast<const CheckList*>(view)->can_move()) draw_handle(*p, row, t);
    p->fillRect(QRectF(row.left() + 12, row.bottom(), row.width() - 24, 1), t.hair);
    if ((option.state & QStyle::State_HasFocus) && has_keyboard_focus(view))
      draw_focus_ring(*p, row.adjusted(2, 2, -2, -2), 5, t);
  }

 private:
  /// Where it is taken hold of.
  static void draw_handle(QPainter& p, const QRectF& row, const Theme& t) {
    p.setPen(QPen(t.hairStrong, 1.5));
    for (const double dy : {-3.0, 0.0, 3.0})
      p.drawLine(QPointF(row.right() - 28, row.center().y() + dy),
                 QPointF(row.right() - 16, row.center().y() + dy));
  }
};

}  // namespace

CheckList::CheckList(bool can_move, QWidget* parent) : QListWidget(parent), can_move_(can_move) {
  setItemDelegate(new CheckDelegate(this));
  if (can_move) setDragDropMode(QAbstractItemView::InternalMove);
  setFrameShape(QFrame::NoFrame);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  watch_keyboard_focus(this);
}

void CheckList::add(const QString& name, const QString& reason, const QString& id, bool is_taken) {
  auto* item = new QListWidgetItem(name);
  item->setData(kIdRole, id);
  item->setData(kReason, reason);
  item->setData(Qt::AccessibleTextRole, name + ", " + reason);
  Qt::ItemFlags flags = Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable;
  if (can_move_) flags |= Qt::ItemIsDragEnabled;
  item->setFlags(flags);
  item->setCheckState(is_taken ? Qt::Checked : Qt::Unchecked);
  addItem(item);
}

QStringList CheckList::taken() const {
  QStringList all;
  for (int i = 0; i < count(); ++i)
    if (item(i)->checkState() == Qt::Checked) all << item(i)->data(kIdRole).toString();
  return all;
}

}  // namespace heron

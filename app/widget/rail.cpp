#include "app/widget/rail.h"

#include <QPainter>
#include <QVBoxLayout>

#include "app/paint/rail_card.h"
#include "app/theme/fonts.h"
#include "app/widget/painted_button.h"
#include "app/widget/words.h"

namespace heron {

Rail make_rail(const QString& heading) {
  Rail rail;
  rail.widget = new QWidget;
  auto* column = new QVBoxLayout(rail.widget);
  column->setContentsMargins(0, 12, 0, 8);
  column->setSpacing(0);
  auto* head = new QHBoxLayout;
  head->setContentsMargins(16, 0, 16, 0);
  head->addWidget(new Words(heading, Type::heading));
  head->addStretch();
  rail.count = new Words({}, Type::label, Tone::mute);
  head->addWidget(rail.count);
  column->addLayout(head);
  column->addSpacing(8);
  rail.list = new QListView;
  rail.list->setFrameShape(QFrame::NoFrame);
  rail.list->setMouseTracking(true);
  watch_keyboard_focus(rail.list);
  rail.list->setAccessibleName(heading);
  rail.list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  rail.list->viewport()->setAutoFillBackground(false);
  column->addWidget(rail.list, 1);
  rail.foot = new QHBoxLayout;
  rail.foot->setContentsMargins(8, 8, 8, 0);
  column->addLayout(rail.foot);
  return rail;
}

void lay_out_page(QWidget& page, QWidget* rail, QWidget* sheet, QWidget* right) {
  auto* row = new QHBoxLayout(&page);
  row->setContentsMargins(0, 0, 8, 0);
  row->setSpacing(0);
  row->addWidget(rail);
  auto* box = new QVBoxLayout;
  box->setContentsMargins(0, 8, 8, 8);
  box->addWidget(sheet);
  row->addLayout(box, 1);
  row->addWidget(right);
}

void draw_rail_ground(QPainter& p, const QRectF& box, const QListView& view,
                      const QModelIndex& index, bool is_current) {
  const Theme& t = theme_of(&view);
  const QRectF card = box.adjusted(8, 0, -8, 0);
  if (is_current) {
    draw_rail_card(p, card, has_keyboard_focus(&view), t);
  } else if (view.underMouse() &&
             view.indexAt(view.viewport()->mapFromGlobal(QCursor::pos())) == index) {
    p.setPen(Qt::NoPen);
    p.setBrush(t.hoverPaper);
    p.drawRoundedRect(card, 6, 6);
  }
}

RailDelegate::RailDelegate(QListView* view, int row_height)
    : QStyledItemDelegate(view), view_(view), row_height_(row_height) {}

QSize RailDelegate::sizeHint(const QStyleOptionViewItem&, const QModelIndex& index) const {
  constexpr int kHeadHeight = 28;
  return {200, head(index).isNull() ? row_height_ : kHeadHeight};
}

void RailDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option,
                         const QModelIndex& index) const {
  const Theme& t = theme_of(view_);
  const QRectF box(option.rect);
  painter->save();
  painter->setRenderHint(QPainter::Antialiasing);
  if (const QString words = head(index); !words.isNull()) {
    painter->setFont(strong_label());
    painter->setPen(t.slate);
    painter->drawText(QRectF(16, box.top() + 8, box.width() - 32, 18), Qt::AlignVCenter, words);
  } else {
    const bool is_current = view_->currentIndex() == index;
    draw_rail_ground(*painter, box, *view_, index, is_current);
    paint_row(*painter, box, index, is_current, t);
  }
  painter->restore();
}

}  // namespace heron

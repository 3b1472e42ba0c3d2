#include "app/widget/next_card.h"

#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr int kEntryInset = 16;
constexpr int kNextHead = 40;
constexpr int kNextFoot = 30;

}  // namespace

NextEntry::NextEntry(int number, const NextList::Entry& entry, QWidget* parent)
    : PaintedButton(parent), number_(number), entry_(entry) {
  setText(qt_text(entry.what));
  const QString all =
      qt_text(entry.what + ", " + entry.why + (entry.cost.empty() ? "" : ", " + entry.cost));
  setAccessibleName(all);
  setToolTip(all);
  setFixedHeight(46);
  setEnabled(entry.opens.has_value());
  if (entry.opens) setCursor(Qt::PointingHandCursor);
}

void NextEntry::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  if (shows_focus()) {
    p.setPen(QPen(t.water, 2));
    p.drawRoundedRect(QRectF(rect()).adjusted(6, 2, -6, -2), 5, 5);
  }
  p.fillRect(QRectF(kEntryInset, height() - 1, width() - 2 * kEntryInset, 1), t.hair);
  p.setFont(type_font(Type::control));
  const QString cost = qt_text(entry_.cost);
  const double cost_width = QFontMetricsF(p.font()).horizontalAdvance(cost);
  const double right = width() - kEntryInset;
  p.setPen(t.slate);
  p.drawText(QRectF(right - cost_width - 1, 4, cost_width + 1, 20), Qt::AlignVCenter, cost);
  p.setPen(t.water);
  p.drawText(QRectF(kEntryInset, 4, 16, 20), Qt::AlignVCenter, QString::number(number_));
  p.setFont(type_font(Type::control_chosen));
  p.setPen(underMouse() && isEnabled() ? t.water : t.ink);
  draw_elided(p, QRectF(kEntryInset + 18, 4, right - cost_width - kEntryInset - 26, 20),
              Qt::AlignVCenter, text());
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  draw_elided(p, QRectF(kEntryInset + 18, 22, right - kEntryInset - 18, 18), Qt::AlignVCenter,
              qt_text(entry_.why));
}

NextCard::NextCard(QWidget* parent) : Card(parent), column_(card_column(this)) {
  column_->setContentsMargins(1, kNextHead, 1, 1);
  hide();
}

void NextCard::set_list(const NextList* list) {
  setVisible(list != nullptr);
  for (NextEntry* entry : entries_) {
    entry->hide();
    entry->deleteLater();
  }
  entries_.clear();
  if (list == nullptr) return;
  list_ = *list;
  int number = 0;
  for (const NextList::Entry& e : list_.entries) {
    auto* entry = new NextEntry(++number, e, this);
    column_->addWidget(entry);
    entries_.push_back(entry);
    if (e.opens)
      connect(entry, &QAbstractButton::clicked, this,
              [this, link = *e.opens] { emit asked(link); });
  }
  setAccessibleName(qt_text(list_.head + (list_.foot.empty() ? "" : ". " + list_.foot)));
  setFixedHeight(kNextHead + 46 * number + (list_.foot.empty() ? 6 : kNextFoot));
  column_->setContentsMargins(1, kNextHead, 1, list_.foot.empty() ? 6 : kNextFoot);
  update();
}

void NextCard::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  QPainter p(this);
  const Theme& t = theme_of(this);
  p.setFont(type_font(Type::label));
  const QString cost = qt_text(list_.cost);
  const double w = QFontMetricsF(p.font()).horizontalAdvance(cost);
  p.setPen(t.slate);
  p.drawText(QRectF(width() - kEntryInset - w - 1, 12, w + 1, 22), Qt::AlignVCenter, cost);
  p.setFont(type_font(Type::heading));
  p.setPen(t.ink);
  draw_elided(p, QRectF(kEntryInset, 12, width() - 2 * kEntryInset - w - 8, 22), Qt::AlignVCenter,
              qt_text(list_.head));
  if (list_.foot.empty()) return;
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  draw_elided(p, QRectF(kEntryInset, height() - kNextFoot + 4, width() - 2 * kEntryInset, 20),
              Qt::AlignVCenter, qt_text(list_.foot));
}

}  // namespace heron

#include "app/widget/segmented.h"

#include <QButtonGroup>
#include <QFocusEvent>
#include <QFontMetricsF>
#include <QHBoxLayout>
#include <QPainter>
#include <QRadioButton>
#include <cmath>

#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"
#include "app/widget/painted_button.h"

namespace heron {
namespace {

constexpr int kPadding = 16;  // px beside the words of a segment, both sides
constexpr int kTightPadding = 10;
constexpr int kHeight = 26;
constexpr int kMost = 6;

/// One of the values.
class Segment : public QRadioButton {
 public:
  using QRadioButton::QRadioButton;
  QSize sizeHint() const override {
    // As wide as when it is chosen, so that nothing moves.
    const QFontMetricsF metrics(type_font(Type::control_chosen));
    return {static_cast<int>(std::ceil(metrics.horizontalAdvance(text()))) +
                (parentWidget()->property("tight").toBool() ? kTightPadding : kPadding),
            kHeight - 4};
  }
  QSize minimumSizeHint() const override { return sizeHint(); }

 protected:
  bool hitButton(const QPoint& at) const override { return rect().contains(at); }
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    if (isChecked()) {
      p.setPen(t.is_dark ? QPen(Qt::NoPen) : QPen(t.hairStrong));
      p.setBrush(t.segOn);
      p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4.5, 4.5);
    }
    p.setFont(type_font(isChecked() ? Type::control_chosen : Type::control));
    p.setPen(isChecked() ? t.ink : t.slate);
    p.drawText(QRectF(rect()), Qt::AlignCenter, text());
  }
  void focusInEvent(QFocusEvent* event) override {
    parentWidget()->setProperty("showsFocus", is_keyboard_focus(event->reason()));
    parentWidget()->update();
    QRadioButton::focusInEvent(event);
  }
  void focusOutEvent(QFocusEvent* event) override {
    parentWidget()->setProperty("showsFocus", false);
    parentWidget()->update();
    QRadioButton::focusOutEvent(event);
  }
};

}  // namespace

Segmented::Segmented(const QString& name, const QStringList& choices, QWidget* parent)
    : QWidget(parent), group_(new QButtonGroup(this)) {
  setAccessibleName(name);
  setFixedHeight(kHeight);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(2, 2, 2, 2);
  row->setSpacing(0);
  connect(group_, &QButtonGroup::idClicked, this, [this](int index) {
    if (index == current_) return;
    set_current(index);
    emit chosen(index);
  });
  fill(choices);
}

void Segmented::fill(const QStringList& choices) {
  const auto wanted = static_cast<int>(choices.size());
  // Made before this is in a window, so that they come one after the other in the tab order.
  for (int i = static_cast<int>(group_->buttons().size()); i < std::max(wanted, kMost); ++i) {
    auto* segment = new Segment(this);
    group_->addButton(segment, i);
    layout()->addWidget(segment);
  }
  const bool has_focus = hasFocus();
  count_ = wanted;
  for (int i = 0; i < static_cast<int>(group_->buttons().size()); ++i) {
    QAbstractButton* segment = group_->button(i);
    segment->setVisible(i < wanted);
    if (i >= wanted) continue;
    segment->setText(choices[i]);
    segment->setAccessibleName(accessibleName() + ": " + choices[i]);
    segment->updateGeometry();
  }
  set_current(0);
  if (has_focus) setFocus(Qt::NoFocusReason);
  updateGeometry();
}

void Segmented::set_tight(bool tight) {
  if (property("tight").toBool() == tight) return;
  setProperty("tight", tight);
  for (QAbstractButton* segment : group_->buttons()) segment->updateGeometry();
  updateGeometry();
}

int Segmented::current() const {
  return current_;
}

QString Segmented::current_text() const {
  return group_->button(current_)->text();
}

void Segmented::set_choices(const QStringList& choices) {
  QStringList now;
  for (int i = 0; i < count_; ++i) now << group_->button(i)->text();
  if (!choices.isEmpty() && choices != now) fill(choices);
}

void Segmented::set_current(int index) {
  current_ = std::clamp(index, 0, count_ - 1);
  group_->button(current_)->setChecked(true);
  setFocusProxy(group_->button(current_));
}

QSize Segmented::sizeHint() const {
  int width = 4;
  for (int i = 0; i < count_; ++i) width += group_->button(i)->sizeHint().width();
  return {width, kHeight};
}

void Segmented::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setPen(Qt::NoPen);
  p.setBrush(t.sunk);
  p.drawRoundedRect(rect(), 6, 6);
  if (property("showsFocus").toBool()) draw_focus_ring(p, rect(), 6, t);
}

}  // namespace heron

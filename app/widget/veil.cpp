#include "app/widget/veil.h"

#include <QEvent>
#include <QPainter>

#include "app/theme/theme.h"

namespace heron {
namespace {

constexpr int kAlpha = 160;  // of 255: what lies below can still be read
constexpr const char* kName = "veil";

}  // namespace

Veil::Veil(QWidget* over) : QWidget(over) {
  setObjectName(kName);
  setAttribute(Qt::WA_TransparentForMouseEvents);
  setFocusPolicy(Qt::NoFocus);
  setGeometry(over->rect());
  over->installEventFilter(this);
}

void Veil::set(QWidget* over, bool is_veiled) {
  auto* veil = over->findChild<QWidget*>(kName, Qt::FindDirectChildrenOnly);
  if (veil == nullptr && is_veiled) veil = new Veil(over);
  if (veil == nullptr) return;
  veil->setVisible(is_veiled);
  if (is_veiled) veil->raise();
}

bool Veil::is_over(const QWidget* widget) {
  const auto* veil = widget->findChild<QWidget*>(kName, Qt::FindDirectChildrenOnly);
  return veil != nullptr && !veil->isHidden();
}

void Veil::paintEvent(QPaintEvent*) {
  QPainter p(this);
  QColor pale = theme_of(this).sheet;
  pale.setAlpha(kAlpha);
  p.fillRect(rect(), pale);
}

bool Veil::eventFilter(QObject* watched, QEvent* event) {
  if (watched == parent() && event->type() == QEvent::Resize) setGeometry(parentWidget()->rect());
  return QWidget::eventFilter(watched, event);
}

}  // namespace heron

#include "app/theme/role.h"

#include <QAccessibleWidget>
#include <QVariant>

namespace heron {
namespace {

constexpr const char* kRole = "accessible_role";

QAccessibleInterface* interface_of(const QString&, QObject* object) {
  auto* widget = qobject_cast<QWidget*>(object);
  if (widget == nullptr || !widget->property(kRole).isValid()) return nullptr;
  return new QAccessibleWidget(widget,
                               static_cast<QAccessible::Role>(widget->property(kRole).toInt()));
}

}  // namespace

void set_role(QWidget* widget, QAccessible::Role role) {
  widget->setProperty(kRole, static_cast<int>(role));
}

void install_roles() {
  QAccessible::installFactory(interface_of);
}

}  // namespace heron

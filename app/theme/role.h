#pragma once

#include <QAccessible>

class QWidget;

namespace heron {

/// What a widget that paints itself is to a screen reader; to be said before its name, which may
/// make it known already.
void set_role(QWidget* widget, QAccessible::Role role);
/// Once a program, before the first window.
void install_roles();

}  // namespace heron

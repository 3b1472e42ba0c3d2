#include "app/theme/dress.h"

#include <QApplication>
#include <QStyleFactory>

#include "app/theme/fonts.h"
#include "app/theme/role.h"
#include "app/theme/theme.h"

namespace heron {

bool dress(QApplication& application, bool is_dark) {
  QApplication::setStyle(QStyleFactory::create("Fusion"));
  install_roles();
  const bool has_fonts = load_fonts();
  apply_theme(application, is_dark ? dark_theme() : light_theme());
  return has_fonts;
}

}  // namespace heron

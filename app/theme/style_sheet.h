#pragma once

#include <QString>

#include "app/theme/theme.h"

namespace heron {

/// Fields, menus, tool tips and scroll bars; everything else paints itself.
QString style_sheet(const Theme& theme);

}  // namespace heron

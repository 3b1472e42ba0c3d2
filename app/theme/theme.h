#pragma once

#include <QColor>
#include <QPalette>
#include <array>

class QWidget;
class QApplication;

namespace heron {

/// Colours by role; two instances. Widgets ask theme_of(this), so a theme change is a palette
/// change and repaints everything.
struct Theme {
  bool is_dark = false;
  QColor paper, sheet, strip, sunk, raised, segOn, hoverPaper, hoverSheet;
  QColor ink, slate, mute, hair, hairStrong;
  QColor water, waterTint, bill, billInk, billTint;
  QColor pass, passTint, marg, margTint, fail, failTint;
  QColor floorTint, trackCaution;

  QPalette palette() const;
};

const Theme& light_theme();
const Theme& dark_theme();
/// The theme a widget is shown in.
const Theme& theme_of(const QWidget* widget);
/// Palette and style sheet for the whole application.
void apply_theme(QApplication& application, const Theme& theme);

}  // namespace heron

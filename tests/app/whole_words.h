#pragma once

#include <QtTest>
#include <QtWidgets>

#include "app/shell/main_window.h"
#include "app/widget/chip.h"
#include "app/widget/push_button.h"
#include "app/widget/segmented.h"
#include "tests/draws.h"

namespace heron::testing {

/// No visible label, button or chip of the window is cut off; at least so many were looked at.
inline void verify_whole_words(MainWindow& window, int at_least) {
  int checked = 0;
  for (const QLabel* label : window.findChildren<QLabel*>()) {
    if (!label->isVisible() || label->text().isEmpty()) continue;
    if (label->property("elides").toBool() && !label->toolTip().isEmpty()) continue;
    ++checked;
    if (label->wordWrap()) {
      QVERIFY2(label->heightForWidth(label->width()) <= label->height() + 1 ||
                   label->window() != &window || !label->isVisibleTo(&window),
               qPrintable("cut off below: " + label->text()));
    } else {
      QVERIFY2(label->fontMetrics().horizontalAdvance(label->text()) <= label->width() + 1,
               qPrintable("cut off: " + label->text()));
    }
  }
  for (const PushButton* button : window.findChildren<PushButton*>()) {
    if (!button->isVisible()) continue;
    ++checked;
    QVERIFY2(button->sizeHint().width() <= button->width() + 1,
             qPrintable("cut off: " + button->text() + " " + button->accessibleName() + " in " +
                        button->parentWidget()->metaObject()->className()));
  }
  for (const Chip* chip : window.findChildren<Chip*>()) {
    if (!chip->isVisible()) continue;
    ++checked;
    QVERIFY2(chip->sizeHint().width() <= chip->width() + 1,
             qPrintable("cut off: " + chip->accessibleName()));
  }
  for (const Segmented* choice : window.findChildren<Segmented*>()) {
    if (!choice->isVisible()) continue;
    ++checked;
    QVERIFY2(choice->sizeHint().width() <= choice->width(),
             qPrintable("cut off: " + choice->accessibleName()));
  }
  QVERIFY(checked >= at_least);
}

/// Every width that the layout knows, in both themes, as rows of a data-driven test.
inline void add_widths_and_themes() {
  QTest::addColumn<int>("width");
  QTest::addColumn<bool>("dark");
  bool is_dark_next = false;
  for (const int width : {1100, 1280, 1440, 1920}) {
    is_dark_next = !is_dark_next;
    for (const bool dark : {false, true})
      // A theme alters no geometry: where it takes long each width is looked at in one of them.
      if (!kFewDraws || dark != is_dark_next)
        QTest::newRow(qPrintable(QString("%1 %2").arg(width).arg(dark ? "dark" : "light")))
            << width << dark;
  }
}

}  // namespace heron::testing

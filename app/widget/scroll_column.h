#pragma once

#include <QScrollArea>

namespace heron {

/// A column of cards that scrolls where the window is too low for all of them.
inline QScrollArea* scroll_column(QWidget* inside) {
  auto* scroll = new QScrollArea;
  scroll->setWidget(inside);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setFocusPolicy(Qt::NoFocus);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  inside->setAutoFillBackground(false);
  scroll->viewport()->setAutoFillBackground(false);
  return scroll;
}

}  // namespace heron

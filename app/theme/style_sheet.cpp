#include "app/theme/style_sheet.h"

namespace heron {

QString style_sheet(const Theme& t) {
  QString sheet = QStringLiteral(R"css(
QToolTip { background: %raised; color: %ink; border: 1px solid %hairStrong; padding: 4px 6px; }
QMenu { background: %raised; color: %ink; border: 1px solid %hairStrong; padding: 6px 0; font-family: Inter; font-size: 12.5px; }
QMenu::item { padding: 6px 28px 6px 16px; }
QMenu::item:selected { background: %waterTint; color: %ink; }
QMenu::item:disabled { color: %mute; }
QMenu::separator { height: 1px; background: %hair; margin: 5px 0; }
QLineEdit, QPlainTextEdit { background: %sheet; color: %ink; border: 1px solid %hairStrong; border-radius: 6px; padding: 3px 8px;
  selection-background-color: %water; selection-color: %sheet; }
QLineEdit:focus, QPlainTextEdit:focus { border: 1px solid %water; }
QLineEdit:disabled, QPlainTextEdit:disabled { background: %sunk; color: %mute; }
QLineEdit[invalid="true"] { border: 1px solid %fail; }
QScrollArea { background: transparent; border: none; }
QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
QScrollBar::handle:vertical { background: %hairStrong; border-radius: 3px; min-height: 32px; margin: 0 1px; }
QScrollBar:horizontal { background: transparent; height: 8px; margin: 0; }
QScrollBar::handle:horizontal { background: %hairStrong; border-radius: 3px; min-width: 32px; margin: 1px 0; }
QAbstractScrollArea::corner { background: transparent; border: none; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QHeaderView { background: transparent; border: none; }
QHeaderView::section { background: transparent; border: none; }
QTableView { background: transparent; border: none; selection-background-color: transparent; }
QTableView#pinned { background: %sheet; border-right: 1px solid %hairStrong; }
QListView { background: transparent; border: none; outline: none; }
QListView#completion { background: %raised; color: %ink; border: 1px solid %hairStrong; padding: 4px 0; }
QListView#completion::item { padding: 5px 10px; min-height: 18px; }
QListView#completion::item:selected { background: %waterTint; color: %ink; }
)css");
  const std::pair<const char*, QColor> roles[] = {{"%hairStrong", t.hairStrong},
                                                  {"%hair", t.hair},
                                                  {"%raised", t.raised},
                                                  {"%ink", t.ink},
                                                  {"%waterTint", t.waterTint},
                                                  {"%water", t.water},
                                                  {"%mute", t.mute},
                                                  {"%sheet", t.sheet},
                                                  {"%sunk", t.sunk},
                                                  {"%fail", t.fail}};
  for (const auto& [name, colour] : roles) sheet.replace(QLatin1String(name), colour.name());
  return sheet;
}

}  // namespace heron

#include "app/widget/list_card.h"

#include <QScrollArea>
#include <QVBoxLayout>

#include "app/widget/words.h"

namespace heron {

ListCard::ListCard(const QString& heading, const QString& explanation, const QStringList& rows,
                   QWidget* window)
    : FloatingCard(heading, window), rows_(rows) {
  constexpr int kCardWidth = 560;
  constexpr int kMostHeight = 420;
  setAttribute(Qt::WA_DeleteOnClose);
  setAccessibleName(heading + ". " + rows.join(' '));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, kHead, 12, 14);
  column->setSpacing(8);
  auto* words = new Words(explanation, Type::body, Tone::slate);
  words->setWordWrap(true);
  column->addWidget(words);
  auto* inside = new QWidget;
  auto* list = new QVBoxLayout(inside);
  list->setContentsMargins(0, 0, 8, 0);
  list->setSpacing(10);
  for (const QString& row : rows) {
    auto* line = new Words(row, Type::body);
    line->setWordWrap(true);
    line->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    list->addWidget(line);
  }
  list->addStretch();
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setWidget(inside);
  // The card itself is the ground of its list.
  for (QWidget* ground : {static_cast<QWidget*>(scroll), scroll->viewport(), inside})
    ground->setStyleSheet("background: transparent;");
  column->addWidget(scroll, 1);
  setFixedWidth(kCardWidth);
  const int wanted = kHead + 60 + list->totalHeightForWidth(kCardWidth - 48);
  setFixedHeight(std::min(kMostHeight, std::max(150, wanted)));
}

}  // namespace heron

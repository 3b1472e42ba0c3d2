#include "app/widget/offer_card.h"

#include <QHBoxLayout>

#include "app/widget/words.h"

namespace heron {

OfferCard::OfferCard(PushButton* button, const QString& head, const QString& sentence,
                     QWidget* parent)
    : Card(parent) {
  constexpr int kButton = 176;
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(20, 14, 16, 14);
  row->setSpacing(16);
  auto* words = new QVBoxLayout;
  words->setSpacing(2);
  words->addWidget(new Words(head, Type::heading));
  auto* line = new Words(sentence, Type::body, Tone::slate);
  line->setWordWrap(true);
  words->addWidget(line);
  row->addLayout(words, 1);
  button->setFixedWidth(kButton);
  button->setAccessibleDescription(sentence);
  row->addWidget(button, 0, Qt::AlignVCenter);
}

}  // namespace heron

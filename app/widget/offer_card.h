#pragma once

#include "app/widget/card.h"
#include "app/widget/push_button.h"

namespace heron {

/// What somebody may do first: a head, a sentence, and the button that does it.
class OfferCard : public Card {
 public:
  OfferCard(PushButton* button, const QString& head, const QString& sentence,
            QWidget* parent = nullptr);
};

}  // namespace heron
